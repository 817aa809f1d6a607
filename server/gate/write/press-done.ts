import type { ActionWay } from '../../../core/access/rights';
import { isTakenBack } from '../../../core/definition/action';
import { sql } from '../../../core/sql/sql';
import { findColumn } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import { selectList } from '../view/cells';
import { decode } from '../view/decode';
import { keyIs, recordId } from '../view/record-id';
import type { TableWrite } from '../view/table-visit';
import { Tables } from '../view/tables';
import { logOf } from './transaction-log';

/** What a press changed in a record, as stored: what it takes to take it back. Nobody but the server may read it. */
export interface PressDone {
  id: string;
  role: string;
  was: Record<string, Value>;
  put: Record<string, Value>;
}

/**
 * Notes what stands in a record before an action's change; called after it, gives what takes that back: both as the
 * database has them, which may be another than what was sent. Null where it can't be taken back: where the action does
 * more than change the record, or something follows of it by itself.
 */
export async function noteBefore(
  at: TableWrite,
  key: Value[],
  { action, set, move, role }: ActionWay,
): Promise<() => Promise<PressDone | null>> {
  const columns = [...new Set([...Object.keys(set), ...(move ? [move.column] : [])])];
  const isFile = (column: string) => findColumn(at.table, column)?.kind === 'file';
  if (!isTakenBack(action)) return () => Promise.resolve(null);
  const was = await stored(at, key, columns);
  const happened = logOf(at.runner)?.happenings.length;
  return async () => {
    if (!was || logOf(at.runner)?.happenings.length !== happened) return null;
    const put = await stored(at, key, columns);
    // The file that stood there before is nobody's to give back.
    if (columns.some((column) => isFile(column) && was[column] !== put?.[column])) return null;
    return put && { id: recordId(key), role, was, put };
  };
}

/** What stands in columns of a record, kept from being changed; null where it is gone. */
export async function stored(
  at: TableWrite,
  key: Value[],
  names: readonly string[],
): Promise<Record<string, Value> | null> {
  const { runner, visit, view, table } = at;
  const tables = new Tables(visit.catalogue, table);
  const columns = names.flatMap((each) => findColumn(table, each) ?? []);
  const [row] = await runner.rows(
    sql`SELECT ${selectList(columns.map((column) => tables.column([], column)))} FROM ${tables.sql()}
      WHERE ${keyIs(tables.root, table, key)}${view.dialect.lock('change', tables.root)}`,
  );
  return row ? Object.fromEntries(columns.map((column, i) => [column.name, decode(column, row[i])])) : null;
}
