import { findColumn } from '../../../core/table/catalogue';
import { sql } from '../../../core/sql/sql';
import type { Value } from '../../../core/table/value';
import { InvalidValues, Refused } from '../view/errors';
import { keyIs } from '../view/record-id';
import type { TableVisit } from '../view/table-visit';
import { Tables } from '../view/tables';

/** Names the columns to fill that the person can see; others only as a refusal. */
export async function refuseUnfilled(
  at: TableVisit,
  key: Value[],
  needs: string[],
  told: (column: string) => boolean,
): Promise<void> {
  const { runner, visit, table } = at;
  const columns = needs.filter((column) => findColumn(table, column));
  if (columns.length < needs.length) throw new Refused("This move can't be made: a column that it needs is gone.");
  if (columns.length === 0) return;
  const tables = new Tables(visit.catalogue, table);
  const selected = columns.map((column) => tables.raw([column])).reduce((list, each) => sql`${list}, ${each}`);
  const [row] = await runner.rows(sql`SELECT ${selected} FROM ${tables.sql()} WHERE ${keyIs(tables.root, table, key)}`);
  const empty = columns.filter((_, i) => row?.[i] === null || String(row?.[i]) === '');
  if (empty.length === 0) return;
  const seen = empty.filter(told);
  if (seen.length === 0) throw new Refused("This can't be done yet: something is still missing in the record.");
  throw new InvalidValues(Object.fromEntries(seen.map((column) => [column, 'Fill this in first.'])));
}
