import { tellsByDefault } from '../../core/table/telling-default';
import {
  usableKey,
  withManyRelations,
  type Catalogue,
  type Column,
  type ColumnType,
  type ReadAs,
  type Table,
} from '../../core/table/catalogue';
import { relationName } from '../../core/table/relation-name';

/**
 * How the names of tables and columns begin that are not there for anyone: still being made, or deleted and kept for a
 * day.
 */
export const setAside = '_porch_';

/** Asks information_schema; each call gives rows as objects. */
export type Ask = (text: string, params: string[]) => Promise<Record<string, unknown>[]>;

/** Reads columns, types, keys and choices of every table and view of a schema from the database's own catalogue. */
export async function readCatalogue(ask: Ask, schema: string): Promise<Catalogue> {
  const columns = await ask(
    `SELECT TABLE_NAME t, COLUMN_NAME c, DATA_TYPE d, COLUMN_TYPE ct, IS_NULLABLE n, COLUMN_DEFAULT def, EXTRA e,
      GENERATION_EXPRESSION g,
       CHARACTER_MAXIMUM_LENGTH len, NUMERIC_PRECISION p, NUMERIC_SCALE s, COLLATION_NAME coll, COLUMN_COMMENT com
     FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = ? ORDER BY TABLE_NAME, ORDINAL_POSITION`,
    [schema],
  );
  const keys = await ask(
    `SELECT TABLE_NAME t, INDEX_NAME i, COLUMN_NAME c, NON_UNIQUE again, SEQ_IN_INDEX place, SUB_PART part
     FROM information_schema.STATISTICS WHERE TABLE_SCHEMA = ? AND INDEX_TYPE = 'BTREE'
     ORDER BY TABLE_NAME, INDEX_NAME, SEQ_IN_INDEX`,
    [schema],
  );
  const references = await ask(
    `SELECT TABLE_NAME t, CONSTRAINT_NAME k, COLUMN_NAME c, IF(REFERENCED_TABLE_SCHEMA = TABLE_SCHEMA,
      REFERENCED_TABLE_NAME, NULL) rt, REFERENCED_COLUMN_NAME rc
     FROM information_schema.KEY_COLUMN_USAGE
     WHERE TABLE_SCHEMA = ? AND REFERENCED_TABLE_NAME IS NOT NULL
      ORDER BY TABLE_NAME, CONSTRAINT_NAME, ORDINAL_POSITION`,
    [schema],
  );

  const tables = new Map<string, Table>();
  for (const row of columns) {
    if (String(row.t).startsWith(setAside) || String(row.c).startsWith(setAside)) continue;
    const table = tables.get(String(row.t)) ?? { name: String(row.t), columns: [], key: [], relations: [] };
    tables.set(table.name, table);
    table.columns.push(readColumn(row));
  }
  for (const [name, table] of tables) {
    const own = keys.filter((row) => row.t === name);
    const indexes = groupBy(
      own.filter((row) => Number(row.again) === 0),
      'i',
    );
    table.key = usableKey(
      table.columns,
      (indexes.get('PRIMARY') ?? []).map((row) => String(row.c)),
    );
    for (const column of table.columns) {
      column.unique = [...indexes.values()].some((index) => index.length === 1 && index[0]!.c === column.name);
      if (own.some((row) => row.c === column.name && Number(row.place) === 1 && row.part === null))
        column.indexed = true;
    }
    readRelations(
      references.filter((row) => row.t === name),
      table,
      tables,
    );
  }
  await markCluster(ask, schema, tables);
  return withManyRelations({ schema, tables: [...tables.values()] });
}

/** Galera's own switch says whether a database is one of several; others don't know it. */
async function markCluster(ask: Ask, schema: string, tables: ReadonlyMap<string, Table>): Promise<void> {
  const [isOn] = await ask("SHOW GLOBAL VARIABLES WHERE Variable_name = 'wsrep_on' AND Value = 'ON'", []);
  if (!isOn) return;
  const stored = await ask(
    `SELECT TABLE_NAME t, EXISTS (SELECT 1 FROM information_schema.STATISTICS WHERE TABLE_SCHEMA = own.TABLE_SCHEMA
        AND TABLE_NAME = own.TABLE_NAME AND INDEX_NAME = 'PRIMARY') k
      FROM information_schema.TABLES own WHERE TABLE_SCHEMA = ? AND TABLE_TYPE = 'BASE TABLE'`,
    [schema],
  );
  for (const { t, k } of stored) {
    const table = tables.get(String(t));
    if (table) table.inCluster = Number(k) === 1 ? 'with a key' : 'without a key';
  }
}

function groupBy(rows: Record<string, unknown>[], part: string): Map<string, Record<string, unknown>[]> {
  const groups = new Map<string, Record<string, unknown>[]>();
  for (const row of rows) groups.set(String(row[part]), [...(groups.get(String(row[part])) ?? []), row]);
  return groups;
}

function readRelations(rows: Record<string, unknown>[], table: Table, tables: Map<string, Table>): void {
  for (const parts of groupBy(rows, 'k').values()) {
    const [row] = parts;
    (table.foreignKeys ??= []).push({
      columns: parts.map((part) => String(part.c)),
      table: typeof row?.rt === 'string' ? row.rt : null,
      targetColumns: parts.map((part) => String(part.rc)),
    });
    if (parts.length !== 1 || !row || !tables.has(String(row.rt))) continue;
    const column = String(row.c);
    table.relations.push({
      name: relationName(column, table),
      column,
      table: String(row.rt),
      targetColumn: String(row.rc),
    });
  }
}

const types: Record<string, ColumnType> = {
  char: 'text',
  varchar: 'text',
  tinytext: 'text',
  text: 'long text',
  mediumtext: 'long text',
  longtext: 'long text',
  uuid: 'text',
  tinyint: 'whole number',
  smallint: 'whole number',
  mediumint: 'whole number',
  int: 'whole number',
  bigint: 'whole number',
  year: 'whole number',
  decimal: 'decimal',
  float: 'number',
  double: 'number',
  date: 'date',
  datetime: 'date and time',
  timestamp: 'date and time',
  time: 'time',
  enum: 'one choice',
  set: 'several choices',
  inet4: 'text',
  inet6: 'text',
};
/** Types whose value the driver would give as bytes, or that compare as nothing here does. */
const readAs: Record<string, ReadAs> = {
  uuid: 'uuid',
  inet4: 'text',
  inet6: 'text',
  bit: 'bits',
  binary: 'size',
  varbinary: 'size',
  tinyblob: 'size',
  blob: 'size',
  mediumblob: 'size',
  longblob: 'size',
  geometry: 'shape',
  point: 'shape',
  linestring: 'shape',
  polygon: 'shape',
  multipoint: 'shape',
  multilinestring: 'shape',
  multipolygon: 'shape',
  geometrycollection: 'shape',
};
const bits: Record<string, bigint> = { tinyint: 8n, smallint: 16n, mediumint: 24n, int: 32n, bigint: 64n };

function readColumn(row: Record<string, unknown>): Column {
  const data = String(row.d);
  const nativeType = String(row.ct);
  const type: ColumnType = nativeType === 'tinyint(1)' || nativeType === 'bit(1)' ? 'yes/no' : (types[data] ?? 'other');
  const extra = String(row.e ?? '');
  const column: Column = {
    name: String(row.c),
    type,
    nativeType,
    nullable: row.n === 'YES',
    hasDefault: row.def !== null || extra.includes('auto_increment'),
    automatic: extra.includes('auto_increment') || Boolean(row.g) || extra.includes('on update'),
    unique: false,
  };
  const read = readAs[data];
  // The texts of addresses and UUIDs have no order that means anything.
  if (read)
    Object.assign(column, { read }, type === 'text' ? { equalityOnly: true, collation: 'utf8mb4_general_ci' } : {});
  else if (type === 'other') column.read = 'text';
  if (type === 'text' || type === 'long text') column.maxLength = Number(row.len ?? (data === 'uuid' ? 36 : 45));
  if (data === 'bit') column.maxLength = Number(row.p);
  // Two digits, and 0, would be taken as another year than was written.
  if (data === 'year') Object.assign(column, { min: '1901', max: '2155' });
  if (extra.includes('on update')) column.setOnChange = true;
  if (extra.includes('auto_increment') || tellsByDefault(String(row.def ?? ''))) column.defaultTells = true;
  if (row.com) column.comment = String(row.com);
  if (row.coll) column.collation = String(row.coll);
  if (type === 'decimal') Object.assign(column, { precision: Number(row.p), scale: Number(row.s) });
  const width = bits[data];
  if (type === 'whole number' && width) {
    const unsigned = nativeType.includes('unsigned');
    column.min = String(unsigned ? 0n : -(1n << (width - 1n)));
    column.max = String(unsigned ? (1n << width) - 1n : (1n << (width - 1n)) - 1n);
  }
  if (type === 'one choice' || type === 'several choices') column.choices = readChoices(nativeType);
  return column;
}

const escaped: Record<string, string> = { n: '\n', r: '\r', 0: '\0' };

/**
 * `enum('a','it''s')` as the catalogue writes it becomes `['a', "it's"]`: a quote stands twice, a backslash before what
 * it means.
 */
export function readChoices(nativeType: string): string[] {
  return [...nativeType.matchAll(/'((?:[^'\\]|''|\\[\s\S])*)'/g)].map((match) =>
    match[1]!.replaceAll(/''|\\([\s\S])/g, (_, sign: string | undefined) =>
      sign === undefined ? "'" : (escaped[sign] ?? sign),
    ),
  );
}
