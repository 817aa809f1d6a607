import { useState } from 'react';
import { dataClasses, dataClassOf, type DataClass, type MaskRule } from '../../../core/definition/definition';
import { maskLabel, maskTakes, type Mask } from '../../../core/mask/mask';
import { findColumn, findTable } from '../../../core/table/catalogue';
import { useMembers } from '../../client/builder';
import { useMaskSamples, type AskedOf } from '../../client/access';
import { problemText } from '../../client/http';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { AddOn } from './Fences';
import { maskLeaves, MaskSettings } from './MaskSettings';
import { ForWhom, RoleTicks } from './RoleTicks';
import { freeId } from '../../../core/definition/free-id';

/**
 * Every mask of the draft: on a column or a data class, for whom, with its exceptions and what it leaves of real
 * values.
 */
export function Masks() {
  const { draft, catalogue, edit } = useBench();
  const add = (
    rule: Omit<Extract<MaskRule, { table: string }>, 'id'> | Omit<Extract<MaskRule, { dataClass: DataClass }>, 'id'>,
    words: string,
  ) =>
    void edit(`Mask ${words}`, (next) => {
      next.masks.push({ ...rule, id: freeId(words.replaceAll(/[. ]/g, '-'), next.masks) } as MaskRule);
    });
  const fresh = { mask: { style: 'all' } as Mask, to: 'everyone' as const, exceptRoles: [] };
  return (
    <>
      {draft.masks.map((rule) => (
        <MaskCard key={rule.id} rule={rule} />
      ))}
      <div className="flex flex-wrap gap-2">
        <select
          className="field max-w-80"
          aria-label="Add a mask on a data class"
          value=""
          onChange={(event) => {
            if (event.target.value) add({ ...fresh, dataClass: event.target.value as DataClass }, event.target.value);
          }}
        >
          <option value="">add a mask on a data class …</option>
          {dataClasses.map((each) => (
            <option key={each}>{each}</option>
          ))}
        </select>
        <AddOn
          words="a mask on a column of"
          onAdd={(table) => {
            const column =
              findTable(catalogue, table)!.columns.find(
                (each) => !findTable(catalogue, table)!.key.includes(each.name),
              ) ?? findTable(catalogue, table)!.columns[0]!;
            add({ ...fresh, table, column: column.name }, `${table}.${column.name}`);
          }}
        />
      </div>
    </>
  );
}

function MaskCard({ rule }: { rule: MaskRule }) {
  const { draft, catalogue, edit } = useBench();
  const change = (label: string, recipe: (rule: MaskRule) => void) =>
    void edit(label, (next) => recipe(next.masks.find((each) => each.id === rule.id)!));
  const targets: AskedOf[] =
    'dataClass' in rule
      ? catalogue.tables.flatMap((table) =>
          table.columns
            .filter((column) => dataClassOf(draft, table, column.name) === rule.dataClass)
            .map((column) => ({ table: table.name, column: column.name })),
        )
      : [{ table: rule.table, column: rule.column }];
  const table = 'dataClass' in rule ? null : findTable(catalogue, rule.table);
  const words = 'dataClass' in rule ? `the class ${rule.dataClass}` : `${rule.table}.${rule.column}`;
  const columnOf = (of: AskedOf) => {
    const found = findTable(catalogue, of.table);
    return found ? findColumn(found, of.column) : undefined;
  };
  const misfits = targets.filter((each) => {
    const column = columnOf(each);
    return column && !maskTakes(rule.mask, column);
  });
  return (
    <section aria-label={`Mask ${rule.id}`} className="grid gap-3 rounded-stone border border-line p-4">
      <div className="flex flex-wrap items-center gap-2">
        <h2 className="mr-auto text-base">
          {'dataClass' in rule ? (
            <>Every column of the class {rule.dataClass}</>
          ) : (
            <>
              {rule.table}.{' '}
              <select
                aria-label="Column"
                className="field inline-block w-auto font-sans text-sm font-normal"
                value={rule.column}
                onChange={(event) => {
                  const name = event.target.value;
                  change(`Mask ${rule.table}.${name}`, (next) => {
                    if ('column' in next) next.column = name;
                  });
                }}
              >
                {table?.columns.map((each) => (
                  <option key={each.name}>{each.name}</option>
                ))}
              </select>
            </>
          )}
        </h2>
        <MaskSettings
          mask={rule.mask}
          column={'dataClass' in rule ? null : (columnOf(targets[0]!) ?? null)}
          onChange={(mask) =>
            change(`Set how ${words} is masked`, (next) => {
              next.mask = mask;
            })
          }
        />
        <Button
          small
          onClick={() =>
            void edit(`Remove the mask on ${words}`, (next) => {
              next.masks = next.masks.filter((each) => each.id !== rule.id);
            })
          }
        >
          Remove<span className="sr-only"> the mask {rule.id}</span>
        </Button>
      </div>
      <div className="grid items-start gap-3 md:grid-cols-2">
        <ForWhom
          legend="It holds for"
          value={rule.to}
          onChange={(to) =>
            change(`Set for whom ${words} is masked`, (next) => {
              next.to = to(next.to);
            })
          }
        />
        <div className="grid content-start gap-2">
          <RoleTicks
            legend="but not for the roles"
            ticked={rule.exceptRoles}
            onChange={(tick) =>
              change(`Set who is excepted from the mask on ${words}`, (next) => {
                next.exceptRoles = tick(next.exceptRoles);
              })
            }
          />
          <ExceptedMembers
            emails={rule.exceptMembers ?? []}
            onChange={(emails) =>
              change(`Set which members are excepted from the mask on ${words}`, (next) => {
                if (emails.length > 0) next.exceptMembers = emails;
                else delete next.exceptMembers;
              })
            }
          />
        </div>
      </div>
      <p className="text-sm text-soft">{maskLeaves(rule.mask)}</p>
      {misfits.length > 0 && (
        <Notice kind="warn">
          This style doesn't take the type of {misfits.map((each) => `${each.table}.${each.column}`).join(', ')}; there
          nothing is shown at all.
        </Notice>
      )}
      {targets.length === 0 ? (
        <p className="text-sm text-soft">No column has this class yet. Classes are given under Data.</p>
      ) : (
        <Samples targets={targets} mask={rule.mask} />
      )}
    </section>
  );
}

/** What the mask leaves of the first values of a column. */
function Samples({ targets, mask }: { targets: AskedOf[]; mask: Mask }) {
  const { slug, state } = useBench();
  const [place, setPlace] = useState(0);
  const target = targets[Math.min(place, targets.length - 1)]!;
  const samples = useMaskSamples(slug, target, mask, state.revision);
  return (
    <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 rounded-stone bg-sunk px-3 py-2 text-sm">
      {targets.length > 1 ? (
        <select
          aria-label="Shown on"
          className="field w-auto"
          value={place}
          onChange={(event) => setPlace(Number(event.target.value))}
        >
          {targets.map((each, i) => (
            <option key={`${each.table}.${each.column}`} value={i}>
              {each.table}.{each.column}
            </option>
          ))}
        </select>
      ) : (
        <span className="text-soft">{maskLabel(mask)}:</span>
      )}
      {samples.isError && <span className="text-iron">{problemText(samples.error)}</span>}
      {samples.data?.samples.length === 0 && <span className="text-soft">there is no value yet</span>}
      {samples.data?.samples.map((each, i) => (
        <span key={i} className="whitespace-nowrap">
          <span className="text-soft">{String(each.value)}</span> →{' '}
          <strong className="text-ochre">{each.masked ?? 'nothing'}</strong>
        </span>
      ))}
    </div>
  );
}

function ExceptedMembers({ emails, onChange }: { emails: string[]; onChange: (emails: string[]) => void }) {
  const { slug } = useBench();
  const [search, setSearch] = useState('');
  const found = useMembers(slug, search, null, 0, 6);
  return (
    <div className="grid gap-1 text-sm">
      <span className="font-semibold">nor for the members</span>
      <div className="flex flex-wrap gap-1.5">
        {emails.map((email) => (
          <button
            key={email}
            type="button"
            className="mark"
            aria-label={`Take ${email} out`}
            onClick={() => onChange(emails.filter((each) => each !== email))}
          >
            {email} ×
          </button>
        ))}
      </div>
      <input
        className="field"
        type="search"
        aria-label="Find a member to except"
        placeholder="Find by name or e-mail"
        value={search}
        onChange={(event) => setSearch(event.target.value)}
      />
      {search !== '' && (
        <div className="flex flex-wrap gap-1.5">
          {found.data?.members
            .filter((each) => !emails.includes(each.email))
            .map((each) => (
              <Button
                key={each.id}
                small
                onClick={() => {
                  onChange([...emails, each.email]);
                  setSearch('');
                }}
              >
                {each.name}
              </Button>
            ))}
        </div>
      )}
    </div>
  );
}
