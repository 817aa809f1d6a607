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
import { counted } from '../../../core/text/counted';
import { useNames, type Names } from '../bench/names';
import { AddOn } from './AddOn';
import { maskChoices } from './mask-choices';
import { Rule, RuleList, someOf, useOpenRule } from './RuleList';
import { maskLeaves, MaskSettings } from './MaskSettings';
import { ForWhom, RoleTicks } from './RoleTicks';
import { freeId } from '../../../core/definition/free-id';
import { Select } from '../../ui/Select';

/**
 * Every mask of the draft: on a column or a data class, for whom, with its exceptions and what it leaves of real
 * values.
 */
export function Masks() {
  const { draft, catalogue, edit } = useBench();
  const names = useNames();
  const { setOpen } = useOpenRule();
  const add = (
    rule: Omit<Extract<MaskRule, { table: string }>, 'id'> | Omit<Extract<MaskRule, { dataClass: DataClass }>, 'id'>,
    words: string,
  ) => {
    const id = freeId(words.replaceAll(/[. ]/g, '-'), draft.masks);
    void edit(`Mask ${words}`, (next) => {
      next.masks.push({ ...rule, id } as MaskRule);
    }).then((problem) => problem === null && setOpen(id));
  };
  const fresh = { mask: { style: 'all' } as Mask, to: 'everyone' as const, exceptRoles: [] };
  return (
    <>
      {draft.masks.length > 0 && (
        <RuleList>
          {draft.masks.map((rule) => (
            <MaskCard key={rule.id} rule={rule} names={names} />
          ))}
        </RuleList>
      )}
      <div className="flex flex-wrap gap-2">
        <Select
          className="max-w-80"
          aria-label="Add a mask on a data class"
          value=""
          onPick={(picked) => {
            if (picked) add({ ...fresh, dataClass: picked as DataClass }, picked);
          }}
        >
          <option value="">add a mask on a data class …</option>
          {dataClasses.map((each) => (
            <option key={each}>{each}</option>
          ))}
        </Select>
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

function MaskCard({ rule, names }: { rule: MaskRule; names: Names }) {
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
  const words =
    'dataClass' in rule
      ? `the class ${rule.dataClass}`
      : `${names.table(rule.table)}: ${names.column(rule.table, rule.column)}`;
  const columnOf = (of: AskedOf) => {
    const found = findTable(catalogue, of.table);
    return found ? findColumn(found, of.column) : undefined;
  };
  const misfits = targets.filter((each) => {
    const column = columnOf(each);
    return column && !maskTakes(rule.mask, column);
  });
  return (
    <Rule
      id={rule.id}
      kind="Mask"
      sentence={
        <>
          <strong>{'dataClass' in rule ? `Every column of the class ${rule.dataClass}` : words}</strong> shows{' '}
          {maskChoices[rule.mask.style].words} to{' '}
          {rule.to === 'everyone' ? 'everyone' : someOf(rule.to.map(names.role))}
          {rule.exceptRoles.length > 0 && `, but not to ${someOf(rule.exceptRoles.map(names.role))}`}
          {rule.exceptMembers && ` nor to ${counted(rule.exceptMembers.length, 'member')}`}
        </>
      }
      loses={
        `${counted(targets.length, 'column')} would be shown whole to whoever sees ` +
        `${targets.length === 1 ? 'it' : 'them'}, unless another mask holds there.`
      }
      onRemove={() =>
        void edit(`Remove the mask on ${words}`, (next) => {
          next.masks = next.masks.filter((each) => each.id !== rule.id);
        })
      }
    >
      <div className="flex flex-wrap items-center gap-2">
        {'column' in rule && (
          <label className="flex items-center gap-2">
            Column of {names.table(rule.table)}
            <Select
              aria-label="Column"
              className="w-auto"
              value={rule.column}
              onPick={(name) => {
                change(`Mask ${rule.table}.${name}`, (next) => {
                  if ('column' in next) next.column = name;
                });
              }}
            >
              {table?.columns.map((each) => (
                <option key={each.name} value={each.name}>
                  {names.column(rule.table, each.name)}
                </option>
              ))}
            </Select>
          </label>
        )}
        <MaskSettings
          mask={rule.mask}
          column={'dataClass' in rule ? null : (columnOf(targets[0]!) ?? null)}
          onChange={(mask) =>
            change(`Set how ${words} is masked`, (next) => {
              next.mask = mask;
            })
          }
        />
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
          This style doesn't take the type of{' '}
          {misfits.map((each) => `${names.table(each.table)}: ${names.column(each.table, each.column)}`).join(', ')};
          there nothing is shown at all.
        </Notice>
      )}
      {targets.length === 0 ? (
        <p className="text-sm text-soft">No column has this class yet. Classes are given under Data.</p>
      ) : (
        <Samples targets={targets} mask={rule.mask} names={names} />
      )}
    </Rule>
  );
}

/** What the mask leaves of the first values of a column. */
function Samples({ targets, mask, names }: { targets: AskedOf[]; mask: Mask; names: Names }) {
  const { slug, state } = useBench();
  const [place, setPlace] = useState(0);
  const target = targets[Math.min(place, targets.length - 1)]!;
  const samples = useMaskSamples(slug, target, mask, state.revision);
  return (
    <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 rounded-stone bg-sunk px-3 py-2 text-sm">
      {targets.length > 1 ? (
        <Select aria-label="Shown on" className="w-auto" value={place} onPick={(picked) => setPlace(Number(picked))}>
          {targets.map((each, i) => (
            <option key={`${each.table}.${each.column}`} value={i}>
              {names.table(each.table)}: {names.column(each.table, each.column)}
            </option>
          ))}
        </Select>
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
  const found = useMembers(slug, { search }, 0, 6);
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
