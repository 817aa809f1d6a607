import { dialectOf } from '../../../core/dialect/of';
import { bound, comma, joined, name, raw, sql, type Sql } from '../../../core/sql/sql';
import { findColumn, type Catalogue, type Table } from '../../../core/table/catalogue';

/**
 * Collations of MariaDB in which a text equals itself in lower case and with space behind it, so that what is sought by
 * equality holds all that is meant. Held against the server letter by letter in carries-address.test.ts, which knows
 * three signs that utf8mb4_general_ci tells apart from their letters: a row with one of them is found by the refresh.
 */
export const ignoringCase = /^(utf8mb[34])_(general|unicode|unicode_520|uca1400_ai)_ci$/;

/**
 * Whether a row carries one of the addresses, which are as people are told apart by them. Where the column has an index
 * that can tell, rows are sought by it, with those that begin with a space beside them.
 */
export function carriesAddress(
  catalogue: Catalogue,
  table: Table,
  column: string,
  root: Sql,
  addresses: readonly string[],
): Sql {
  const dialect = dialectOf(catalogue);
  const own = sql`${root}.${name(column)}`;
  const list = joined(
    addresses.map((each) => dialect.text(each)),
    comma,
  );
  const exactly = sql`${dialect.emailKey(own)} IN (${list})`;
  const { indexed, collation = '' } = findColumn(table, column)!;
  const [, charset] = ignoringCase.exec(collation) ?? [];
  if (!indexed || table.query !== undefined || charset === undefined) return exactly;
  const asThere = joined(
    addresses.map((each) => sql`CONVERT(${bound(each)} USING ${raw(charset)}) COLLATE ${raw(collation)}`),
    comma,
  );
  return sql`((${own} IN (${asThere}) OR ${own} LIKE ${bound(' %')}) AND ${exactly})`;
}
