import type { Condition } from '../../../core/condition/tree';
import { findColumn, type Table } from '../../../core/table/catalogue';
import type { RawRow, Runner } from '../../sources/source';
import { Cells } from '../view/cells';
import { type ViewRecord } from '../view/view-record';
import { decode } from '../view/decode';
import { readCursor, reversed, writeCursor } from '../view/order';
import { orderTerms, type Asked, type ListQuestion } from './question';
import { recordId } from '../view/record-id';
import { Tables } from '../view/tables';
import { countOf, pageRows } from './united';
import { ViewSql } from '../view/view-sql';
import { type Visit } from '../view/visit';
import { openTable } from '../view/open-table';

export type { ListQuestion } from './question';

export interface ListPage {
  records: ViewRecord[];
  /** Cursors of the neighbouring pages; null where there is none. */
  next: string | null;
  previous: string | null;
}

export interface ListAnswer extends ListPage {
  total: number;
}

/** One page of a person's records with the number of all, policy and question in the same statement. */
export async function list(
  runner: Runner,
  visit: Visit,
  tableName: string,
  question: ListQuestion,
): Promise<ListAnswer> {
  const view = new ViewSql(visit);
  const table = openTable(visit, view, tableName);
  const [page, total] = await Promise.all([
    readPage(runner, visit, view, table, question),
    countRows(runner, visit, view, table, question),
  ]);
  return { ...page, total };
}

/** As `list`, without the number of all. */
export async function page(runner: Runner, visit: Visit, tableName: string, question: ListQuestion): Promise<ListPage> {
  const view = new ViewSql(visit);
  return readPage(runner, visit, view, openTable(visit, view, tableName), question);
}

/** How many rows of the table are in the person's view and answer the conditions. */
export async function count(runner: Runner, visit: Visit, tableName: string, where: Condition[] = []): Promise<number> {
  const view = new ViewSql(visit);
  return countRows(runner, visit, view, openTable(visit, view, tableName), { columns: [], where, search: '' });
}

async function countRows(runner: Runner, visit: Visit, view: ViewSql, table: Table, asked: Asked): Promise<number> {
  const [row] = await countOf(runner, view, new Tables(visit.catalogue, table), asked);
  return Number(row?.[0] ?? 0);
}

/** One page, without the number of all. */
export async function readPage(
  runner: Runner,
  visit: Visit,
  view: ViewSql,
  table: Table,
  question: ListQuestion,
): Promise<ListPage> {
  const { rows, cells, from, cursorOf, next, previous } = await readRows(runner, visit, view, table, question);
  const key = table.key.map((column) => findColumn(table, column)!);
  const keyAt = from - table.key.length;
  return {
    records: rows.map((row) => ({
      id: table.key.length ? recordId(key.map((column, i) => decode(column, row[keyAt + i]))) : null,
      ...cells.read(row, from),
    })),
    next: next ? cursorOf(rows.at(-1)) : null,
    previous: previous ? cursorOf(rows[0]) : null,
  };
}

/** The rows of one page as the database gives them; its cells begin at `from`. */
export async function readRows(runner: Runner, visit: Visit, view: ViewSql, table: Table, question: ListQuestion) {
  const tables = new Tables(visit.catalogue, table);
  const cells = new Cells(question.columns, visit.catalogue, tables, view);
  const terms = orderTerms(view, tables, question.sort);
  const cursor = question.before ?? question.after;
  const backwards = question.before !== null;
  const walked = backwards ? reversed(terms) : terms;
  const place = cursor === null ? null : readCursor(cursor, walked);
  const found = await pageRows(runner, view, tables, question, {
    selected: [...terms.map((term) => term.sql), ...cells.selected],
    walked,
    backwards,
    place,
    limit: question.size + 1,
  });

  const more = found.length > question.size;
  const rows = more ? found.slice(0, question.size) : found;
  if (backwards) rows.reverse();
  return {
    rows,
    cells,
    from: terms.length,
    cursorOf: (row: RawRow | undefined) => (row && table.key.length ? writeCursor(row.slice(0, terms.length)) : null),
    next: backwards ? cursor !== null : more,
    previous: backwards ? more : cursor !== null,
  };
}
