import { atTable, type TableVisit } from '../view/table-visit';
import { tableRights } from '../../../core/access/rights';
import { findColumn, findTable, type Table } from '../../../core/table/catalogue';
import { parseValue, sameValue, type Value } from '../../../core/table/value';
import { bound, joined, sql } from '../../../core/sql/sql';
import type { Runner, Source } from '../../sources/source';
import { refuseForeignFiles } from './column-files';
import { refuseBroken, refuseKept } from './field-rules';
import { refuseOthers } from './looked-after';
import { byColumn, named, namingColumns } from '../view/column-names';
import { Conflict, NotFound, Refused } from '../view/errors';
import { readState, type RowState } from '../read/read';
import type { OpenRecord } from '../view/open-record';
import { readRecordId, recordId } from '../view/record-id';
import { happened, watch } from './happenings';
import { refuseUnfilled } from './unfilled';
import { writing } from './writing';
import { refuseForeignCombinations, refuseForeignRelations } from './references';
import { storedTable } from '../view/tables';
import { yes } from '../view/view-sql';
import type { Visit } from '../view/visit';
import { assignments, keeps, readableError, readValues, stamped, underPolicy, type WriteOptions } from './write';

/** For each column to change: what the person was shown and what it shall hold. */
export type Changes = Record<string, { from?: unknown; to: unknown }>;

/**
 * Changes a record of the person's view, in one transaction: the record is locked, rights, conflicts and values are
 * tested, the policy stands in the UPDATE's own WHERE, and the keep-in rule is tested after it. A change of a
 * lifecycle's state is a move, made after the other changes. Returns the record as the person sees it then; null when
 * it has left their view (which a keep-in rule may allow).
 */
export async function edit(
  source: Source,
  visit: Visit,
  tableName: string,
  id: string,
  changes: Changes,
  options: WriteOptions = {},
): Promise<OpenRecord | null> {
  return writing(source, visit, options, (runner) => editIn(runner, visit, tableName, id, changes));
}

/** As `edit`, inside a transaction. */
export function editIn(
  runner: Runner,
  visit: Visit,
  tableName: string,
  id: string,
  sent: Changes,
): Promise<OpenRecord | null> {
  return namingColumns(findTable(visit.catalogue, tableName), () => {
    const at = atTable(runner, visit, tableName);
    return editColumns(at, id, byColumn(at.table, sent));
  });
}

async function editColumns(at: TableVisit, id: string, changes: Changes): Promise<OpenRecord | null> {
  const { view, table } = at;
  const key = readRecordId(table, id);
  const before = key && (await readState(at, key, [], true));
  if (!before) throw new NotFound();

  const { state: stateColumn } = tableRights(view.view(table));
  const { [stateColumn ?? '']: moved, ...plain } = changes;
  const values = await changedValues(at, plain, before);
  // That a record is in a state already is told to those alone who see which one it is in.
  const isThere =
    stateColumn !== null && moved?.to === before.state && before.rights.cell(stateColumn).level === 'shown';
  if (stateColumn !== null && moved && !isThere) refuseStaleState(stateColumn, moved, before);
  const held = await watch(at, key);
  if (values.size > 0) await change(at, key, values, before);
  const moving = stateColumn !== null && moved !== undefined && !isThere;
  const made = moving ? await move(at, key, stateColumn, String(moved.to), before) : null;
  if (values.size > 0 || made !== null) happened(at, key, 'changed', { held, move: made });
  return (await readState(at, key, [], false))?.record ?? null;
}

/**
 * What the changes come to, once rights, values and conflicts are tested. Masked text that comes back as it was changes
 * nothing.
 */
async function changedValues(at: TableVisit, changes: Changes, before: RowState): Promise<Map<string, Value>> {
  const { visit, table } = at;
  const { record } = before;
  refuseForeignColumns(changes, record);
  const unseen = (column: string) => !record.editable.includes(named(column));
  const sent = Object.entries(changes).filter(
    ([column, change]) => !unseen(column) || !sameText(change.to, record.values[named(column)]),
  );
  const values = readValues(
    table,
    sent.map(([column, change]) => [column, change.to]),
  );
  await refuseForeignRelations(at, values);
  await refuseForeignFiles(
    visit,
    table,
    values,
    Object.fromEntries([...values.keys()].map((column) => [column, record.values[named(column)] ?? null])),
  );
  refuseStale(table, changes, values, record, unseen);
  return values;
}

function sameText(a: unknown, b: Value | undefined): boolean {
  return b !== undefined && a === b;
}

/** A column that isn't editable gets the same answer whether it is shown, masked, hidden or not there at all. */
function refuseForeignColumns(changes: Changes, record: OpenRecord): void {
  const refused = Object.keys(changes).filter(
    (column) => !record.editable.includes(named(column)) && !record.replaceable.includes(named(column)),
  );
  if (refused.length === 0) return;
  throw new Refused(
    'You may not change this.',
    Object.fromEntries(refused.map((column) => [column, "This can't be changed by you."])),
  );
}

/** Of a cell that is replaced unseen only what the person sees of it can be stale. */
function refuseStale(
  table: Table,
  changes: Changes,
  values: ReadonlyMap<string, Value>,
  record: OpenRecord,
  unseen: (column: string) => boolean,
): void {
  const conflicts: Conflict['fields'] = {};
  for (const [column, yours] of values) {
    const { from } = changes[column]!;
    const now = record.values[named(column)] ?? null;
    if (unseen(column)) {
      if (from !== undefined && record.values[named(column)] !== undefined && from !== now)
        conflicts[column] = { was: String(from), now, yours };
      continue;
    }
    const was = parseValue({ ...findColumn(table, column)!, nullable: true }, from);
    if (!(was.ok && sameValue(was.value, now)) && !sameValue(yours, now))
      conflicts[column] = { was: was.ok ? was.value : null, now, yours };
  }
  if (Object.keys(conflicts).length) throw new Conflict(conflicts);
}

async function change(at: TableVisit, key: Value[], values: Map<string, Value>, before: RowState): Promise<void> {
  const { view, table } = at;
  const { edit } = tableRights(view.view(table));
  const set = new Map([...values, ...stamped(view, before.rights.stamps, 'change')]);
  const { record } = before;
  const told = (column: string) => before.rights.edits(column);
  const differs = [...values].filter(([column, value]) => {
    const was = record.values[named(column)];
    return was === undefined || !sameValue(value, was);
  });
  const stewards = before.rights.asSteward(differs.map(([column]) => column));
  for (const { steward } of stewards) await refuseOthers(at, steward, recordId(key), new Map(differs));
  await refuseKept(at, key, new Set(differs.map(([column]) => column)), told);
  try {
    await underPolicy(at, key, sql`UPDATE ${storedTable(table)} SET ${assignments(set, view.dialect)}`, (tables) => [
      view.rows(tables),
      sql`(${view.anyRows(edit.rows, tables)})`,
    ]);
  } catch (error) {
    throw readableError(error, table, [...values.keys()]);
  }
  await refuseForeignCombinations(at, key, [...values.keys()]);
  await refuseBroken(at, key, { isNew: false, columns: new Set(set.keys()) }, told);
  // What only a steward may change must stay with that steward, whatever else the person may edit.
  const rules = [edit.keepIn, ...stewards.map(({ keepIn }) => [keepIn])];
  for (const each of rules)
    if (!(await keeps(at, key, each)))
      throw new Refused('With this change the record would no longer be yours to edit, so it was not saved.');
}

/** Of a state that is masked for the person only what they see of it can be stale, and only that is told. */
function refuseStaleState(column: string, { from, to }: Changes[string], before: RowState): void {
  const seen = before.record.values[named(column)];
  if (from === undefined || seen === undefined || from === seen) return;
  throw new Conflict({ [column]: { was: String(from), now: seen, yours: String(to) } });
}

/**
 * Takes the record to another state, when a listed move leads there and one of the person's roles that has the record
 * may make it; gives the move's id.
 */
async function move(at: TableVisit, key: Value[], column: string, to: string, before: RowState): Promise<string> {
  const { view, table } = at;
  const found = before.rights.moves.find((each) => each.move.to === to);
  if (!found) throw new Refused('You may not change this.', { [column]: "This can't be changed by you." });
  const set = new Map<string, Value>([...stamped(view, found.stamps, 'change'), [column, to]]);
  const told = (each: string) => before.rights.edits(each);
  await refuseKept(at, key, new Set([column]), told);
  try {
    await underPolicy(at, key, sql`UPDATE ${storedTable(table)} SET ${assignments(set, view.dialect)}`, (tables) => [
      view.rows(tables),
      sql`${tables.raw([column])} IN (${joined(
        found.move.from.map((state) => bound(state)),
        sql`, `,
      )})`,
      found.move.where ? view.condition(found.move.where, tables) : yes,
    ]);
  } catch (error) {
    throw readableError(error, table, [column]);
  }
  await refuseUnfilled(at, key, found.move.needs, (column) => before.record.editable.includes(named(column)));
  const written = { isNew: false, columns: new Set(set.keys()) };
  await refuseBroken(at, key, written, told);
  if (!(await keeps(at, key, found.after)))
    throw new Refused('With this change the record would no longer be yours to edit, so it was not saved.');
  return found.move.id;
}
