import { kindOf } from '../../../core/condition/operand-kind';
import { collationKey, isComparableCollation } from '../../../core/condition/collation';
import { bound, comma, joined, name, sql, type Sql } from '../../../core/sql/sql';
import type { Column } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import type { RawRow, Runner } from '../../sources/source';
import { selectList } from '../view/cells';
import { decode } from '../view/decode';
import type { Tables } from '../view/tables';
import type { ViewSql } from '../view/view-sql';

/** What two values of a column have in common exactly when the database holds them equal. */
export function sameKey(column: Column, value: Value): string {
  if (typeof value !== 'string' || column.type === 'decimal') return plainNumber(String(value));
  if (column.collation === undefined) return value;
  return isComparableCollation(column.collation) ? collationKey(column.collation, value) : value;
}

/** `1.50` and `1.5` are one number. */
function plainNumber(text: string): string {
  return text.includes('.') ? text.replace(/\.?0+$/, '') : text;
}

/** Whether equality of the column's values is known here as the database has it. */
function isKnown(column: Column): boolean {
  return column.collation === undefined || isComparableCollation(column.collation);
}

const atOnce = 1000;

/**
 * Finds the records that hold one of some values in a column as `asked` gives it, and that `where` lets through; in a
 * bounded number of statements. `selected` is what is wanted of each. Gives the rows by the place of the value.
 */
export async function matching(
  runner: Runner,
  view: ViewSql,
  values: readonly Value[],
  column: Column,
  statement: () => { tables: Tables; asked: Sql; where: Sql; selected: Sql[] },
): Promise<RawRow[][]> {
  const found: RawRow[][] = values.map(() => []);
  if (values.length === 0) return found;
  if (!isKnown(column)) return matchingThere(runner, view, values, column, statement, found);
  const places = new Map<string, number[]>();
  values.forEach((value, i) => {
    const key = sameKey(column, value);
    const known = places.get(key);
    if (known) known.push(i);
    else places.set(key, [i]);
  });
  const distinct = [...places.values()].map(([first]) => values[first!]!);
  for (let from = 0; from < distinct.length; from += atOnce) {
    const { tables, asked, where, selected } = statement();
    const list = joined(
      distinct.slice(from, from + atOnce).map((value) => constant(view, column, value)),
      comma,
    );
    const rows = await runner.rows(
      sql`SELECT ${selectList([asked, ...selected])} FROM ${tables.sql()} WHERE ${asked} IN (${list}) AND ${where}`,
    );
    for (const row of rows)
      for (const place of places.get(sameKey(column, decode(column, row[0]))) ?? []) found[place]!.push(row.slice(1));
  }
  return found;
}

function constant(view: ViewSql, column: Column, value: Value): Sql {
  const kind = kindOf(column);
  return kind === 'none' ? bound(view.dialect.value(value)) : view.dialect.constant(String(value), kind);
}

/**
 * Where only the database knows which texts are equal under its collation, it says to which value each record belongs.
 */
async function matchingThere(
  runner: Runner,
  view: ViewSql,
  values: readonly Value[],
  column: Column,
  statement: () => { tables: Tables; asked: Sql; where: Sql; selected: Sql[] },
  found: RawRow[][],
): Promise<RawRow[][]> {
  for (let from = 0; from < values.length; from += atOnce) {
    const { tables, asked, where, selected } = statement();
    const part = values.slice(from, from + atOnce);
    const given = name('given');
    const list = view.dialect.jsonRows(
      JSON.stringify(part.map((value, i) => [i, value])),
      [{ name: name('v'), as: 'text', unsigned: false }],
      given,
    );
    const wanted = view.dialect.collated(sql`${given}.${name('v')}`, column.collation!);
    const rows = await runner.rows(
      sql`SELECT ${selectList([sql`${given}.${name('g')}`, ...selected])}
        FROM ${list} ${view.dialect.joinInOrder} ${tables.sql(sql` ON ${asked} = ${wanted}`)} WHERE ${where}`,
    );
    for (const row of rows) found[from + Number(row[0])]!.push(row.slice(1));
  }
  return found;
}
