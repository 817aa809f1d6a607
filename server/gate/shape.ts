import { comma, joined, name, sql, type Sql } from '../../core/sql/sql';
import { findColumn, findTable, type Catalogue, type Column, type Table } from '../../core/table/catalogue';
import { drawnColumn, stampColumns, type DrawnColumn, type DrawnTable } from '../../core/table/drawn';
import { parseValue, type Value } from '../../core/table/value';
import { builderPerson } from '../../core/access/person';
import { emptyDefinition } from '../../core/definition/definition';
import type { Source } from '../sources/source';
import { plainType, quoted } from './column-type';
import { exportRows } from './export';
import { BadQuestion, InvalidValues, NotFound } from './errors';

/**
 * Tables of the product's own database, shaped by builders. What is taken away is set aside under a hidden name, and
 * can be had back for a day.
 */
const setAside = '_porch_gone_';
const day = 24 * 3600 * 1000;

/** Text of our own making. */
export const plain = (text: string): Sql => ({ text, params: [] });

/** Draws a table with a number that the database gives each record. */
export async function drawTable(
  source: Source,
  catalogue: Catalogue,
  { name: tableName, columns, key = 'id', stamps }: DrawnTable,
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
  const drawnKey = columns.some((column) => column.name === key);
  const parts = [
    drawnKey ? sql`PRIMARY KEY (${name(key)})` : sql`${name(key)} BIGINT AUTO_INCREMENT PRIMARY KEY`,
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
function described(catalogue: Catalogue, column: DrawnColumn): Sql[] {
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

function tableOf(catalogue: Catalogue, tableName: string): Table {
  const table = findTable(catalogue, tableName);
  if (!table) throw new NotFound('table');
  return table;
}

/** What would be lost if a column got another type. */
export interface TypeChange {
  kept: number;
  lost: number;
  samples: { id: string; value: string; reason: string }[];
}

/**
 * Gives a column another type: first, without `apply`, it only tells which values don't fit; those become empty. The
 * column as it was is set aside for a day.
 */
export async function changeType(
  source: Source,
  catalogue: Catalogue,
  tableName: string,
  columnName: string,
  drawn: DrawnColumn,
  apply: boolean,
): Promise<TypeChange> {
  const table = tableOf(catalogue, tableName);
  const column = findColumn(table, columnName);
  if (!column || drawn.name !== columnName) throw new NotFound('column');
  if (
    table.key.length === 0 ||
    table.key.includes(columnName) ||
    drawn.type === 'relation' ||
    catalogue.tables.some((other) =>
      other.relations.some(
        (relation) =>
          (other === table && relation.column === columnName) ||
          (relation.table === tableName && relation.targetColumn === columnName),
      ),
    )
  ) {
    throw new BadQuestion(
      `${columnName} is a key or a relation. Its type is that of the other end and can't be changed alone.`,
    );
  }
  if (table.ceiling?.columns?.[columnName] !== undefined || table.ceiling?.export === false)
    throw new BadQuestion(`${columnName} is under a ceiling, so its values can't be looked at. Lift that first.`);
  const target = drawnColumn(drawn);
  const visit = {
    definition: emptyDefinition({ slug: 'shape', name: 'Shape', timeZone: 'UTC', colour: '#000000' }, catalogue.schema),
    catalogue,
    person: builderPerson,
    moment: new Date(),
  };
  const change: TypeChange = { kept: 0, lost: 0, samples: [] };
  const pages = async function* (): AsyncGenerator<{ key: Value[]; value: Value }[]> {
    Object.assign(change, { kept: 0, lost: 0, samples: [] });
    for await (const { records } of exportRows(source, visit, tableName, {
      columns: [...table.key, columnName].map((each) => [each]),
      sort: [],
      where: [],
      search: '',
    })) {
      yield records.map(({ cells }) => {
        const was = cells.at(-1) ?? null;
        const key = cells.slice(0, -1) as Value[];
        const parsed =
          was === null
            ? { ok: true as const, value: null }
            : parseValue({ ...target, nullable: true }, textual(was, target));
        if (parsed.ok) {
          change.kept++;
          return { key, value: parsed.value };
        }
        change.lost++;
        if (change.samples.length < 20)
          change.samples.push({
            id: key.map(String).join(','),
            value: textual(was, target).slice(0, 200),
            reason: parsed.problem,
          });
        return { key, value: null };
      });
    }
  };
  if (!apply) {
    for await (const page of pages()) void page;
    return change;
  }
  const making = `_porch_making_${Date.now().toString(36)}`;
  const gone = goneName(columnName);
  await source.write(sql`ALTER TABLE ${name(tableName)} ADD ${name(making)} ${typeSql(catalogue, drawn)} NULL`);
  try {
    await source.transaction(async (runner) => {
      // What the database sets by itself at each change stays: nobody has changed these records.
      const kept = table.columns
        .filter((each) => each.setOnChange)
        .map((each) => `, ${name(each.name).text} = ${name(each.name).text}`)
        .join('');
      const statement =
        `UPDATE ${name(tableName).text} SET ${name(making).text} = ?${kept} WHERE ` +
        `${table.key.map((each) => `${name(each).text} = ?`).join(' AND ')}`;
      for await (const page of pages()) {
        const rows = page
          .filter(({ value }) => value !== null)
          .map(({ key, value }) => [
            typeof value === 'boolean' ? Number(value) : Array.isArray(value) ? value.join(',') : value,
            ...(key as (string | number | bigint | null)[]),
          ]);
        if (rows.length > 0) await runner.many(statement, rows);
      }
    });
    if (drawn.required && change.lost > 0)
      throw new InvalidValues({
        required: "Values that don't fit would be empty, so it can't be required. Mend them first, or let it be empty.",
      });
    const place = table.columns.findIndex((each) => each.name === columnName);
    const after = place === 0 ? sql` FIRST` : sql` AFTER ${name(table.columns[place - 1]!.name)}`;
    // One statement, so that there is no moment with half of it: the old one takes its place aside, where it needs no
    // value, as the new one takes its name.
    await source.write(
      sql`ALTER TABLE ${name(tableName)} CHANGE ${name(columnName)} ${name(gone)} ${plain(column.nativeType)} NULL,
        CHANGE ${name(making)} ${joined(described(catalogue, drawn), comma)}${after}`,
    );
  } catch (error) {
    await source.write(sql`ALTER TABLE ${name(tableName)} DROP COLUMN IF EXISTS ${name(making)}`);
    throw error;
  } finally {
    await source.catalogue(true);
  }
  return change;
}

/** A value as a person would type it for another type. */
function textual(value: Value, target: Column): string {
  if (Array.isArray(value)) return value.join(',');
  if (typeof value === 'boolean')
    return target.type === 'text' || target.type === 'long text' ? (value ? 'yes' : 'no') : value ? '1' : '0';
  return String(value);
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

/** The name under which something is set aside: when, and what it was called. */
function goneName(was: string): string {
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
  await source.write(
    sql`ALTER TABLE ${name(tableName)} CHANGE ${name(columnName)} ${name(goneName(columnName))}
      ${plain(column.nativeType)} NULL`,
  );
  await source.catalogue(true);
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
      WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME LIKE ${{ text: '?', params: ['\\_porch\\_%'] }}
    UNION ALL SELECT TABLE_NAME AS c0, COLUMN_NAME AS c1 FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = DATABASE()
      AND COLUMN_NAME LIKE ${{ text: '?', params: ['\\_porch\\_gone\\_%'] }}`);
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
      AND TABLE_NAME LIKE ${{ text: '?', params: ['\\_porch\\_making\\_%'] }}`,
  );
  await dropTables(
    source,
    tables.map(([key]) => String(key)),
  );
  const columns = await source.rows(
    sql`SELECT TABLE_NAME AS c0, COLUMN_NAME AS c1 FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = DATABASE()
      AND COLUMN_NAME LIKE ${{ text: '?', params: ['\\_porch\\_making\\_%'] }}`,
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

/** A column that rules or pages look for, and that no index of the database leads with. */
export interface MissingIndex {
  table: string;
  column: string;
  /** The statement that would make one, in the words of the database. */
  statement: string;
}

/** Which of some columns have no index that begins with them. */
export async function missingIndexes(
  source: Source,
  catalogue: Catalogue,
  wanted: readonly { table: string; column: string }[],
): Promise<MissingIndex[]> {
  const isMariadb = catalogue.database !== 'postgresql';
  const rows = await source.rows(
    isMariadb
      ? sql`SELECT TABLE_NAME AS c0, COLUMN_NAME AS c1 FROM information_schema.STATISTICS
        WHERE TABLE_SCHEMA = DATABASE() AND SEQ_IN_INDEX = 1`
      : sql`SELECT c.relname AS c0, a.attname AS c1 FROM pg_index i JOIN pg_class c ON c.oid = i.indrelid
        JOIN pg_namespace n ON n.oid = c.relnamespace JOIN pg_attribute a ON a.attrelid = c.oid
        AND a.attnum = i.indkey[0] WHERE n.nspname = current_schema()`,
  );
  const known = new Set(rows.map((row) => `${String(row[0])}\n${String(row[1])}`));
  return wanted
    .filter(({ table, column }) => findColumn(tableOf(catalogue, table), column) && !known.has(`${table}\n${column}`))
    .map(({ table, column }) => {
      const length =
        ['long text'].includes(findColumn(tableOf(catalogue, table), column)!.type) && isMariadb ? '(100)' : '';
      const text =
        `CREATE INDEX ${name(`${table}_${column}`.slice(0, 60)).text} ON ${name(table).text} ` +
        `(${name(column).text}${length})`;
      return { table, column, statement: isMariadb ? text : text.replaceAll('`', '"') };
    });
}

/** Makes the index, in the product's own database. */
export async function makeIndex(
  source: Source,
  catalogue: Catalogue,
  wanted: { table: string; column: string },
): Promise<void> {
  const [missing] = await missingIndexes(source, catalogue, [wanted]);
  if (missing) await source.write(plain(missing.statement));
}
