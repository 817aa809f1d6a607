import { atTable } from '../view/table-visit';
import { tableRights } from '../../../core/access/rights';
import { sql } from '../../../core/sql/sql';
import { findColumn, type Table } from '../../../core/table/catalogue';
import { parseValue, sameValue } from '../../../core/table/value';
import { DatabaseRefusal } from '../../sources/refusal';
import type { Runner, Source } from '../../sources/source';
import { byColumn, named } from '../view/column-names';
import { Conflict, NotFound, Refused } from '../view/errors';
import { readState } from '../read/read';
import type { OpenRecord } from '../view/open-record';
import { readRecordId } from '../view/record-id';
import type { Visit } from '../view/visit';
import { goes } from './happenings';
import { underPolicy, type WriteOptions } from './write';
import { writing } from './writing';
import { storedTable } from '../view/tables';

/**
 * Deletes a record of the person's view, in one transaction with the policy in the DELETE itself. `seen` is what the
 * person was shown of it, as far as a change of it shall be a conflict.
 */
export async function remove(
  source: Source,
  visit: Visit,
  tableName: string,
  id: string,
  seen: Record<string, unknown> = {},
  options: WriteOptions = {},
): Promise<void> {
  return writing(source, visit, options, (runner) => removeIn(runner, visit, tableName, id, seen));
}

/** As `remove`, inside a transaction. */
export async function removeIn(
  runner: Runner,
  visit: Visit,
  tableName: string,
  id: string,
  seen: Record<string, unknown> = {},
): Promise<void> {
  const at = atTable(runner, visit, tableName);
  const { view, table } = at;
  const key = readRecordId(table, id);
  const before = key && (await readState(at, key, [], true));
  if (!before) throw new NotFound();
  if (!before.rights.deletable) throw new Refused('You may not delete this record.');
  refuseStale(table, seen, before.record);
  await goes(at, key);
  try {
    await underPolicy(at, key, sql`DELETE FROM ${storedTable(table)}`, (tables) => [
      view.rows(tables),
      sql`(${view.anyRows(tableRights(view.view(table)).remove, tables)})`,
    ]);
  } catch (error) {
    // Whether the records that hold on to it are in the person's view or not is not told.
    if (error instanceof DatabaseRefusal && error.kind === 'still used')
      throw new Refused("Other records belong to this one, so it can't be deleted.");
    throw error;
  }
}

function refuseStale(table: Table, seen: Record<string, unknown>, record: OpenRecord): void {
  const conflicts: Conflict['fields'] = {};
  for (const [column, from] of Object.entries(byColumn(table, seen))) {
    const known = findColumn(table, column);
    const path = named(column);
    if (!known || !(path in record.values)) continue;
    const now = record.values[path]!;
    const was = record.masked.includes(path)
      ? { ok: true as const, value: from === null ? null : String(from) }
      : parseValue({ ...known, nullable: true }, from);
    if (!was.ok || !sameValue(was.value, now)) conflicts[path] = { was: was.ok ? was.value : null, now, yours: null };
  }
  if (Object.keys(conflicts).length) throw new Conflict(conflicts);
}
