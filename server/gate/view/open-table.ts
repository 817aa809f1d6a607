import { tableRights } from '../../../core/access/rights';
import { type Table, findTable } from '../../../core/table/catalogue';
import { NotFound } from './errors';
import type { ViewSql } from './view-sql';
import type { Visit } from './visit';

/** The table if the person's view of it could have a row, else NotFound, as for a table that never was. */
export function openTable(visit: Visit, view: ViewSql, tableName: string): Table {
  const table = findTable(visit.catalogue, tableName);
  if (!table || !tableRights(view.view(table)).sees) throw new NotFound('table');
  return table;
}
