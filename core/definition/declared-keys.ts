import { isClosed, usableKey, type Catalogue, type Table } from '../table/catalogue';
import type { PortalDefinition } from './definition';

/**
 * The catalogue with the keys that builders gave to tables and views that have none. The database does not see to it
 * that such a key tells records apart, so they can be opened by it and not changed. One of which a column is gone, or
 * closed by a ceiling, is left out.
 */
export function withDeclaredKeys(catalogue: Catalogue, definition: Pick<PortalDefinition, 'tables'>): Catalogue {
  if (!Object.values(definition.tables).some((notes) => notes.key)) return catalogue;
  return {
    ...catalogue,
    tables: catalogue.tables.map((table) =>
      Object.hasOwn(definition.tables, table.name) ? withKey(table, definition.tables[table.name]!.key ?? []) : table,
    ),
  };
}

function withKey(table: Table, declared: readonly string[]): Table {
  const key = usableKey(table.columns, declared);
  if (
    table.key.length > 0 ||
    key.length === 0 ||
    !key.every((part) => table.columns.some((column) => column.name === part) && !isClosed(table, part))
  )
    return table;
  return {
    ...table,
    key,
    keyByWord: true,
    columns: table.columns.map((column) =>
      key.length === 1 && column.name === key[0] ? { ...column, unique: true } : column,
    ),
    ceiling: { ...table.ceiling, create: false, edit: false, delete: false },
  };
}
