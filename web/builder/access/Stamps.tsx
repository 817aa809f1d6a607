import { useState } from 'react';
import { checkCondition } from '../../../core/condition/check';
import { describeOperand } from '../../../core/condition/describe';
import type { Stamp } from '../../../core/definition/definition';
import { findColumn, findTable } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { firstConstant } from './choices';
import { AddOn } from './Fences';
import { ForWhom } from './RoleTicks';
import { Value } from './ValueBox';
import { freeId } from '../../../core/definition/free-id';

/** Values that the server puts into columns by itself. */
export function Stamps() {
  const { draft, catalogue, edit } = useBench();
  // A new one stamps nothing before it is said what, where and for whom.
  const [fresh, setFresh] = useState<Stamp | null>(null);
  const add = (name: string) => {
    const table = findTable(catalogue, name)!;
    const column =
      table.columns.find((each) => !each.automatic && !table.key.includes(each.name) && each.type !== 'other') ??
      table.columns[0]!;
    setFresh({
      id: freeId(`${name}-stamp`, draft.stamps ?? []),
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
      {[...(draft.stamps ?? []), ...(fresh ? [fresh] : [])].map((stamp) => {
        const table = findTable(catalogue, stamp.table);
        const column = table && findColumn(table, stamp.column);
        const problem =
          table && column
            ? checkCondition(
                { kind: 'compare', left: { kind: 'column', path: [column.name] }, comparison: '=', right: stamp.value },
                { catalogue, table, member: true },
              )[0]
            : null;
        return (
          <section
            key={stamp.id}
            aria-label={`Stamp ${stamp.id}`}
            className="grid gap-3 rounded-stone border border-line p-4"
          >
            <div className="flex flex-wrap items-center gap-2">
              <span>
                When a record of <strong>{stamp.table}</strong> is
              </span>
              <select
                aria-label="When"
                className="field w-auto"
                value={stamp.on}
                onChange={(event) => {
                  const on = event.target.value as Stamp['on'];
                  change(stamp.id, `Set when ${stamp.table}.${stamp.column} is stamped`, (next) => {
                    next.on = on;
                  });
                }}
              >
                <option value="create">made</option>
                <option value="change">changed</option>
                <option value="create and change">made or changed</option>
                <option value="left empty">made and this is left empty</option>
              </select>
              <select
                aria-label="Column"
                className="field w-auto"
                value={stamp.column}
                onChange={(event) => {
                  const name = event.target.value;
                  change(stamp.id, `Stamp ${stamp.table}.${name}`, (next) => {
                    next.column = name;
                    next.value = firstConstant(findColumn(table!, name)!) as Stamp['value'];
                  });
                }}
              >
                {table?.columns
                  .filter((each) => !each.automatic)
                  .map((each) => (
                    <option key={each.name}>{each.name}</option>
                  ))}
              </select>
              <span>becomes</span>
              <Value
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
              {stamp !== fresh && (
                <Button
                  small
                  className="ml-auto"
                  onClick={() =>
                    void edit(`Remove a stamp of ${stamp.table}`, (next) => {
                      next.stamps = next.stamps!.filter((each) => each.id !== stamp.id);
                    })
                  }
                >
                  Remove<span className="sr-only"> the stamp {stamp.id}</span>
                </Button>
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
          </section>
        );
      })}
      <AddOn words="a stamp on" onAdd={add} />
    </>
  );
}
