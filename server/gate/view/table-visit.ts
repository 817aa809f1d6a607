import { viewSql, ViewSql } from './view-sql';
import type { Table } from '../../../core/table/catalogue';
import type { Runner, Transaction } from '../../sources/source';
import { openTable } from './open-table';
import type { Visit } from './visit';

/** A visit at one table, with the view that it has of it and what runs its statements: handed on as one. */
export interface TableVisit<R extends Runner = Runner> {
  runner: R;
  visit: Visit;
  view: ViewSql;
  table: Table;
}

/** A write's, inside its transaction. */
export type TableWrite = TableVisit<Transaction>;

/** Opens a table; NotFound where the person's view of it has no row ever, as for a table that never was. */
export function atTable<R extends Runner>(runner: R, visit: Visit, tableName: string): TableVisit<R> {
  const view = viewSql(visit);
  return { runner, visit, view, table: openTable(visit, view, tableName) };
}
