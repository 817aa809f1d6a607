import { ceilingRows } from '../../../core/definition/ceilings';
import { parseSql } from '../../sql/parse-sql';
import { name, sql, raw } from '../../../core/sql/sql';
import {
  findColumn,
  findTable,
  usableKey,
  withManyRelations,
  type Catalogue,
  type Column,
  type Table,
} from '../../../core/table/catalogue';
import type { Source } from '../../sources/source';
import { setAside } from '../../sources/mariadb-catalogue';
import { InvalidValues } from '../view/errors';
import { tellsApart } from './tells-apart';
import { lineageOf, type Lineage, type QueryNode } from './query-lineage';
import { savedQuerySql } from '../view/saved-query-sql';

/** A SELECT that builders keep as a table. */
export interface SavedQuery {
  name: string;
  text: string;
  /** Columns that tell its records apart; none when they can only be listed. */
  key: string[];
}

/** Functions that only compute: none that waits, locks, reads files, calls elsewhere or changes anything. */
const pure = new Set(
  (
    'count sum avg min max coalesce ifnull nullif if concat concat_ws lower upper trim ltrim rtrim left right ' +
    'substring substr mid length char_length character_length replace round floor ceil ceiling abs mod sign ' +
    'power sqrt greatest least ' +
    'date year month day dayofmonth dayofweek week quarter hour minute second date_format datediff ' +
    'timestampdiff date_add date_sub adddate subdate last_day makedate str_to_date to_char to_date date_trunc ' +
    'date_part extract age cast convert ' +
    'current_date curdate now current_timestamp row_number rank dense_rank ntile lag lead first_value ' +
    'last_value group_concat string_agg lpad rpad locate position strpos instr reverse repeat bool_and bool_or ' +
    'stddev variance json_value json_extract'
  ).split(' '),
);

type Node = QueryNode;

/**
 * What the query reads, and what its columns come from. Throws where it is anything but one SELECT over tables of the
 * source that only computes.
 */
export function readSavedQuery(text: string, catalogue: Catalogue): Lineage {
  const refuse = (reason: string) => new InvalidValues({ text: reason });
  const plain = text.trim().replace(/;$/, '');
  // What two readers of SQL could understand differently is not allowed at all.
  const sign = /\/\*|--|#|\\|\?|\$|;/.exec(plain);
  if (sign)
    throw refuse(`A saved query may not hold ${sign[0] === ';' ? 'a semicolon: it is one SELECT' : `${sign[0]}`}.`);
  let tree: unknown;
  try {
    tree = parseSql(plain, catalogue.database ?? 'mariadb');
  } catch (error) {
    const { location } = error as { location?: { start: { line: number; column: number } } };
    throw refuse(
      location
        ? `Line ${location.start.line}, column ${location.start.column}: this is not understood.`
        : 'This is not understood as a SELECT.',
    );
  }
  const statements = Array.isArray(tree) ? (tree as Node[]) : [tree as Node];
  if (statements.length !== 1 || statements[0]!.type !== 'select')
    throw refuse('Only one SELECT can be kept as a table.');
  walk(statements[0], (node) => {
    if (
      node.type !== undefined &&
      ['insert', 'update', 'delete', 'replace', 'call', 'set', 'drop', 'create', 'alter'].includes(node.type)
    )
      throw refuse(`A SELECT may not hold ${node.type.toUpperCase()}.`);
    if (node.type === 'var' || node.type === 'param') throw refuse('A saved query has no variables.');
    if (node.type === 'select' && ((node.into as Node | null)?.position || (node.into as Node | null)?.expr))
      throw refuse("A SELECT that writes somewhere (INTO) can't be kept.");
    if (node.type === 'select' && (node.locking_read ?? node.for_update ?? node.for))
      throw refuse("A SELECT that locks rows can't be kept.");
    if (node.type === 'function' || node.type === 'aggr_func' || node.type === 'window_func') {
      const called = nameOfFunction(node.name).toLowerCase();
      if (!pure.has(called)) throw refuse(`The function ${called.toUpperCase()} is not allowed in a saved query.`);
    }
  });
  const lineage = lineageOf(statements[0]!, catalogue);
  for (const read of lineage.reads) {
    const table = findTable(catalogue, read)!;
    const { ceiling } = table;
    if (
      ceiling &&
      (ceilingRows(table) || Object.values(ceiling.columns ?? {}).includes('nothing') || ceiling.export === false)
    )
      throw refuse(`${read} has a ceiling on what may be read of it, which a query would pass by.`);
  }
  if (lineage.reads.length === 0) throw refuse('The query reads no table.');
  return lineage;
}

function nameOfFunction(value: unknown): string {
  if (typeof value === 'string') return value;
  const parts = (value as { name?: { value?: unknown }[] } | null)?.name;
  return Array.isArray(parts) ? parts.map((part) => String(part.value)).join('.') : '';
}

function walk(value: unknown, visit: (node: Node) => void): void {
  if (Array.isArray(value)) {
    for (const each of value) walk(each, visit);
  } else if (typeof value === 'object' && value !== null) {
    visit(value as Node);
    for (const each of Object.values(value)) walk(each, visit);
  }
}

/** The table that a query makes now; throws InvalidValues where it makes none. */
async function savedTable(
  source: Source,
  catalogue: Catalogue,
  { name: tableName, text, key }: SavedQuery,
): Promise<Table> {
  const lineage = readSavedQuery(text, catalogue);
  const plain = text.trim().replace(/;$/, '');
  let columns: Column[];
  try {
    // What is set aside, and a star brings along, is not there for anyone.
    columns = (await source.describe(raw(plain))).filter((column) => !column.name.startsWith(setAside));
  } catch (error) {
    throw new InvalidValues({
      text: `The database can't run it: ${(error as Error).message
        .split('\n')[0]!
        .replace(/^\(conn[^)]*\)\s*/, '')
        .slice(0, 300)}`,
    });
  }
  const twice = columns.find(
    (column, i) =>
      column.name === '' || columns.findIndex((other) => other.name.toLowerCase() === column.name.toLowerCase()) !== i,
  );
  if (twice)
    throw new InvalidValues({
      text:
        twice.name === ''
          ? 'A column has no name. Give it one with AS.'
          : `Two columns are called ${twice.name}. Name one anew with AS.`,
    });
  const strange = columns.find((column) => !/^[\w ]{1,64}$/.test(column.name));
  if (strange) throw new InvalidValues({ text: `Give the column ${strange.name.slice(0, 60)} a plain name with AS.` });
  const missing = key.find((each) => !columns.some((column) => column.name === each));
  if (missing !== undefined) throw new InvalidValues({ key: `The query has no column ${missing}.` });
  if (key.length > 0 && usableKey(columns, key).length === 0)
    throw new InvalidValues({
      key: `${key.join(', ')} can't be compared, so it tells nothing apart. Choose other columns.`,
    });
  return {
    name: tableName,
    query: plain,
    keyByWord: true,
    columns: columns.map((column) => ({
      ...column,
      unique: key.length === 1 && key[0] === column.name,
      from: lineage.columnOf(column.name),
    })),
    key,
    relations: [],
    ceiling: { create: false, edit: false, delete: false },
  };
}

/** As `savedTable`, and holds the key against the records. */
export async function trySavedQuery(source: Source, catalogue: Catalogue, query: SavedQuery): Promise<Table> {
  const other = findTable(catalogue, query.name);
  if (other && other.query === undefined)
    throw new InvalidValues({ name: `There is a table ${query.name} already. Choose another name.` });
  const table = await savedTable(source, catalogue, query);
  const from = sql`${savedQuerySql(table, catalogue.database)} q`;
  if (query.key.length > 0 && !(await tellsApart(source, from, query.key.map(name))))
    throw new InvalidValues({
      key: `${query.key.join(', ')} is empty or the same in several records, so it can't tell them apart.`,
    });
  return table;
}

/**
 * The catalogue with the saved queries as tables. One that doesn't work any more is left out, and what relies on it
 * fails closed.
 */
export async function withSavedQueries(
  source: Source,
  catalogue: Catalogue,
  queries: readonly SavedQuery[],
): Promise<Catalogue> {
  if (queries.length === 0) return catalogue;
  const tables = await Promise.all(
    queries.map((query) =>
      savedTable(source, catalogue, query).catch((error: unknown) => {
        if (error instanceof InvalidValues) return null;
        throw error;
      }),
    ),
  );
  const added = tables.filter((table) => table !== null && !findTable(catalogue, table.name)) as Table[];
  const related = added.map((table) => ({ ...table, relations: sameRelations(catalogue, table) }));
  return withManyRelations({
    ...catalogue,
    tables: [...catalogue.tables, ...related].toSorted((a, b) => (a.name < b.name ? -1 : 1)),
  });
}

/** A column that is called as one that is a relation everywhere in the source leads where that leads. */
function sameRelations(catalogue: Catalogue, table: Table): Table['relations'] {
  return table.columns.flatMap((column) => {
    const alike = catalogue.tables.flatMap((other) =>
      other.relations.filter((relation) => relation.column === column.name),
    );
    const [first] = alike;
    const sound =
      first &&
      alike.every((relation) => relation.table === first.table && relation.targetColumn === first.targetColumn) &&
      findColumn(findTable(catalogue, first.table)!, first.targetColumn)!.type === column.type;
    return sound && !table.columns.some((each) => each.name === first.name) ? [{ ...first }] : [];
  });
}
