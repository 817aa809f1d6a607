import { randomBytes } from 'node:crypto';
import { bound, comma, joined, name, sql } from '../../../core/sql/sql';
import { dialectOf } from '../../../core/dialect/of';
import { findTable, type Catalogue, type Column } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import type { Source } from '../../sources/source';
import { plainType } from './column-type';
import { InvalidValues } from '../view/errors';

/** A table to be made. The first column `id` is the key; without one the database numbers the rows itself. */
export interface NewTable {
  name: string;
  columns: Column[];
}

/** Puts rows, with their values in the order of the columns, into the new table. */
export type PutRows = (rows: Value[][]) => Promise<void>;

/**
 * Makes a table in the product's own database and lets `fill` fill it: whole, or not at all. It is filled under another
 * name, which the catalogue doesn't show, and takes its own at the end, so that one that was broken off is never seen.
 * For builders.
 */
export async function makeTable(
  source: Source,
  catalogue: Catalogue,
  { name: tableName, columns }: NewTable,
  fill: (put: PutRows) => Promise<void>,
): Promise<void> {
  if (findTable(catalogue, tableName))
    throw new InvalidValues({ name: `There is a table ${tableName} already. Choose another name.` });
  const making = `_porch_making_${randomBytes(6).toString('hex')}`;
  const keyed = columns.some((column) => column.name === 'id');
  const described = columns.map(
    (column) =>
      sql`${name(column.name)}
        ${plainType(column)}${column.nullable && column.name !== 'id' ? sql` NULL` : sql` NOT NULL`}`,
  );
  const made = keyed ? [] : [sql`${name('id')} BIGINT AUTO_INCREMENT PRIMARY KEY`];
  const key = keyed ? [sql`PRIMARY KEY (${name('id')})`] : [];
  await source.write(sql`CREATE TABLE ${name(making)} (${joined([...made, ...described, ...key], comma)})`);
  try {
    const { value } = dialectOf(catalogue);
    const into = sql`INSERT INTO ${name(making)} (${joined(
      columns.map((column) => name(column.name)),
      comma,
    )}) VALUES (${joined(
      columns.map(() => bound(null)),
      comma,
    )})`;
    await source.transaction(
      (runner) =>
        fill((rows) =>
          runner.many(
            into,
            rows.map((row) => row.map(value)),
          ),
        ),
      { isLarge: true },
    );
    await source.write(sql`RENAME TABLE ${name(making)} TO ${name(tableName)}`);
  } catch (error) {
    await source.write(sql`DROP TABLE ${name(making)}`);
    throw error;
  }
  await source.catalogue(true);
}
