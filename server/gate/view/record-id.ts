import { findColumn, type Table } from '../../../core/table/catalogue';
import { parseValue, type Value } from '../../../core/table/value';
import { bound, joined, and, name, sql, type Sql } from '../../../core/sql/sql';
import { sqlValue } from '../../../core/dialect/sql-value';

/** A record's address: its key's values, percent-encoded, joined by commas. */
export function recordId(values: Value[]): string {
  return values.map((value) => encodeURIComponent(String(value))).join(',');
}

/** Reads an address back; null when it can't be the id of any record of the table. */
export function readRecordId(table: Table, id: string): Value[] | null {
  const parts = id.split(',');
  if (table.key.length === 0 || parts.length !== table.key.length || id.length > 1000) return null;
  const values: Value[] = [];
  for (const [i, part] of parts.entries()) {
    let text: string;
    try {
      text = decodeURIComponent(part);
    } catch {
      return null;
    }
    const parsed = parseValue(findColumn(table, table.key[i]!)!, text);
    if (!parsed.ok || parsed.value === null) return null;
    values.push(parsed.value);
  }
  return values;
}

/** `t0.id = ?` for each part of the key. */
export function keyIs(alias: Sql, table: Table, key: Value[]): Sql {
  return joined(
    table.key.map((column, i) => sql`${alias}.${name(column)} = ${bound(sqlValue(key[i]!))}`),
    and,
  );
}
