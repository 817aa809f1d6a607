import { editableColumns, visibleColumns } from '../../core/access/view';
import { and, bound, joined, sql, sqlValue, type Sql } from '../../core/condition/sql';
import type { Table } from '../../core/table/catalogue';
import type { Value } from '../../core/table/value';
import type { RawRow, Runner } from '../sources/source';
import { Cells, nothing, type ViewRecord } from './cells';
import { NotFound } from './errors';
import { openTable } from './list';
import { keyIs, readRecordId, recordId } from './record-id';
import { Tables } from './tables';
import { ViewSql, type Visit } from './view-sql';

/** One record, and the columns of it that the person may change. */
export interface OpenRecord extends ViewRecord {
  editable: string[];
}

/** Reads one record of the person's view; NotFound when it isn't in it. No columns means all that they see. */
export async function read(runner: Runner, visit: Visit, tableName: string, id: string, columns: string[][] = []): Promise<OpenRecord> {
  const view = new ViewSql(visit);
  const table = openTable(visit, view, tableName);
  const key = readRecordId(table, id);
  const found = key && (await readRow(runner, visit, view, table, key, columns, false));
  if (!found) throw new NotFound();
  return found;
}

/** The record with this key if it is in the view; `lock` keeps it from being changed until the transaction ends. */
export async function readRow(
  runner: Runner, visit: Visit, view: ViewSql, table: Table, key: Value[], columns: string[][], lock: boolean,
): Promise<OpenRecord | null> {
  const tables = new Tables(visit.catalogue, table);
  const paths = columns.length ? columns : visibleColumns(view.view(table)).map((column) => [column]);
  const cells = new Cells(paths, visit.catalogue, tables, view);
  const { lenses } = view.view(table);
  const holds = (filter: Sql) => sql`(${filter} IS TRUE)`;
  const seen = lenses.map((lens) => holds(view.filter(lens.rows, tables, [], table)));
  const edited = lenses.map((lens) => holds(view.filter(lens.edit?.rows ?? 'no row', tables, [], table)));
  const selected = [nothing, ...seen, ...edited, ...cells.selected];
  const where = joined([keyIs(tables.root, table, key), view.rows(tables)], and);
  const statement = sql`SELECT ${joined(selected, sql`, `)} FROM ${tables.sql()} WHERE ${where}${lock ? sql` FOR UPDATE` : sql``}`;
  const [row] = await runner.rows(statement);
  if (!row) return null;
  const flags = (from: number) => row.slice(from, from + lenses.length).map((flag) => Number(flag) === 1);
  const editable = editableColumns(view.view(table), flags(1), flags(1 + lenses.length));
  return { id: recordId(key), ...cells.read(row as RawRow, 1 + 2 * lenses.length), editable: table.columns.map((c) => c.name).filter((c) => editable.has(c)) };
}

/** Whether a record with this value in this column is in the person's view; what a relation may be set to. */
export async function isInView(runner: Runner, visit: Visit, tableName: string, column: string, value: Value): Promise<boolean> {
  const view = new ViewSql(visit);
  const table = visit.catalogue.tables.find((each) => each.name === tableName);
  if (!table || view.view(table).lenses.length === 0) return false;
  const tables = new Tables(visit.catalogue, table);
  const where = sql`${tables.raw([column])} = ${bound(sqlValue(value))} AND ${view.rows(tables)}`;
  return (await runner.rows(sql`SELECT 1 FROM ${tables.sql()} WHERE ${where} LIMIT 1`)).length > 0;
}
