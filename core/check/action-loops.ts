import { pathsOf } from '../condition/tree';
import { columnsWritten, makesOf, moveOf, type Action } from '../definition/action';
import type { PortalDefinition } from '../definition/definition';
import { findTable, type Catalogue } from '../table/catalogue';

/** The actions that each action sets off, itself or by what it makes; of those that are done by themselves. */
function setOffBy(definition: PortalDefinition, catalogue: Catalogue, action: Action): Action[] {
  const relations = findTable(catalogue, action.table)?.relations ?? [];
  const columnOf = (first: string) => relations.find(({ name }) => name === first)?.column ?? first;
  const move = moveOf(action);
  const states = (definition.lifecycles ?? [])
    .filter(({ table }) => table === action.table)
    .map(({ column }) => column);
  const written = new Set([...columnsWritten(action), ...(move === null ? [] : states)]);
  return (definition.actions ?? []).filter(({ on, table, where }) => {
    if (on?.what === 'made') return makesOf(action).some((step) => step.table === table);
    if (table !== action.table) return false;
    if (on?.what === 'moved') return move !== null && (on.move ?? move) === move;
    if (on?.what !== 'changed' || written.size === 0) return false;
    // What begins to hold does so by a column that it asks, of the record itself or along a relation from it.
    return !where || pathsOf(where).some(([first]) => first !== undefined && written.has(columnOf(first)));
  });
}

/**
 * Chains of actions that come back to where they began, each in its order: what would set itself off again and again.
 * Each once, begun by the first of the definition.
 */
export function actionLoops(definition: PortalDefinition, catalogue: Catalogue): Action[][] {
  const all = (definition.actions ?? []).filter(({ on }) => on !== undefined);
  const next = new Map(all.map((action) => [action, setOffBy(definition, catalogue, action)]));
  const loops: Action[][] = [];
  for (const first of all) {
    const way = shortestBack(first, next, new Set(all.slice(0, all.indexOf(first))));
    if (way) loops.push(way);
  }
  return loops;
}

function shortestBack(
  first: Action,
  next: ReadonlyMap<Action, Action[]>,
  without: ReadonlySet<Action>,
): Action[] | null {
  const seen = new Set<Action>();
  let ways: Action[][] = [[first]];
  while (ways.length > 0) {
    const longer: Action[][] = [];
    for (const way of ways)
      for (const after of next.get(way.at(-1)!) ?? []) {
        if (after === first) return way;
        if (seen.has(after) || without.has(after)) continue;
        seen.add(after);
        longer.push([...way, after]);
      }
    ways = longer;
  }
  return null;
}
