import { existsOf, pathsOf, type Condition } from '../condition/tree';
import type { Action } from '../definition/action';
import type { PortalDefinition } from '../definition/definition';
import { findTable, isPathProblem, resolvePath, type Catalogue, type Table } from '../table/catalogue';
import type { Person } from './person';
import type { Rows } from './rows';
import { viewOf } from './view';

/**
 * Whether somebody sees every column that a condition asks whole, in every record of theirs, so that its constants tell
 * them nothing. A condition on related records is none of that kind.
 */
export function seesWhole(
  definition: PortalDefinition,
  catalogue: Catalogue,
  table: Table,
  where: Condition,
  person: Person,
): boolean {
  if (existsOf(where).length > 0) return false;
  const isWhole = (of: Table, column: string): boolean => {
    const lenses = viewOf(definition, catalogue, of, person).lenses.filter(({ rows }) => rows !== 'no row');
    const showing = lenses.filter(({ columns }) => columns.get(column)?.level === 'shown').map(({ rows }) => rows);
    // What one lens leaves out another may show, of every record that the one lets through.
    return lenses.length > 0 && lenses.every(({ rows }) => showing.some((wide) => isWithin(rows, wide)));
  };
  return pathsOf(where).every((path) => {
    const found = resolvePath(catalogue, table, path);
    if (isPathProblem(found)) return false;
    let at = table;
    for (const step of found.steps) {
      if (!isWhole(at, step.column)) return false;
      at = findTable(catalogue, step.table)!;
    }
    return isWhole(at, found.column.name);
  });
}

/**
 * Whether somebody can be told with which of their records an action can be done: nothing that decides it is kept from
 * them.
 */
export function canBeTold(
  definition: PortalDefinition,
  catalogue: Catalogue,
  table: Table,
  action: Action,
  person: Person,
): boolean {
  const own = viewOf(definition, catalogue, table, person).lenses.flatMap(({ actions }) => actions);
  return own
    .filter((each) => each.action.id === action.id)
    .every(({ where, move }) => {
      const asked: Condition[] = where === 'no row' ? [] : where.map((part) => part.where);
      if (move) asked.push({ kind: 'null', left: { kind: 'column', path: [move.column] } });
      return asked.every((each) => seesWhole(definition, catalogue, table, each, person));
    });
}

/** Whether rows are surely among others: they ask all that those ask. */
function isWithin(rows: Rows, wide: Rows): boolean {
  if (rows === 'no row') return true;
  const asked = new Set(rows.map((part) => JSON.stringify(part.where)));
  return wide !== 'no row' && wide.every((part) => asked.has(JSON.stringify(part.where)));
}
