import { useState } from 'react';
import { checkCondition } from '../../../core/condition/check';
import { describeOperand } from '../../../core/condition/describe';
import type { Stamp } from '../../../core/definition/definition';
import { findColumn, findTable } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { firstConstant } from './choices';
import { useNames } from '../bench/names';
import { AddOn } from './AddOn';
import { Rule, RuleList, someOf, useOpenRule } from './RuleList';
import { ForWhom } from './RoleTicks';
import { Value } from './ValueBox';
import { freeId } from '../../../core/definition/free-id';
import { Select } from '../../ui/Select';

const stampWords: Record<Stamp['on'], string> = {
  create: 'made',
  change: 'changed',
  'create and change': 'made or changed',
  'left empty': 'made and this is left empty',
};

/** Values that the server puts into columns by itself. */
export function Stamps() {
  const { draft, catalogue, edit } = useBench();
  // A new one stamps nothing before it is said what, where and for whom.
  const [fresh, setFresh] = useState<Stamp | null>(null);
  const names = useNames();
  const { setOpen } = useOpenRule();
  const all = [...(draft.stamps ?? []), ...(fresh ? [fresh] : [])];
  const add = (name: string) => {
    const table = findTable(catalogue, name)!;
    const column =
      table.columns.find((each) => !each.automatic && !table.key.includes(each.name) && each.type !== 'other') ??
      table.columns[0]!;
    const id = freeId(`${name}-stamp`, draft.stamps ?? []);
    setOpen(id);
    setFresh({
      id,
      table: name,
      column: column.name,
      on: 'create',
      value: firstConstant(column) as Stamp['value'],
      to: 'everyone',
    });
  };
  const keep = () =>
    void edit(`Stamp ${fresh!.table}.${fresh!.column}`, (next) => {
      (next.stamps ??= []).push(fresh!);
    }).then((problem) => {
      if (problem === null) setFresh(null);
    });
  const change = (id: string, label: string, recipe: (stamp: Stamp) => void) => {
    if (id !== fresh?.id) return void edit(label, (next) => recipe(next.stamps!.find((each) => each.id === id)!));
    const next = structuredClone(fresh);
    recipe(next);
    setFresh(next);
  };
  return (
    <>
      {all.length > 0 && (
        <RuleList>
          {all.map((stamp) => {
            const table = findTable(catalogue, stamp.table);
            const column = table && findColumn(table, stamp.column);
            const problem =
              table && column
                ? checkCondition(
                    {
                      kind: 'compare',
                      left: { kind: 'column', path: [column.name] },
                      comparison: '=',
                      right: stamp.value,
                    },
                    { catalogue, table, member: true },
                  )[0]
                : null;
            return (
              <Rule
                key={stamp.id}
                id={stamp.id}
                kind="Stamp"
                sentence={
                  <>
                    When a record of <strong>{names.table(stamp.table)}</strong> is {stampWords[stamp.on]},{' '}
                    <strong>{names.column(stamp.table, stamp.column)}</strong> becomes {describeOperand(stamp.value)}
                    {stamp.to !== 'everyone' && `, of ${someOf(stamp.to.map(names.role))}`}
                  </>
                }
                loses={`${names.column(stamp.table, stamp.column)} is then filled by whoever may, and by nobody else.`}
                onRemove={
                  stamp === fresh
                    ? undefined
                    : () =>
                        void edit(`Remove a stamp of ${stamp.table}`, (next) => {
                          next.stamps = next.stamps!.filter((each) => each.id !== stamp.id);
                        })
                }
              >
                <div className="flex flex-wrap items-center gap-2">
                  <span>When one is</span>
                  <Select
                    aria-label="When"
                    className="w-auto"
                    value={stamp.on}
                    onPick={(picked) => {
                      const on = picked as Stamp['on'];
                      change(stamp.id, `Set when ${stamp.table}.${stamp.column} is stamped`, (next) => {
                        next.on = on;
                      });
                    }}
                  >
                    {Object.entries(stampWords).map(([on, words]) => (
                      <option key={on} value={on}>
                        {words}
                      </option>
                    ))}
                  </Select>
                  <Select
                    aria-label="Column"
                    className="w-auto"
                    value={stamp.column}
                    onPick={(name) => {
                      change(stamp.id, `Stamp ${stamp.table}.${name}`, (next) => {
                        next.column = name;
                        next.value = firstConstant(findColumn(table!, name)!) as Stamp['value'];
                      });
                    }}
                  >
                    {table?.columns
                      .filter((each) => !each.automatic)
                      .map((each) => (
                        <option key={each.name} value={each.name}>
                          {names.column(stamp.table, each.name)}
                        </option>
                      ))}
                  </Select>
                  <span>becomes</span>
                  <Value
                    at={table}
                    column={column}
                    plain={false}
                    operand={stamp.value}
                    onChange={(operand) =>
                      change(stamp.id, `Set what ${stamp.table}.${stamp.column} is stamped with`, (next) => {
                        next.value = operand as Stamp['value'];
                      })
                    }
                  />
                  {stamp === fresh && (
                    <span className="ml-auto flex gap-2">
                      <Button small weight="main" onClick={keep}>
                        Add this stamp
                      </Button>
                      <Button small onClick={() => setFresh(null)}>
                        Cancel
                      </Button>
                    </span>
                  )}
                </div>
                <ForWhom
                  legend="Of"
                  value={stamp.to}
                  onChange={(to) =>
                    change(stamp.id, `Set whose ${stamp.table}.${stamp.column} is stamped`, (next) => {
                      next.to = to(next.to);
                    })
                  }
                />
                {problem && <Notice kind="warn">{problem.reason}</Notice>}
                {!column && (
                  <Notice kind="fault">
                    There is no column {stamp.table}.{stamp.column} any more; nothing is stamped with{' '}
                    {describeOperand(stamp.value)}.
                  </Notice>
                )}
              </Rule>
            );
          })}
        </RuleList>
      )}
      <AddOn words="a stamp on" onAdd={add} />
    </>
  );
}
