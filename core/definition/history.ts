import type { Table } from '../table/catalogue';
import type { PortalDefinition, TableNotes } from './definition';

/** How a table's history is kept; null where it is not. Without a key of the database's own nothing could be. */
export function historyOf(
  definition: Pick<PortalDefinition, 'tables'>,
  table: Table,
): NonNullable<TableNotes['history']> | null {
  const notes = Object.hasOwn(definition.tables, table.name) ? definition.tables[table.name] : undefined;
  const isKeyed = table.key.length > 0 && !table.keyByWord && table.query === undefined;
  return isKeyed ? (notes?.history ?? null) : null;
}
