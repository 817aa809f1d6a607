import { exportView } from '../../core/access/view';
import { findTable } from '../../core/table/catalogue';
import type { Value } from '../../core/table/value';
import type { Runner } from '../sources/source';
import { NotFound } from './errors';
import { readRows, type ListQuestion } from './list';
import { ViewSql, type Visit } from './view-sql';

const pageSize = 2000;

/** A record as it is taken out: its cells in the order of the page's columns. */
export interface ExportedRecord {
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

/**
 * All records that the person may take out of a table, page by page, with masked values as they are shown. NotFound where no role lets them.
 * What they may only see, but not export, is left out, also of the columns that are asked by.
 */
export async function* exportRows(runner: Runner, visit: Visit, tableName: string, question: Pick<ListQuestion, 'columns' | 'sort' | 'where' | 'search'>): AsyncGenerator<ExportedPage> {
  const table = findTable(visit.catalogue, tableName);
  const narrowed = table && exportView(new ViewSql(visit).view(table));
  if (!table || !narrowed || narrowed.lenses.length === 0) throw new NotFound('table');
  const view = new ViewSql(visit, new Map([[table.name, narrowed]]));
  // A table without a key has no places to go on from, so all of it is one page.
  const size = table.key.length === 0 ? Number.MAX_SAFE_INTEGER - 1 : pageSize;
  const read = (after: string | null) => readRows(runner, visit, view, table, { ...question, after, before: null, size });
  for (let page = await read(null); ; ) {
    const after = page.next ? page.cursorOf(page.rows.at(-1)) : null;
    // The next one is read while this one is written.
    const coming = after === null ? null : read(after);
    coming?.catch(() => undefined);
    yield { columns: page.cells.paths, records: page.rows.map((row) => page.cells.readInOrder(row, page.from)) };
    if (!coming) return;
    page = await coming;
  }
}
