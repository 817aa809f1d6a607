import { counted } from '../../../core/text/counted';
import { useState } from 'react';
import { Check, X } from 'lucide-react';
import { promisedOperations, type PortalPromise } from '../../../core/definition/definition';
import { findTable } from '../../../core/table/catalogue';
import { useMembers } from '../../client/builder';
import { usePromises, type PromiseOutcome } from '../../client/access';
import { problemText } from '../../client/http';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { firstCondition } from './choices';
import { ConditionEditor } from './ConditionEditor';
import { outcomeWords, promiseSentence } from './promise-words';
import { RoleTicks } from './RoleTicks';
import { freeId } from '../../../core/definition/free-id';
import { Select } from '../../ui/Select';
import { useNames } from '../bench/names';

/** The sentences that the draft must keep, each with what became of it. */
export function Promises() {
  const { slug, draft, catalogue, state, edit } = useBench();
  const tested = usePromises(slug, state.revision, (draft.promises ?? []).length > 0);
  const [open, setOpen] = useState<string | null>(null);
  const add = async (says: PortalPromise['says'], table: string) => {
    const id = freeId(`promise-${(draft.promises ?? []).length + 1}`, draft.promises ?? []);
    const promise: PortalPromise =
      says === 'sees exactly'
        ? { id, who: { member: '' }, says, records: 0, table }
        : {
            id,
            who: { everyone: true, exceptRoles: [] },
            says,
            operation: 'see',
            table,
            ...(says === 'may only' ? { where: firstCondition(findTable(catalogue, table)!) } : {}),
          };
    if (
      (await edit('Add a promise', (next) => {
        (next.promises ??= []).push(promise);
      })) === null
    )
      setOpen(id);
  };
  const broken = tested.data?.outcomes.filter((outcome) => !outcome.kept).length ?? 0;
  return (
    <>
      {tested.isError && <Notice kind="fault">{problemText(tested.error)}</Notice>}
      {tested.data && (draft.promises ?? []).length > 0 && (
        <Notice
          kind={broken > 0 ? 'fault' : 'say'}
          action={
            <Button small disabled={tested.isFetching} onClick={() => void tested.refetch()}>
              Test again
            </Button>
          }
        >
          {broken === 0
            ? 'Every promise is kept.'
            : `${broken} of ${counted(tested.data.outcomes.length, 'promise')} ${broken === 1 ? 'is' : 'are'} ` +
              'broken. Publishing asks for a reason then.'}
        </Notice>
      )}
      <ul className="grid gap-2">
        {(draft.promises ?? []).map((promise) => (
          <PromiseLine
            key={promise.id}
            promise={promise}
            outcome={tested.data?.outcomes.find((each) => each.id === promise.id)}
            open={open === promise.id}
            onOpen={(is) => setOpen(is ? promise.id : null)}
          />
        ))}
      </ul>
      {catalogue.tables.length > 0 && <AddPromise onAdd={(says, table) => void add(says, table)} />}
    </>
  );
}

/** What a new promise is about, said before there is one. */
function AddPromise({ onAdd }: { onAdd: (says: PortalPromise['says'], table: string) => void }) {
  const { catalogue } = useBench();
  const names = useNames();
  const [says, setSays] = useState<PortalPromise['says']>('may never');
  const [table, setTable] = useState(catalogue.tables[0]!.name);
  return (
    <form
      aria-label="Add a promise"
      className="flex flex-wrap items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        onAdd(says, table);
      }}
    >
      <span>Someone</span>
      <Select
        aria-label="What is promised"
        className="w-auto"
        value={says}
        onPick={(picked) => setSays(picked as typeof says)}
      >
        {(['may never', 'may only', 'must be able to', 'sees exactly'] as const).map((each) => (
          <option key={each} value={each}>
            {each === 'sees exactly' ? 'sees exactly so many' : each}
          </option>
        ))}
      </Select>
      <span>records of</span>
      <Select aria-label="Of which table" className="w-auto" value={table} onPick={(picked) => setTable(picked)}>
        {catalogue.tables.map((each) => (
          <option key={each.name} value={each.name}>
            {names.table(each.name)}
          </option>
        ))}
      </Select>
      <Button small type="submit">
        Add this promise
      </Button>
    </form>
  );
}

function PromiseLine({
  promise,
  outcome,
  open,
  onOpen,
}: {
  promise: PortalPromise;
  outcome: PromiseOutcome | undefined;
  open: boolean;
  onOpen: (open: boolean) => void;
}) {
  const { draft, catalogue, edit } = useBench();
  const sentence = promiseSentence(promise, draft, catalogue);
  return (
    <li
      className={
        'rounded-stone border border-l-4 border-line ' +
        `${outcome && !outcome.kept ? 'border-l-iron' : 'border-l-lichen'} p-3`
      }
    >
      <div className="flex flex-wrap items-start gap-3">
        <span className="mt-0.5">
          {outcome ? (
            outcome.kept ? (
              <Check size={17} aria-label="kept" className="text-lichen-ink" />
            ) : (
              <X size={17} aria-label="broken" className="text-iron" />
            )
          ) : null}
        </span>
        <div className="min-w-0 flex-1">
          <p className="font-semibold break-words">{sentence}</p>
          {outcome && <p className="text-sm text-soft">{outcomeWords(outcome, promise)}</p>}
        </div>
        <Button small aria-expanded={open} onClick={() => onOpen(!open)}>
          Change<span className="sr-only">: {sentence}</span>
        </Button>
        <Button
          small
          onClick={() =>
            void edit('Take back a promise', (next) => {
              next.promises = next.promises!.filter((each) => each.id !== promise.id);
            })
          }
        >
          Take back<span className="sr-only">: {sentence}</span>
        </Button>
      </div>
      {open && <Editor promise={promise} />}
    </li>
  );
}

function Editor({ promise }: { promise: PortalPromise }) {
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
            });
          }}
        >
          {promisedOperations.map((each) => (
            <option key={each}>{each}</option>
          ))}
        </Select>
        {tables}
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
