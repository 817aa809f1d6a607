import { findColumn, type Catalogue, type Table } from '../table/catalogue';
import type { PortalDefinition } from './definition';

/**
 * The catalogue with the columns that name records as the definition says, where those tell records apart: unique, and
 * always filled. Elsewhere the key stays.
 */
export function withAddresses(
  catalogue: Catalogue,
  definition: Pick<PortalDefinition, 'tables' | 'rosters'>,
): Catalogue {
  if (!Object.values(definition.tables).some((notes) => notes.address !== undefined)) return catalogue;
  const tables = catalogue.tables.map((table): Table => {
    const address = Object.hasOwn(definition.tables, table.name) ? definition.tables[table.name]!.address : undefined;
    const column = address === undefined ? undefined : findColumn(table, address);
    // A roster's members are known by its key.
    const isRoster = definition.rosters.some((roster) => roster.table === table.name);
    return !column?.unique || column.nullable || isRoster ? table : { ...table, key: [column.name] };
  });
  return { ...catalogue, tables };
}
