import type { Sheet } from './definition';
import type { AskedOfTable, NewNames } from './section';

/** A sheet of a table's records under new names. */
export function renamedSheet(table: string, sheet: Sheet, names: Pick<NewNames, 'table' | 'path'>): Sheet {
  return {
    ...sheet,
    columns: sheet.columns.map((text) => names.path(table, text)),
    ...(sheet.linked
      ? {
          linked: sheet.linked.map((linked) => ({
            table: names.table(linked.table),
            column: names.path(linked.table, linked.column),
            columns: linked.columns.map((text) => names.path(linked.table, text)),
          })),
        }
      : {}),
  };
}

/** What a sheet asks of other tables. */
export function linkedAsks(sheet: Sheet | null): AskedOfTable[] {
  return (sheet?.linked ?? []).map(({ table, column, columns }) => ({
    table,
    shows: [...new Set([...columns, column])],
    sorts: [],
    where: [],
    isAlong: true as const,
  }));
}
