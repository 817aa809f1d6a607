import { checkCondition } from '../../core/condition/check';
import { and, bound, joined, name, or, sql, type Sql } from '../../core/condition/sql';
import type { Condition } from '../../core/condition/tree';
import { findColumn, findTable, isPathProblem, resolvePath, type Table } from '../../core/table/catalogue';
import type { RawRow, Runner } from '../sources/source';
import { Cells, selectList, type ViewRecord } from './cells';
import { decode } from './decode';
import { BadQuestion, NotFound } from './errors';
import { behind, isSortable, orderBy, readCursor, reversed, writeCursor, type OrderTerm } from './order';
import { recordId } from './record-id';
import { Tables } from './tables';
import { ViewSql, type Visit } from './view-sql';

/** What a person asks of a table. Everything in it works on their view. */
export interface ListQuestion {
  columns: string[][];
  sort: { path: string[]; descending: boolean }[];
  /** Conditions on the view, all of which must hold: the page's own and the person's. */
  where: Condition[];
  /** Text looked for in the text columns of the list. */
  search: string;
  after: string | null;
  before: string | null;
  size: number;
}

export interface ListAnswer {
  records: ViewRecord[];
  total: number;
  /** Cursors of the neighbouring pages; null where there is none. */
  next: string | null;
  previous: string | null;
}

/** The table if the person's view of it could have a row, else NotFound, as for a table that never was. */
export function openTable(visit: Visit, view: ViewSql, tableName: string): Table {
  const table = findTable(visit.catalogue, tableName);
  if (!table || !view.view(table).lenses.some((lens) => lens.rows !== 'no row')) throw new NotFound('table');
  return table;
}

/** One page of a person's records with the number of all, policy and question in the same statement. */
export async function list(runner: Runner, visit: Visit, tableName: string, question: ListQuestion): Promise<ListAnswer> {
  const view = new ViewSql(visit);
  const table = openTable(visit, view, tableName);
  const [page, total] = await Promise.all([
    readPage(runner, visit, view, table, question),
    countRows(runner, visit, view, table, question),
  ]);
  return { ...page, total };
}

/** How many rows of the table are in the person's view and answer the conditions. */
export async function count(runner: Runner, visit: Visit, tableName: string, where: Condition[] = []): Promise<number> {
  const view = new ViewSql(visit);
  return countRows(runner, visit, view, openTable(visit, view, tableName), { columns: [], where, search: '' });
}

type Asked = Pick<ListQuestion, 'columns' | 'where' | 'search'>;

async function countRows(runner: Runner, visit: Visit, view: ViewSql, table: Table, asked: Asked): Promise<number> {
  const tables = new Tables(visit.catalogue, table);
  const where = asking(view, tables, asked);
  const [row] = await runner.rows(sql`SELECT COUNT(*) FROM ${tables.sql()} WHERE ${where}`);
  return Number(row?.[0] ?? 0);
}

async function readPage(runner: Runner, visit: Visit, view: ViewSql, table: Table, question: ListQuestion): Promise<Omit<ListAnswer, 'total'>> {
  const tables = new Tables(visit.catalogue, table);
  const cells = new Cells(question.columns, visit.catalogue, tables, view);
  const terms = orderTerms(view, tables, question.sort);
  const cursor = question.before ?? question.after;
  const backwards = question.before !== null;
  const walked = backwards ? reversed(terms) : terms;
  const conditions = [asking(view, tables, question)];
  if (cursor !== null) conditions.push(behind(walked, readCursor(cursor, walked)));

  const selected = [...terms.map((term) => term.sql), ...cells.selected];
  const order = walked.length ? sql` ORDER BY ${orderBy(walked)}` : sql``;
  const statement = sql`SELECT ${selectList(selected)} FROM ${tables.sql()} WHERE ${joined(conditions, and)}${order} LIMIT ${bound(question.size + 1)}`;
  const rows = await runner.rows(statement);

  const more = rows.length > question.size;
  const page = rows.slice(0, question.size);
  if (backwards) page.reverse();
  const keyAt = terms.length - table.key.length;
  const key = table.key.map((column) => findColumn(table, column)!);
  const place = (row: RawRow | undefined) => (row && table.key.length ? writeCursor(row.slice(0, terms.length)) : null);
  return {
    records: page.map((row) => ({
      id: table.key.length ? recordId(key.map((column, i) => decode(column, row[keyAt + i]))) : null,
      ...cells.read(row, terms.length),
    })),
    next: (backwards ? cursor !== null : more) ? place(page.at(-1)) : null,
    previous: (backwards ? more : cursor !== null) ? place(page[0]) : null,
  };
}

/** The policy and everything asked, as one WHERE. */
function asking(view: ViewSql, tables: Tables, asked: Asked): Sql {
  const parts = [view.rows(tables)];
  for (const condition of asked.where) {
    const problem = checkCondition(condition, view.askScope(tables.table))[0];
    if (problem) throw new BadQuestion(`The filter can't be used: ${problem.reason}.`);
    parts.push(view.askedCondition(condition, tables));
  }
  if (asked.search !== '') parts.push(searching(view, tables, asked.columns, asked.search));
  return joined(parts, and);
}

function searching(view: ViewSql, tables: Tables, columns: string[][], search: string): Sql {
  const pattern = `%${search.replaceAll(/[\\%_]/g, (sign) => `\\${sign}`)}%`;
  const searched = columns.flatMap((path) => {
    const found = resolveAsked(view, tables, path);
    return found && ['text', 'long text', 'one choice'].includes(found.type) ? [sql`${view.askedPath(path, tables)} LIKE ${bound(pattern)}`] : [];
  });
  return searched.length ? sql`(${joined(searched, or)})` : sql`FALSE`;
}

function resolveAsked(view: ViewSql, tables: Tables, path: string[]) {
  const table = findTable(view.askCatalogue(), tables.table.name)!;
  const found = resolvePath(view.askCatalogue(), table, path);
  return isPathProblem(found) ? null : found.column;
}

/** The order asked for, then the key in the direction of the last term, so that an index can be walked either way. */
function orderTerms(view: ViewSql, tables: Tables, sort: ListQuestion['sort']): OrderTerm[] {
  const { table } = tables;
  if (table.key.length === 0) return [];
  const terms = sort.map(({ path, descending }): OrderTerm => {
    const column = resolveAsked(view, tables, path);
    if (!column || !isSortable(column)) throw new BadQuestion(`The list can't be sorted by ${path.join('.')}.`);
    // Along a relation, or where the view doesn't show it, a value may be missing even if the column is never NULL.
    return { sql: view.askedPath(path, tables, true), column: { ...column, nullable: column.nullable || path.length > 1 || view.view(table).lenses.length > 1 }, descending };
  });
  const last = sort.at(-1)?.descending ?? false;
  for (const key of table.key) {
    terms.push({ sql: sql`${tables.root}.${name(key)}`, column: findColumn(table, key)!, descending: last });
  }
  return terms;
}
