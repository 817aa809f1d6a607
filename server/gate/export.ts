import { exportView } from '../../core/access/view';
import { findTable } from '../../core/table/catalogue';
import type { Runner } from '../sources/source';
import type { ViewRecord } from './cells';
import { NotFound } from './errors';
import { readPage, type ListQuestion } from './list';
import { ViewSql, type Visit } from './view-sql';

const pageSize = 1000;

/**
 * All records that the person may take out of a table, page by page, with masked values as they are shown. NotFound where no role lets them.
 * What they may only see, but not export, is left out, also of the columns that are asked by.
 */
export async function* exportRows(runner: Runner, visit: Visit, tableName: string, question: Pick<ListQuestion, 'columns' | 'sort' | 'where' | 'search'>): AsyncGenerator<ViewRecord[]> {
  const table = findTable(visit.catalogue, tableName);
  const narrowed = table && exportView(new ViewSql(visit).view(table));
  if (!table || !narrowed || narrowed.lenses.length === 0) throw new NotFound('table');
  const view = new ViewSql(visit, new Map([[table.name, narrowed]]));
  for (let after: string | null = null; ; ) {
    const page = await readPage(runner, visit, view, table, { ...question, after, before: null, size: pageSize });
    yield page.records;
    if (page.next === null) return;
    after = page.next;
  }
}
