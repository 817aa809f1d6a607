import type { Catalogue } from '../table/catalogue';
import type { PortalDefinition } from './definition';

/**
 * The catalogue with the finer meanings that builders gave columns; one that doesn't fit the column's type is passed
 * over.
 */
export function withColumnKinds(catalogue: Catalogue, definition: Pick<PortalDefinition, 'tables'>): Catalogue {
  if (!Object.values(definition.tables).some((notes) => Object.values(notes.columns ?? {}).some((each) => each.kind)))
    return catalogue;
  return {
    ...catalogue,
    tables: catalogue.tables.map((table) => {
      const notes = Object.hasOwn(definition.tables, table.name) ? definition.tables[table.name]!.columns : undefined;
      if (!notes) return table;
      return {
        ...table,
        columns: table.columns.map((column) => {
          const { kind, currency } = Object.hasOwn(notes, column.name) ? notes[column.name]! : {};
          const fits = kind === 'money' ? column.type === 'decimal' : kind !== undefined && column.type === 'text';
          return fits ? { ...column, kind, ...(currency ? { currency } : {}) } : column;
        }),
      };
    }),
  };
}
