import { name, sql, joined, comma, raw, type Sql } from '../../../core/sql/sql';
import type { Table, Catalogue } from '../../../core/table/catalogue';
import { savedQueryMark } from '../../sources/source';

/** The query as a table of a statement. Texts get a collation that is known, whatever they came from. */
export function savedQuerySql(table: Table, database: Catalogue['database']): Sql {
  const inner = name('saved');
  const columns = table.columns.map((column) => {
    const raw = sql`${inner}.${name(column.name)}`;
    const isText = column.type === 'text' || column.type === 'long text';
    return isText && database !== 'postgresql'
      ? sql`CONVERT(${raw} USING utf8mb4) COLLATE utf8mb4_general_ci AS ${name(column.name)}`
      : raw;
  });
  return sql`(SELECT ${raw(savedQueryMark)} ${joined(columns, comma)}
    FROM (${raw(table.query!)}) ${inner})`;
}
