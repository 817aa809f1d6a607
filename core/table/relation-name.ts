import type { Table } from './catalogue';

/**
 * What a to-one relation is called: `owner_id` gives `owner`, `parish` gives `parish_record`; never a name that the
 * table has already.
 */
export function relationName(column: string, table: Table): string {
  let name = column.endsWith('_id') && column.length > 3 ? column.slice(0, -3) : `${column}_record`;
  while ([...table.columns, ...table.relations].some((other) => other.name === name)) name += '_record';
  return name;
}
