import { atTable, type TableVisit } from '../view/table-visit';
import { sql, type Sql } from '../../../core/sql/sql';
import type { Condition } from '../../../core/condition/tree';
import { findColumn } from '../../../core/table/catalogue';
import type { RawRow, Runner } from '../../sources/source';
import { Cells } from '../view/cells';
import type { ViewRecord } from '../view/view-record';
import { decode } from '../view/decode';
import { readCursor, reversed, writeCursor } from '../view/order';
import { ResolvedQuestion, type ListQuestion } from './question';
import { recordId } from '../view/record-id';
import { Tables } from '../view/tables';
import { countForm, pageForm, rowsIn } from './united';
import type { Visit } from '../view/visit';

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

/** How lines of CSV are wanted: with a sign before cells that a spreadsheet would take for formulas, or without. */
export interface CsvLines {
  guard: boolean;
}

/** One page of a person's records with the number of all, policy and question in the same statement. */
export async function list(
  runner: Runner,
  visit: Visit,
  tableName: string,
  question: ListQuestion,
): Promise<ListAnswer> {
  const at = atTable(runner, visit, tableName);
  const resolved = new ResolvedQuestion(at, question, question.sort);
  const counting = countForm(resolved, new Tables(visit.catalogue, at.table));
  if ('measured' in counting) {
    visit.assumed?.putOff();
    const [{ page }, counted] = await Promise.all([pageOf(resolved, question), counting.measured()]);
    return { ...page, total: numberIn(counted) };
  }
  // A statement costs about as much as reading a page: the number comes beside it.
  const { page, beside } = await pageOf(resolved, question, counting.statement);
  const isEmpty = page.records.length === 0;
  if (!isEmpty) return { ...page, total: Number(beside) };
  const isBehind = question.after !== null || question.before !== null;
  return { ...page, total: isBehind ? numberIn(await runner.rows(counting.statement)) : 0 };
}

/** As `list`, without the number of all. */
export async function page(runner: Runner, visit: Visit, tableName: string, question: ListQuestion): Promise<ListPage> {
  return readPage(atTable(runner, visit, tableName), question);
}

/** How many rows of the table are in the person's view and answer the conditions. */
export async function count(runner: Runner, visit: Visit, tableName: string, where: Condition[] = []): Promise<number> {
  return countRows(new ResolvedQuestion(atTable(runner, visit, tableName), { columns: [], where, search: '' }));
}

async function countRows(resolved: ResolvedQuestion): Promise<number> {
  const { runner, visit, table } = resolved.at;
  return numberIn(await rowsIn(runner, countForm(resolved, new Tables(visit.catalogue, table))));
}

const numberIn = (rows: RawRow[]): number => Number(rows[0]?.[0] ?? 0);

/** One page, without the number of all. */
export async function readPage(at: TableVisit, question: ListQuestion): Promise<ListPage> {
  return (await pageOf(new ResolvedQuestion(at, question, question.sort), question)).page;
}

/** One page; `also` is one value that is asked for with it, the same for every row. */
async function pageOf(
  resolved: ResolvedQuestion,
  question: ListQuestion,
  also?: Sql,
): Promise<{ page: ListPage; beside: unknown }> {
  const { table } = resolved.at;
  const { rows, cells, from, cursorOf, next, previous } = await rowsOf(resolved, question, also);
  const key = table.key.map((column) => findColumn(table, column)!);
  const keyAt = from - table.key.length;
  const page = {
    records: rows.map((row) => ({
      id: table.key.length ? recordId(key.map((column, i) => decode(column, row[keyAt + i]))) : null,
      ...cells.read(row, from),
    })),
    next: next ? cursorOf(rows.at(-1)) : null,
    previous: previous ? cursorOf(rows[0]) : null,
  };
  return { page, beside: also && rows[0]?.at(-1) };
}

/**
 * The rows of one page as the database gives them; its cells begin at `from`. As lines of CSV, where that is asked and
 * can be had: then one line stands there in place of all cells.
 */
export function readRows(at: TableVisit, question: ListQuestion, lines?: CsvLines) {
  return rowsOf(new ResolvedQuestion(at, question, question.sort), question, undefined, lines);
}

async function rowsOf(resolved: ResolvedQuestion, question: ListQuestion, also?: Sql, lines?: CsvLines) {
  const { visit, view, table } = resolved.at;
  const tables = new Tables(visit.catalogue, table);
  const cells = new Cells(question.columns, visit.catalogue, tables, view);
  const line = lines && table.query === undefined ? cells.csvLine(view, lines.guard) : null;
  const terms = resolved.order(tables);
  const cursor = question.before ?? question.after;
  const backwards = question.before !== null;
  const walked = backwards ? reversed(terms) : terms;
  const place = cursor === null ? null : readCursor(cursor, walked);
  const proof = visit.assumed?.proof ?? null;
  const form = pageForm(resolved, tables, question, {
    selected: [
      ...terms.map((term) => term.sql),
      ...(line ? [line] : cells.selected),
      ...(also ? [sql`(${also})`] : []),
    ],
    walked,
    backwards,
    place,
    limit: question.size + 1,
    proof,
  });
  if ('measured' in form) visit.assumed?.putOff();
  const found = await rowsIn(resolved.at.runner, form);
  if (proof) visit.assumed!.settle(found.length);

  const more = found.length > question.size;
  const rows = more ? found.slice(0, question.size) : found;
  if (backwards) rows.reverse();
  return {
    rows,
    cells,
    from: terms.length,
    isLined: line !== null,
    cursorOf: (row: RawRow | undefined) => (row && table.key.length ? writeCursor(row.slice(0, terms.length)) : null),
    next: backwards ? cursor !== null : more,
    previous: backwards ? more : cursor !== null,
  };
}
