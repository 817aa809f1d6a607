import { comma, joined, name, sql, type Sql, raw } from '../../../core/sql/sql';
import { findColumn, findTable, type Catalogue, type Column, type Table } from '../../../core/table/catalogue';
import { drawnColumn, stampColumns, type DrawnColumn, type DrawnIds, type DrawnTable } from '../../../core/table/drawn';
import { parseValue } from '../../../core/table/value';
import type { Source } from '../../sources/source';
import { plainType, quoted } from './column-type';
import { InvalidValues, NotFound } from '../view/errors';

/** Text of our own making. */
export const plain = (text: string): Sql => raw(text);

/** Draws a table with a number that the database gives each record. */
export async function drawTable(
  source: Source,
  catalogue: Catalogue,
  { name: tableName, columns, key = 'id', ids = { kind: 'number' }, stamps }: DrawnTable,
): Promise<void> {
  if (findTable(catalogue, tableName))
    throw new InvalidValues({ name: `There is a table ${tableName} already. Choose another name.` });
  const twice = columns.find(
    (column, i) =>
      (column.name === 'id' && key === 'id') || columns.findIndex((other) => other.name === column.name) !== i,
  );
  if (twice)
    throw new InvalidValues({
      [twice.name]:
        twice.name === 'id'
          ? 'Each record has an id already. Choose another name.'
          : `Two columns are called ${twice.name}.`,
    });
  if (
    ids.kind === 'short' &&
    !columns.some(({ name: of, type, required }) => of === ids.of && type === 'text' && required)
  )
    throw new InvalidValues({ ids: 'A short form is made of a text that every record has: choose a required one.' });
  const drawnKey = columns.some((column) => column.name === key);
  const parts = [
    drawnKey ? sql`PRIMARY KEY (${name(key)})` : sql`${name(key)} ${idSql(ids)} PRIMARY KEY`,
    ...columns.flatMap((column) => described(catalogue, column)),
  ];
  if (stamps)
    parts.push(
      sql`${name(stampColumns.made)} DATETIME(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6)`,
      sql`${name(stampColumns.changed)} DATETIME(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6) ON UPDATE
        CURRENT_TIMESTAMP(6)`,
    );
  await source.write(sql`CREATE TABLE ${name(tableName)} (${joined(parts, comma)})`);
  await source.catalogue(true);
}

/** An id as the database makes it when none is given. A short form of nothing is a random one. */
function idSql(ids: DrawnIds): Sql {
  if (ids.kind === 'short') {
    const words = sql`LOWER(LEFT(${name(ids.of)}, 100))`;
    const short = sql`TRIM(BOTH '-' FROM REGEXP_REPLACE(${words}, ${plain("'[^\\\\p{L}\\\\p{N}]+'")}, '-'))`;
    return sql`VARCHAR(120) NOT NULL DEFAULT (COALESCE(NULLIF(${short}, ''), LOWER(HEX(RANDOM_BYTES(8)))))`;
  }
  return ids.kind === 'random'
    ? sql`CHAR(32) NOT NULL DEFAULT (LOWER(HEX(RANDOM_BYTES(16))))`
    : sql`BIGINT AUTO_INCREMENT`;
}

/** Adds a column; where it is required and records are there already, it must have an initial value. */
export async function addColumn(
  source: Source,
  catalogue: Catalogue,
  tableName: string,
  column: DrawnColumn,
): Promise<void> {
  const table = tableOf(catalogue, tableName);
  if (findColumn(table, column.name))
    throw new InvalidValues({ name: `${tableName} has a column ${column.name} already. Choose another name.` });
  if (column.required && column.initial === null) {
    const [row] = await source.rows(sql`SELECT 1 AS c0 FROM ${name(tableName)} LIMIT 1`);
    if (row)
      throw new InvalidValues({
        initial: 'There are records already. Give it a value that they get, or let it be empty.',
      });
  }
  await source.write(
    sql`ALTER TABLE ${name(tableName)} ${joined(
      described(catalogue, column).map((part) => sql`ADD ${part}`),
      comma,
    )}`,
  );
  await source.catalogue(true);
}

/** A column with its keys, as a CREATE TABLE has it. */
export function described(catalogue: Catalogue, column: DrawnColumn): Sql[] {
  const parts = [sql`${name(column.name)} ${typeSql(catalogue, column)}${columnRules(column)}`];
  if (column.type === 'relation') {
    const { to } = relationEnd(catalogue, column);
    parts.push(sql`FOREIGN KEY (${name(column.name)}) REFERENCES ${name(to.name)} (${name(to.key[0]!)})`);
  }
  return parts;
}

function relationEnd(catalogue: Catalogue, column: DrawnColumn): { to: Table; end: Column } {
  const to = findTable(catalogue, column.to ?? '');
  if (!to || to.key.length !== 1)
    throw new InvalidValues({
      [column.name]: to
        ? `${to.name} has no key of one column, so nothing can lead to it.`
        : 'Choose the table that it leads to.',
    });
  return { to, end: findColumn(to, to.key[0]!)! };
}

export function typeSql(catalogue: Catalogue, column: DrawnColumn): Sql {
  const known = drawnColumn(column);
  // The very type of the other end, as the catalogue has it: a foreign key takes no other.
  return column.type === 'relation' ? plain(relationEnd(catalogue, column).end.nativeType) : plainType(known);
}

function initialSql(column: DrawnColumn): Sql {
  if (column.initial === null || column.initial === '') return sql``;
  if (column.type === 'date and time' && column.initial === 'now') return sql` DEFAULT CURRENT_TIMESTAMP(6)`;
  if (column.type === 'date' && column.initial === 'today') return sql` DEFAULT (CURRENT_DATE)`;
  const parsed = parseValue({ ...drawnColumn(column), nullable: true }, column.initial);
  if (!parsed.ok) throw new InvalidValues({ [column.name]: `As the initial value: ${parsed.problem}` });
  const { value } = parsed;
  if (typeof value === 'boolean') return sql` DEFAULT ${plain(value ? 'TRUE' : 'FALSE')}`;
  return sql` DEFAULT ${quoted(Array.isArray(value) ? value.join(',') : String(value))}`;
}

/** What stands behind a column's type: whether it may be empty, its initial value, whether it is unique. */
export const columnRules = (column: DrawnColumn): Sql =>
  sql`${column.required ? sql` NOT NULL` : sql` NULL`}${initialSql(column)}${column.unique ? sql` UNIQUE` : sql``}`;

export function tableOf(catalogue: Catalogue, tableName: string): Table {
  const table = findTable(catalogue, tableName);
  if (!table) throw new NotFound('table');
  return table;
}

/** Throws where something renamed isn't there, or where something else has the new name already. */
export function refuseTaken(
  catalogue: Catalogue,
  { table: tableName, column, to }: { table: string; column?: string; to: string },
): void {
  const table = tableOf(catalogue, tableName);
  if (column === undefined) {
    if (findTable(catalogue, to))
      throw new InvalidValues({ to: `There is a table ${to} already. Choose another name.` });
    return;
  }
  if (!findColumn(table, column)) throw new NotFound('column');
  if (findColumn(table, to))
    throw new InvalidValues({ to: `${tableName} has a column ${to} already. Choose another name.` });
}

export async function renameColumn(
  source: Source,
  catalogue: Catalogue,
  tableName: string,
  columnName: string,
  to: string,
): Promise<void> {
  refuseTaken(catalogue, { table: tableName, column: columnName, to });
  await source.write(sql`ALTER TABLE ${name(tableName)} RENAME COLUMN ${name(columnName)} TO ${name(to)}`);
  await source.catalogue(true);
}

export async function renameTable(source: Source, catalogue: Catalogue, tableName: string, to: string): Promise<void> {
  refuseTaken(catalogue, { table: tableName, to });
  await source.write(sql`RENAME TABLE ${name(tableName)} TO ${name(to)}`);
  await source.catalogue(true);
}
