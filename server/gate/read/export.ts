import { viewSql, ViewSql } from '../view/view-sql';
import { tableRights } from '../../../core/access/rights';
import { exportView } from '../../../core/access/view';
import { printPath } from '../../../core/definition/path';
import { crossingOn } from '../../../core/definition/sources';
import { findTable } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import type { Runner } from '../../sources/source';
import { beyond, divide } from '../view/across';
import type { PlacedVisit, Visit } from '../view/visit';
import { NotFound } from '../view/errors';
import { readRows, type CsvLines, type ListQuestion } from './list';

/** Records that are read at once. One that others wait beside takes fewer. */
export const exportPage = 2000;
export const smallPage = 250;
/** As lines they cost us little, and a statement for fewer of them would be most of what they do. */
export const linedPage = 10_000;

/** How many records the next page has, asked before each. */
export type AtOnce = () => number;
const whole: AtOnce = () => exportPage;

/** A record as it is taken out: its cells in the order of the page's columns. */
interface ExportedRecord {
  /** Undefined where the cell is hidden from the person. */
  cells: (Value | undefined)[];
  /** Places of the cells whose value is the mask's. */
  masked: number[];
}

export interface ExportedPage {
  /** Paths in text form; those of which the person sees nothing anywhere are left out. */
  columns: string[];
  records: ExportedRecord[];
}

/** Records as lines of CSV, without their ends, as the database put them together. */
export interface LinedPage {
  columns: string[];
  lines: string[];
}

type ExportQuestion = Pick<ListQuestion, 'columns' | 'sort' | 'where' | 'search' | 'searched'>;

/**
 * All records that the person may take out of a table, page by page, with masked values as they are shown. NotFound
 * where no role lets them.
 * What they may only see, but not export, is left out: whole records, and columns along relations of tables that they
 * may not export.
 */
export function exportRows(
  runner: Runner,
  visit: Visit,
  tableName: string,
  question: ExportQuestion,
  atOnce = whole,
): AsyncGenerator<ExportedPage> {
  // Without lines asked for there are none.
  return exported(runner, visit, tableName, question, atOnce) as AsyncGenerator<ExportedPage>;
}

async function* exported(
  runner: Runner,
  visit: Visit,
  tableName: string,
  question: ExportQuestion,
  atOnce: AtOnce,
  lines?: CsvLines,
): AsyncGenerator<ExportedPage | LinedPage> {
  const table = findTable(visit.catalogue, tableName);
  const seen = table && viewSql(visit).view(table);
  if (!table || !seen || !tableRights(seen).exports) throw new NotFound('table');
  const narrowed = exportView(seen);
  const view = new ViewSql(visit, new Map([[table.name, narrowed]]), undefined, true);
  // A table without a key has no places to go on from, so all of it is one page.
  const size = () => (table.key.length === 0 ? Number.MAX_SAFE_INTEGER - 1 : atOnce());
  const read = async (after: string | null) => {
    const asked = { ...question, after, before: null, size: size() };
    const page = await readRows({ runner, visit, view, table }, asked, lines);
    // A line that is longer than the database may send, or that it would take too long over, is NULL.
    const isWhole = !page.isLined || page.rows.every((row) => typeof row[page.from] === 'string');
    return isWhole ? page : readRows({ runner, visit, view, table }, asked);
  };
  for (let page = await read(null); ;) {
    const after = page.next ? page.cursorOf(page.rows.at(-1)) : null;
    // The next one is read while this one is written.
    const coming = after === null ? null : read(after);
    coming?.catch(() => undefined);
    const { rows, from, cells } = page;
    const columns = cells.paths;
    yield page.isLined
      ? { columns, lines: rows.map((row) => row[from] as string) }
      : { columns, records: rows.map((row) => cells.readInOrder(row, from)) };
    if (!coming) return;
    page = await coming;
  }
}

/** As `exportAcross`, for CSV: where the database can put whole lines together, the same to the sign, it does. */
export async function* exportLined(
  visit: PlacedVisit,
  tableName: string,
  question: ExportQuestion,
  lines: CsvLines,
  atOnce = whole,
): AsyncGenerator<ExportedPage | LinedPage> {
  if (divide(visit, tableName, question.columns, true)) yield* exportAcross(visit, tableName, question, atOnce);
  else yield* exported(visit.source, visit, tableName, question, atOnce, lines);
}

/** As `exportRows`, with columns that lie in other sources: one question more a page for each relation that crosses. */
export async function* exportAcross(
  visit: PlacedVisit,
  tableName: string,
  question: ExportQuestion,
  atOnce = whole,
): AsyncGenerator<ExportedPage> {
  const divided = divide(visit, tableName, question.columns, true);
  if (!divided) return yield* exportRows(visit.source, visit, tableName, question, atOnce);
  const table = findTable(visit.catalogue, tableName)!;
  const isThere = await Promise.all(
    question.columns.map(async (path) => {
      const crossing = crossingOn(visit.definition, visit.catalogue, table, path);
      return !crossing || (await beyond(visit, tableName, crossing, true)) !== null;
    }),
  );
  for await (const page of exportRows(visit.source, visit, tableName, { ...question, columns: divided.own }, atOnce)) {
    const columns = question.columns
      .filter((_, i) => isThere[i])
      .map(printPath)
      .filter((path) => page.columns.includes(path) || !divided.own.some((own) => printPath(own) === path));
    const records = page.records.map(({ cells, masked }) => ({
      values: Object.fromEntries(
        page.columns.flatMap((path, i): [string, Value][] => (cells[i] === undefined ? [] : [[path, cells[i]]])),
      ),
      masked: masked.map((i) => page.columns[i]!),
    }));
    await divided.fill(records);
    yield {
      columns,
      records: records.map(({ values, masked }) => ({
        cells: columns.map((path) => values[path]),
        masked: columns.flatMap((path, i) => (masked.includes(path) ? [i] : [])),
      })),
    };
  }
}
