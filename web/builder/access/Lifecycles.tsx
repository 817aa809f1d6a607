import { lazy, Suspense } from 'react';
import type { Lifecycle, Move } from '../../../core/definition/definition';
import { findColumn, findTable, type Column, type Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { firstCondition } from './choices';
import { ConditionEditor } from './ConditionEditor';
import { counted } from '../../../core/text/counted';
import { useNames } from '../bench/names';
import { AddOn } from './AddOn';
import { Rule, RuleList, useOpenRule } from './RuleList';
import { RoleTicks, ticking } from './RoleTicks';
import { freeId } from '../../../core/definition/free-id';
import { Select } from '../../ui/Select';

const Drawing = lazy(() => import('./LifecycleDrawing'));

/** The states of records and who may take them from one to the next: drawn, and as a table. */
export function Lifecycles() {
  const { draft, catalogue, edit } = useBench();
  const all = draft.lifecycles ?? [];
  const stateColumns = (name: string) =>
    findTable(catalogue, name)?.columns.filter((column) => column.type === 'one choice') ?? [];
  const free = (name: string) => stateColumns(name).length > 0 && !all.some((each) => each.table === name);
  const { setOpen } = useOpenRule();
  const add = (name: string) =>
    void edit(`Give ${name} a lifecycle`, (next) => {
      (next.lifecycles ??= []).push({ table: name, ...inOrder(stateColumns(name)[0]!) });
    }).then((problem) => problem === null && setOpen(name));
  return (
    <>
      <RuleList>
        {all.map((lifecycle) => {
          const table = findTable(catalogue, lifecycle.table);
          return table ? (
            <Editor key={lifecycle.table} lifecycle={lifecycle} table={table} />
          ) : (
            <Notice key={lifecycle.table} kind="fault">
              There is no table {lifecycle.table} any more.
            </Notice>
          );
        })}
      </RuleList>
      <AddOn words="a lifecycle of" onAdd={add} only={free} />
      <p className="text-sm text-soft">A table needs a column of one choice, whose choices are its states.</p>
    </>
  );
}

/** A lifecycle to begin with: each state leads to the next, and nobody may make a move yet. */
function inOrder(column: Column): Pick<Lifecycle, 'column' | 'moves'> {
  const moves: Move[] = [];
  const states = column.choices ?? [];
  states.slice(1).forEach((to, i) => moves.push(moveTo(to, [states[i]!], moves)));
  return { column: column.name, moves };
}

function moveTo(to: string, from: string[], others: readonly Move[]): Move {
  return {
    id: freeId(`to-${to}`, others),
    name: to.charAt(0).toUpperCase() + to.slice(1),
    from,
    to,
    roles: [],
    needs: [],
  };
}

function Editor({ lifecycle, table }: { lifecycle: Lifecycle; table: Table }) {
  const { draft, edit } = useBench();
  const names = useNames();
  const column = findColumn(table, lifecycle.column);
  const states = column?.choices ?? [];
  const change = (label: string, recipe: (lifecycle: Lifecycle) => void) =>
    edit(label, (next) => recipe(next.lifecycles!.find((each) => each.table === lifecycle.table)!));
  const changeMove = (move: Move, label: string, recipe: (move: Move) => void) =>
    change(label, (next) => recipe(next.moves.find((each) => each.id === move.id)!));
  const addMove = (from: string, to: string) =>
    void change(`Add a move of ${table.name}`, (next) => {
      next.moves.push(moveTo(to, [from], next.moves));
    });
  const others = table.columns
    .filter((each) => !each.automatic && each.name !== lifecycle.column)
    .map((each) => each.name);
  return (
    <Rule
      id={table.name}
      kind="Lifecycle"
      sentence={
        <>
          <strong>{names.table(table.name)}</strong> go by {counted(lifecycle.moves.length, 'move')} through{' '}
          {counted(states.length, 'state')} of {names.column(table.name, lifecycle.column)}
          {lifecycle.start && `, beginning as ${lifecycle.start}`}
        </>
      }
      loses={
        `${names.column(table.name, lifecycle.column)} of ${names.table(table.name)} can then be set to any of its ` +
        `${counted(states.length, 'state')} by whoever may edit it.`
      }
      onRemove={() =>
        void edit(`Take the lifecycle off ${table.name}`, (next) => {
          next.lifecycles = next.lifecycles!.filter((each) => each.table !== lifecycle.table);
        })
      }
    >
      <div className="flex flex-wrap items-center gap-3">
        <label className="flex items-center gap-2 text-sm">
          states in
          <Select
            className="w-auto"
            value={lifecycle.column}
            onPick={(name) => {
              void change(`Keep the states of ${table.name} in ${name}`, (next) => {
                Object.assign(next, inOrder(findColumn(table, name)!));
                delete next.start;
              });
            }}
          >
            {table.columns
              .filter((each) => each.type === 'one choice')
              .map((each) => (
                <option key={each.name} value={each.name}>
                  {names.column(table.name, each.name)}
                </option>
              ))}
          </Select>
        </label>
        <label className="flex items-center gap-2 text-sm">
          a new one is
          <Select
            className="w-auto"
            value={lifecycle.start ?? ''}
            onPick={(start) => {
              void change(`Set how ${table.name} begins`, (next) => {
                if (start) next.start = start;
                else delete next.start;
              });
            }}
          >
            <option value="">as the database says</option>
            {states.map((each) => (
              <option key={each}>{each}</option>
            ))}
          </Select>
        </label>
      </div>
      <Suspense fallback={<Skeleton lines={4} />}>
        <Drawing states={states} lifecycle={lifecycle} />
      </Suspense>
      <ul className="grid gap-3">
        {lifecycle.moves.map((move) => (
          <li key={move.id} aria-label={`Move ${move.name}`} className="grid gap-2 border-t border-line pt-3">
            <div className="flex flex-wrap items-center gap-2">
              <input
                className="field w-36 font-semibold"
                aria-label="Name of the move"
                key={move.name}
                defaultValue={move.name}
                maxLength={120}
                onBlur={(event) => {
                  const name = event.target.value.trim();
                  if (name && name !== move.name)
                    void changeMove(move, `Call a move ${name}`, (next) => {
                      next.name = name;
                    });
                }}
              />
              <fieldset className="flex flex-wrap items-center gap-x-3">
                <legend className="sr-only">From the states</legend>
                <span className="text-sm text-soft">from</span>
                {states.map((state) => (
                  <label key={state} className="inline-flex min-h-6 items-center gap-1 text-sm">
                    <input
                      type="checkbox"
                      checked={move.from.includes(state)}
                      onChange={(event) => {
                        const tick = ticking(states, state, event.target.checked);
                        void changeMove(move, `Set where ${move.name} begins`, (next) => {
                          const from = tick(next.from);
                          if (from.length > 0) next.from = from;
                        });
                      }}
                    />{' '}
                    {state}
                  </label>
                ))}
              </fieldset>
              <label className="flex items-center gap-2 text-sm text-soft">
                to
                <Select
                  className="w-auto text-ink"
                  value={move.to}
                  onPick={(to) => {
                    void changeMove(move, `Set where ${move.name} ends`, (next) => {
                      next.to = to;
                    });
                  }}
                >
                  {states.map((each) => (
                    <option key={each}>{each}</option>
                  ))}
                </Select>
              </label>
              <Button
                small
                className="ml-auto"
                onClick={() =>
                  void change(`Remove the move ${move.name}`, (next) => {
                    next.moves = next.moves.filter((each) => each.id !== move.id);
                  })
                }
              >
                Remove<span className="sr-only"> the move {move.name}</span>
              </Button>
            </div>
            <RoleTicks
              legend="by"
              ticked={move.roles}
              onChange={(tick) =>
                void changeMove(move, `Set who may ${move.name}`, (next) => {
                  next.roles = tick(next.roles);
                })
              }
            />
            {move.roles.length === 0 && <p className="text-sm text-iron">Nobody may make this move yet.</p>}
            <fieldset>
              <legend className="text-sm font-semibold">filled in by then</legend>
              <div className="flex flex-wrap gap-x-4 gap-y-1">
                {others.map((name) => (
                  <label key={name} className="inline-flex min-h-6 items-center gap-1.5 text-sm">
                    <input
                      type="checkbox"
                      checked={move.needs.includes(name)}
                      onChange={(event) => {
                        const tick = ticking(others, name, event.target.checked);
                        void changeMove(move, `Set what ${move.name} needs`, (next) => {
                          next.needs = tick(next.needs);
                        });
                      }}
                    />{' '}
                    {names.column(table.name, name)}
                  </label>
                ))}
              </div>
            </fieldset>
            {move.where ? (
              <div className="grid gap-1">
                <span className="text-sm font-semibold">only when</span>
                <ConditionEditor
                  table={table}
                  name={`When ${move.name}`}
                  value={move.where}
                  onChange={(where) =>
                    changeMove(move, `Set when ${move.name} may be made`, (next) => {
                      next.where = where;
                    })
                  }
                />
                <div>
                  <Button
                    small
                    onClick={() =>
                      void changeMove(move, `Let ${move.name} be made always`, (next) => {
                        delete next.where;
                      })
                    }
                  >
                    Always
                  </Button>
                </div>
              </div>
            ) : (
              <div>
                <Button
                  small
                  onClick={() =>
                    void changeMove(move, `Set when ${move.name} may be made`, (next) => {
                      next.where = firstCondition(table);
                    })
                  }
                >
                  Only when …
                </Button>
              </div>
            )}
          </li>
        ))}
      </ul>
      {states.length > 1 && (
        <div>
          <Button
            small
            onClick={() =>
              addMove(
                lifecycle.moves.at(-1)?.to ?? lifecycle.start ?? states[0]!,
                states[
                  Math.min(
                    states.length - 1,
                    states.indexOf(lifecycle.moves.at(-1)?.to ?? lifecycle.start ?? states[0]!) + 1,
                  )
                ]!,
              )
            }
          >
            + move
          </Button>
        </div>
      )}
      {draft.roles.length === 0 && <p className="text-soft">There are no roles yet.</p>}
    </Rule>
  );
}
