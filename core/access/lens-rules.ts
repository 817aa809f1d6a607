import { checkCondition } from '../condition/check';
import { ceilingRows } from '../definition/ceilings';
import type { PortalDefinition, RowFilter } from '../definition/definition';
import type { ForRoles } from '../definition/section-kinds';
import { findColumn, type Catalogue, type Table } from '../table/catalogue';
import { bothRows, everyRow, type PartOrigin, type Rows } from './rows';

/** What every right on a table is bound by, whichever role has it and however it came to it. */

/** A row filter as a rule; one that the table can't answer lets nothing in. */
export type MakePart = (filter: RowFilter, origin: PartOrigin) => Rows;

/** The conditions of a table, each as a rule where it can be asked. `lacks` as in a condition's scope. */
export function partsOf(
  catalogue: Catalogue,
  table: Table,
  lacks = false,
): { sound: (filter: RowFilter, atSource?: boolean) => boolean; part: MakePart } {
  const sound = (filter: RowFilter, atSource = false): boolean =>
    filter === 'every row' || checkCondition(filter, { catalogue, table, member: true, atSource, lacks }).length === 0;
  const part = (filter: RowFilter, origin: PartOrigin): Rows =>
    !sound(filter, origin.kind === 'ceiling')
      ? 'no row'
      : filter === 'every row'
        ? everyRow
        : [{ origin, where: filter }];
  return { sound, part };
}

export function isFor(to: ForRoles, role: string): boolean {
  return to === 'everyone' || to.includes(role);
}

/** The fences that bind the role, and the rows under the ceiling. */
export function boundsOf(definition: PortalDefinition, table: Table, role: string, part: MakePart): Rows {
  const fences = (definition.fences ?? []).filter(
    (fence) => fence.table === table.name && !fence.exceptRoles.includes(role),
  );
  const parts = fences.map((fence) => part(fence.where, { kind: 'fence', id: fence.id }));
  const left = ceilingRows(table);
  if (left) parts.push(part(left, { kind: 'ceiling' }));
  return parts.reduce(bothRows, everyRow);
}

/**
 * Columns of the list that can be written at all: not what the database fills, not a lifecycle's state, not what the
 * ceiling closes.
 */
export function writable(definition: PortalDefinition, table: Table, names: string[]): Set<string> {
  const states = (definition.lifecycles ?? [])
    .filter((lifecycle) => lifecycle.table === table.name)
    .map((lifecycle) => lifecycle.column);
  return new Set(
    names.filter((name) => {
      const column = findColumn(table, name);
      return (
        column &&
        !column.automatic &&
        column.type !== 'other' &&
        !states.includes(name) &&
        table.ceiling?.columns?.[name] === undefined
      );
    }),
  );
}
