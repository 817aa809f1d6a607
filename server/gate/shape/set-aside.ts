import { sql, name, joined, comma, bound } from '../../../core/sql/sql';
import { type Catalogue, findColumn, findTable } from '../../../core/table/catalogue';
import type { Source } from '../../sources/source';
import { NotFound, BadQuestion, InvalidValues } from '../view/errors';
import { tableOf, plain } from './shape';

/**
 * Tables of the product's own database, shaped by builders. What is taken away is set aside under a hidden name, and
 * can be had back for a day.
 */
const setAside = '_porch_gone_';
const day = 24 * 3600 * 1000;

/** The name under which something is set aside: when, and what it was called. */
export function goneName(was: string): string {
  return `${setAside}${Date.now().toString(36)}_${was}`.slice(0, 64);
}

/**
 * Sets a column aside. Its place in keys and rules of the database is lifted, so that records can be made without it.
 */
export async function takeColumnAway(
  source: Source,
  catalogue: Catalogue,
  tableName: string,
  columnName: string,
): Promise<void> {
  const table = tableOf(catalogue, tableName);
  const column = findColumn(table, columnName);
  if (!column) throw new NotFound('column');
  const isEnd = catalogue.tables.some((other) =>
    other.relations.some((relation) => relation.table === tableName && relation.targetColumn === columnName),
  );
  if (table.key.includes(columnName) || isEnd)
    throw new BadQuestion(`${columnName} tells the records of ${tableName} apart, so it can't be deleted.`);
  await refuseMadeOf(source, tableName, columnName);
  await source.write(
    sql`ALTER TABLE ${name(tableName)} CHANGE ${name(columnName)} ${name(goneName(columnName))}
      ${plain(column.nativeType)} NULL`,
  );
  await source.catalogue(true);
}

/**
 * Throws where the database makes another column's initial value of this one, as it does short ids: it could then
 * neither be dropped for good nor mean what it did.
 */
export async function refuseMadeOf(source: Source, tableName: string, columnName: string): Promise<void> {
  const [made] = await source.rows(sql`SELECT COLUMN_NAME FROM information_schema.COLUMNS
    WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME = ${bound(tableName)} AND COLUMN_NAME <> ${bound(columnName)}
      AND INSTR(COLUMN_DEFAULT, ${bound(`\`${columnName}\``)}) > 0`);
  if (made)
    throw new BadQuestion(
      `${String(made[0])} of ${tableName} is made of ${columnName}, so ${columnName} stays as it is. ` +
        'It can be renamed.',
    );
}

export async function takeTableAway(source: Source, catalogue: Catalogue, tableName: string): Promise<void> {
  tableOf(catalogue, tableName);
  const from = catalogue.tables.find(
    (other) => other.name !== tableName && other.relations.some((relation) => relation.table === tableName),
  );
  if (from) throw new BadQuestion(`${from.name} has a relation to ${tableName}. Delete that first.`);
  await source.write(sql`RENAME TABLE ${name(tableName)} TO ${name(goneName(tableName))}`);
  await source.catalogue(true);
}

/** Something that was set aside and can be had back. */
export interface Gone {
  /** The name that it has now. */
  key: string;
  table: string | null;
  was: string;
  at: string;
}

/** What was set aside in the last day; what is older is dropped for good. */
export async function listGone(source: Source, now: Date): Promise<Gone[]> {
  const found = await source.rows(sql`SELECT NULL AS c0, TABLE_NAME AS c1 FROM information_schema.TABLES
      WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME LIKE ${bound('\\_porch\\_%')}
    UNION ALL SELECT TABLE_NAME AS c0, COLUMN_NAME AS c1 FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = DATABASE()
      AND COLUMN_NAME LIKE ${bound('\\_porch\\_gone\\_%')}`);
  const gone: Gone[] = [];
  for (const [inTable, key] of found.map((row) => [row[0] === null ? null : String(row[0]), String(row[1])] as const)) {
    const parts = /^_porch_gone_([0-9a-z]+)_(.+)$/.exec(key);
    if (!parts || inTable?.startsWith('_porch_')) continue;
    const since = Number.parseInt(parts[1]!, 36);
    if (now.getTime() - since <= day)
      gone.push({ key, table: inTable, was: parts[2]!, at: new Date(since).toISOString() });
    else if (inTable === null) await source.write(sql`DROP TABLE ${name(key)}`);
    else await source.write(sql`ALTER TABLE ${name(inTable)} DROP COLUMN ${name(key)}`);
  }
  return gone.toSorted((a, b) => (a.at < b.at ? 1 : -1));
}

/** Drops tables of our own making that may lead to each other; a table that isn't there is no fault. */
export async function dropTables(source: Source, tables: readonly string[]): Promise<void> {
  if (tables.length > 0)
    await source.write(
      sql`SET STATEMENT foreign_key_checks = 0 FOR DROP TABLE IF EXISTS ${joined(tables.map(name), comma)}`,
    );
}

/**
 * Drops what a server left that was stopped while it made a table or gave a column another type. Only while nobody is
 * at it.
 */
export async function dropMakings(source: Source): Promise<void> {
  const tables = await source.rows(
    sql`SELECT TABLE_NAME AS c0 FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE()
      AND TABLE_NAME LIKE ${bound('\\_porch\\_making\\_%')}`,
  );
  await dropTables(
    source,
    tables.map(([key]) => String(key)),
  );
  const columns = await source.rows(
    sql`SELECT TABLE_NAME AS c0, COLUMN_NAME AS c1 FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = DATABASE()
      AND COLUMN_NAME LIKE ${bound('\\_porch\\_making\\_%')}`,
  );
  for (const [inTable, key] of columns)
    await source.write(sql`ALTER TABLE ${name(String(inTable))} DROP COLUMN ${name(String(key))}`);
}

/** Gives something its name back; refused where another has it by now. */
export async function bringBack(source: Source, catalogue: Catalogue, key: string, now: Date): Promise<Gone> {
  const gone = (await listGone(source, now)).find((each) => each.key === key);
  if (!gone) throw new NotFound('table');
  const taken =
    gone.table === null ? findTable(catalogue, gone.was) : findColumn(tableOf(catalogue, gone.table), gone.was);
  if (taken) throw new InvalidValues({ key: `There is another ${gone.was} by now. Rename that first.` });
  await source.write(
    gone.table === null
      ? sql`RENAME TABLE ${name(key)} TO ${name(gone.was)}`
      : sql`ALTER TABLE ${name(gone.table)} RENAME COLUMN ${name(key)} TO ${name(gone.was)}`,
  );
  await source.catalogue(true);
  return gone;
}
