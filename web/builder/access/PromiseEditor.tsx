import { useState } from 'react';
import { promisedOperations, type PortalPromise, type PromisedOperation } from '../../../core/definition/promise';
import { findTable } from '../../../core/table/catalogue';
import { useMembers } from '../../client/builder';
import { Button } from '../../ui/Button';
import { useBench } from '../bench/bench-context';
import { firstCondition } from './choices';
import { ConditionEditor } from './ConditionEditor';
import { operationWords } from './promise-words';
import { StepChoice } from './StepChoice';
import { RoleTicks } from './RoleTicks';
import { Select } from '../../ui/Select';
import { useNames } from '../bench/names';

/** Whether it is done by one of the table's moves or actions, with a record as a whole. */
const isOfSteps = (operation: PromisedOperation) => operation === 'move' || operation === 'act';

/** What a promise says, to be changed. */
export function PromiseEditor({ promise }: { promise: PortalPromise }) {
  const names = useNames();
  const { draft, catalogue, edit } = useBench();
  const change = (label: string, recipe: (promise: PortalPromise) => void) =>
    edit(label, (next) => recipe(next.promises!.find((each) => each.id === promise.id)!));
  const table = findTable(catalogue, promise.table);
  const setTable = (name: string) =>
    void change('Change a promise', (next) => {
      next.table = name;
      if ('operation' in next) {
        delete next.column;
        delete next.step;
        delete next.where;
      }
    });
  const tables = (
    <Select aria-label="Table" className="w-auto" value={promise.table} onPick={(picked) => setTable(picked)}>
      {catalogue.tables.map((each) => (
        <option key={each.name} value={each.name}>
          {names.table(each.name)}
        </option>
      ))}
    </Select>
  );
  if (promise.says === 'sees exactly') {
    return (
      <div className="mt-3 flex flex-wrap items-center gap-2">
        <MemberByName
          email={promise.who.member}
          onChange={(member) =>
            void change('Change a promise', (next) => {
              next.who = { member };
            })
          }
        />{' '}
        sees exactly
        <input
          type="number"
          min={0}
          aria-label="How many records"
          className="field w-24"
          key={promise.records}
          defaultValue={promise.records}
          onBlur={(event) => {
            const records = Number(event.target.value);
            if (Number.isInteger(records) && records >= 0 && records !== promise.records)
              void change('Change a promise', (next) => {
                if (next.says === 'sees exactly') next.records = records;
              });
          }}
        />{' '}
        records of {tables}
      </div>
    );
  }
  const set = (recipe: (next: Extract<PortalPromise, { operation: string }>) => void) =>
    void change('Change a promise', (next) => {
      if (next.says !== 'sees exactly') recipe(next);
    });
  return (
    <div className="mt-3 grid gap-2">
      <div className="flex flex-wrap items-center gap-2">
        <Select
          aria-label="Who"
          className="w-auto"
          value={'member' in promise.who ? 'member' : 'role' in promise.who ? promise.who.role : ''}
          onPick={(who) => {
            set((next) => {
              next.who = who === 'member' ? { member: '' } : who ? { role: who } : { everyone: true, exceptRoles: [] };
            });
          }}
        >
          <option value="">everyone</option>
          <optgroup label="a role">
            {draft.roles.map((role) => (
              <option key={role.id} value={role.id}>
                {role.name}
              </option>
            ))}
          </optgroup>
          <option value="member">one member</option>
        </Select>
        {'member' in promise.who && (
          <MemberByName
            email={promise.who.member}
            onChange={(member) =>
              set((next) => {
                next.who = { member };
              })
            }
          />
        )}
        <Select
          aria-label="Says"
          className="w-auto"
          value={promise.says}
          onPick={(picked) => {
            const says = picked as typeof promise.says;
            set((next) => {
              next.says = says;
              if (next.says === 'may only' && !next.where && table) next.where = firstCondition(table);
            });
          }}
        >
          {['may never', 'may only', 'must be able to'].map((each) => (
            <option key={each}>{each}</option>
          ))}
        </Select>
        <Select
          aria-label="Does what"
          className="w-auto"
          value={promise.operation}
          onPick={(picked) => {
            const operation = picked as typeof promise.operation;
            set((next) => {
              next.operation = operation;
              delete next.step;
              if (isOfSteps(operation)) delete next.column;
            });
          }}
        >
          {promisedOperations.map((each) => (
            <option key={each} value={each}>
              {operationWords[each]}
            </option>
          ))}
        </Select>
        {tables}
        {isOfSteps(promise.operation) ? (
          <StepChoice
            promise={promise}
            onPick={(step) =>
              set((next) => {
                if (step) next.step = step;
                else delete next.step;
              })
            }
          />
        ) : (
          <Select
            aria-label="Column"
            className="w-auto"
            value={promise.column ?? ''}
            onPick={(column) => {
              set((next) => {
                if (column) next.column = column;
                else delete next.column;
              });
            }}
          >
            <option value="">the record</option>
            {table?.columns.map((each) => (
              <option key={each.name} value={each.name}>
                {names.column(promise.table, each.name)}
              </option>
            ))}
          </Select>
        )}
        {table && (
          <label className="inline-flex min-h-6 items-center gap-1.5 text-sm">
            <input
              type="checkbox"
              checked={promise.where !== undefined}
              disabled={promise.says === 'may only'}
              onChange={(event) => {
                const given = event.target.checked;
                set((next) => {
                  if (given) next.where = firstCondition(table);
                  else delete next.where;
                });
              }}
            />{' '}
            only records where …
          </label>
        )}
      </div>
      {'everyone' in promise.who && (
        <RoleTicks
          legend="but"
          ticked={promise.who.exceptRoles}
          onChange={(tick) =>
            set((next) => {
              if ('everyone' in next.who) next.who = { everyone: true, exceptRoles: tick(next.who.exceptRoles) };
            })
          }
        />
      )}
      {promise.where && table && (
        <ConditionEditor
          table={table}
          name="Promised records"
          value={promise.where}
          onChange={(where) =>
            change('Change a promise', (next) => {
              if (next.says !== 'sees exactly') next.where = where;
            })
          }
        />
      )}
    </div>
  );
}

function MemberByName({ email, onChange }: { email: string; onChange: (email: string) => void }) {
  const { slug } = useBench();
  const [search, setSearch] = useState<string | null>(null);
  const found = useMembers(slug, { search: search ?? '' }, 0, 6);
  return (
    <span className="inline-flex flex-wrap items-center gap-1.5">
      <input
        className="field w-56"
        type="search"
        aria-label="Member"
        placeholder="Find by name or e-mail"
        value={search ?? email}
        onChange={(event) => setSearch(event.target.value)}
      />
      {search !== null &&
        found.data?.members.map((each) => (
          <Button
            key={each.id}
            small
            onClick={() => {
              onChange(each.email);
              setSearch(null);
            }}
          >
            {each.name}
          </Button>
        ))}
    </span>
  );
}
