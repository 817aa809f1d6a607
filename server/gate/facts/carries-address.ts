import { dialectOf } from '../../../core/dialect/of';
import { bound, comma, joined, name, raw, sql, type Sql } from '../../../core/sql/sql';
import { findColumn, type Catalogue, type Table } from '../../../core/table/catalogue';

/**
 * Collations of MariaDB in which a text equals itself in lower case and with space behind it, so that what is sought by
 * equality holds all that is meant. Held against the server letter by letter in carries-address.test.ts.
 */
export const ignoringCase = /^(utf8mb[34])_(general|unicode|unicode_520|uca1400_ai)_ci$/;

/** Signs (ohm, kelvin, ångström) whose lower case is a letter that the `general` collations tell apart from them. */
export const secondCodes: ReadonlyMap<string, string> = new Map([
  ['ω', '\u2126'],
  ['k', '\u212A'],
  ['å', '\u212B'],
]);

/** With more to seek than this, looking at all rows once is no worse. */
const soughtAtMost = 1000;

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
  const [, charset, kind] = ignoringCase.exec(collation) ?? [];
  if (!indexed || table.query !== undefined || charset === undefined) return exactly;
  const sought = kind === 'general' ? spellings(addresses) : addresses;
  if (sought.length > soughtAtMost) return exactly;
  const asThere = joined(
    sought.map((each) => sql`CONVERT(${bound(each)} USING ${raw(charset)}) COLLATE ${raw(collation)}`),
    comma,
  );
  return sql`((${own} IN (${asThere}) OR ${own} LIKE ${bound(' %')}) AND ${exactly})`;
}

/** The addresses with each of their letters that have a second code in both; no further than there may be sought. */
function spellings(addresses: readonly string[]): string[] {
  const all: string[] = [];
  for (const address of addresses) {
    let written = [''];
    for (const letter of address) {
      const second = secondCodes.get(letter);
      written = written.flatMap((begun) => (second ? [begun + letter, begun + second] : [begun + letter]));
      if (all.length + written.length > soughtAtMost) return [...all, ...written];
    }
    all.push(...written);
  }
  return all;
}
