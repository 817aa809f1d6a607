import { factsUsed } from '../../../core/condition/analyse';
import { ownView, visibleColumns } from '../../../core/access/view';
import { findTable } from '../../../core/table/catalogue';
import type { PlacedVisit } from '../view/visit';
import type { ViewRecord } from '../view/view-record';
import { ViewSql, viewSql } from '../view/view-sql';
import { readPage } from './list';

const atOnce = 500;

/**
 * The records of a table that a person is shown because of who they are: by the lenses whose rules hold a column
 * against a fact of theirs. Page by page, as they see them; nothing where there is no such lens.
 */
export async function* ownRecords(visit: PlacedVisit, tableName: string): AsyncGenerator<ViewRecord[]> {
  const table = findTable(visit.catalogue, tableName);
  if (!table || table.key.length === 0) return;
  const scope = { catalogue: visit.catalogue, table, member: true };
  const own = ownView(viewSql(visit).view(table), (where) => factsUsed(where, scope).length > 0);
  if (own.lenses.length === 0) return;
  const at = { runner: visit.source, visit, view: new ViewSql(visit, new Map([[table.name, own]])), table };
  const columns = visibleColumns(own).map((column) => [column]);
  for (let after: string | null = null, isMore = true; isMore;) {
    const page = await readPage(at, { columns, sort: [], where: [], search: '', after, before: null, size: atOnce });
    if (page.records.length > 0) yield page.records;
    after = page.next;
    isMore = after !== null;
  }
}
