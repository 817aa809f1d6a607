import type { ActionWay } from '../../../core/access/rights';
import { tableRights } from '../../../core/access/rights';
import { visibleColumns } from '../../../core/access/view';
import { actionsOf, type Action } from '../../../core/definition/action';
import { bound, joined, sql, type Sql } from '../../../core/sql/sql';
import { columnLabel } from '../../../core/definition/definition';
import { findTable, plainLabel } from '../../../core/table/catalogue';
import { sameValue, type Value } from '../../../core/table/value';
import type { Source, Transaction } from '../../sources/source';
import { readState, type RowState } from '../read/read';
import { named } from '../view/column-names';
import { Conflict, NotFound, Refused } from '../view/errors';
import type { OpenRecord } from '../view/open-record';
import { readRecordId } from '../view/record-id';
import { atTable, type TableWrite } from '../view/table-visit';
import { storedTable } from '../view/tables';
import { yes } from '../view/view-sql';
import type { Visit } from '../view/visit';
import { readAsked, refuseForeignElsewhere, type Asked } from './asked';
import { insertAs } from './create';
import { refuseUnfilled } from './edit';
import { letGoBeside, type HeldBeside } from './held-beside';
import { refuseBroken, refuseKept } from './field-rules';
import { refuseForeignCombinations } from './references';
import {
  callsLeaving,
  mailsLeaving,
  pathsMailed,
  pathsRead,
  saidByAsks,
  valuesFor,
  type LeavingCall,
  type LeavingMail,
  type ValuesOf,
} from './step-values';
import { assignments, keeps, readableError, stamped, underPolicy, writing, type WriteOptions } from './write';

/** What a press carries: what was given to what the action asks, and what was seen of the record. */
export interface Press {
  asked: Record<string, unknown>;
  /** Values as they were shown, by path: where one that the action goes by is another now, nothing is done. */
  seen?: Record<string, unknown>;
}

/** What came of a press. */
export interface Acted {
  /** The record as the person sees it then; null when it has left their view. */
  record: OpenRecord | null;
  /** What was made, in the order of the steps; the id where the person sees it. */
  made: { table: string; id: string | null }[];
}

/** With what is to leave once it is kept. */
export interface ActedAndLeaving extends Acted {
  mails: LeavingMail[];
  calls: LeavingCall[];
}

type OfRecord = { id: string };

/** What is to leave, each with the id of the record that it is about. */
export interface Leaving {
  mails: (LeavingMail & OfRecord)[];
  calls: (LeavingCall & OfRecord)[];
}

/** How a press is done. */
export interface ActOptions extends WriteOptions {
  /**
   * Told what is to leave before it is kept: whatever it throws takes everything back. Gives what was written down for
   * it, where that lies on the same server: it is let go in the same transaction.
   */
  leave?: (leaving: Leaving) => Promise<HeldBeside | null>;
}

/**
 * Does an action with a record of the person's view, all of its steps in one transaction: the record is locked, the
 * right to the action is tested on it, the policy stands in the UPDATE's own WHERE, and what must hold afterwards is
 * tested after it. Throws Refused in one uniform sentence where the action can't be done with the record now.
 */
export async function act(
  source: Source,
  visit: Visit,
  table: string,
  id: string,
  action: string,
  press: Press,
  options: ActOptions = {},
): Promise<Acted> {
  return writing(source, visit, options, async (runner) => {
    const { mails, calls, ...acted } = await actIn(atTable(runner, visit, table), id, action, press);
    const of = <T>(each: T) => ({ ...each, id });
    if (!options.trial) await letLeave(runner, options, { mails: mails.map(of), calls: calls.map(of) });
    return acted;
  });
}

/** Has written down what is to leave, as the last that is done before all of it is kept. */
export async function letLeave(runner: Transaction, { leave }: ActOptions, leaving: Leaving): Promise<void> {
  if (leaving.mails.length + leaving.calls.length === 0) return;
  const held = await leave?.(leaving);
  if (held) await letGoBeside(runner, held);
}

/** As `act`, at a table inside a transaction; without `tells` nothing is read of what came of it. */
export async function actIn(
  at: TableWrite,
  id: string,
  actionId: string,
  press: Press,
  tells = true,
): Promise<ActedAndLeaving> {
  const { runner, visit } = at;
  const view = at.view.view(at.table);
  const action = actionsOf(visit.definition.actions, at.table.name).find((each) => each.id === actionId);
  if (!action || !tableRights(view).actions.includes(action)) throw new NotFound('action');
  const key = readRecordId(at.table, id);
  const seen = visibleColumns(view).map((column) => [column]);
  // What was seen is held against all of it; without that, only what the steps go by is read.
  const paths = [...(tells ? seen : seen.slice(0, 1)), ...pathsRead(action), ...pathsMailed(action)];
  const before = key && (await readState(at, key, paths, true));
  if (!before) throw new NotFound();
  const found = before.rights.actions.find((each) => each.action === action);
  if (!found) throw new Refused("This can't be done with this record now.");
  if (press.seen) refuseStale(action, found.ways[0]!, press.seen, before);
  const asked = await readAsked(at, action, press.asked);
  const [only, ...others] = found.ways;
  const lost = () => new Refused('With this the record would no longer be yours, so nothing was done.');
  if (others.length === 0) {
    const acted = await actAs(at, key, before, only!, asked, tells);
    if (!acted) throw lost();
    return acted;
  }
  for (const way of found.ways) {
    const acted = await runner.attempt(() => actAs(at, key, before, way, asked, tells));
    if (acted) return acted;
  }
  throw lost();
}

/** What the action writes or goes by must be as it was seen: a press that comes twice finds it changed. */
function refuseStale(action: Action, way: ActionWay, seen: Record<string, unknown>, { record }: RowState): void {
  const own = tableColumns(action, way);
  const conflicts: Conflict['fields'] = {};
  for (const column of own) {
    const path = named(column);
    const now = record.values[path];
    if (!Object.hasOwn(seen, path) || now === undefined || record.masked.includes(path)) continue;
    if (!sameValue(now, (seen[path] ?? null) as Value))
      conflicts[path] = { was: (seen[path] ?? null) as Value, now, yours: null };
  }
  if (Object.keys(conflicts).length > 0) throw new Conflict(conflicts);
}

function tableColumns(action: Action, way: ActionWay): Set<string> {
  const read = pathsRead(action).flatMap((path) => (path.length === 1 ? path : []));
  return new Set([...read, ...Object.keys(way.set), ...(way.move ? [way.move.column] : [])]);
}

/** Null, and nothing done, when what must hold afterwards does not. */
async function actAs(
  at: TableWrite,
  key: Value[],
  before: RowState,
  way: ActionWay,
  asked: Asked,
  tells: boolean,
): Promise<ActedAndLeaving | null> {
  const of: ValuesOf = { at, key, before, asked };
  const set = await changeRecord(of, way);
  if (!set) return null;
  const made: Acted['made'] = [];
  for (const make of way.makes) {
    const { table: name, values } = make.step;
    const table = findTable(at.visit.catalogue, name)!;
    const maker = { role: way.role, ...make };
    const created = await saidByAsks(values, null, plainLabel, async () => {
      const put = valuesFor(of, table, values);
      await refuseForeignElsewhere({ ...at, table }, way.action, values, put);
      return insertAs({ ...at, table }, maker, put, tells);
    });
    if (!created) return null;
    made.push({ table: name, id: created.id });
  }
  const record = tells ? ((await readState(at, key, [], false))?.record ?? null) : null;
  return { record, made, mails: mailsLeaving(way.action, of, set), calls: callsLeaving(way.action, of, set) };
}

const part = (rule: Sql): Sql => (rule === yes ? yes : sql`(${rule})`);

/** Gives what was put in; null, and nothing done, when what must hold afterwards does not. */
async function changeRecord(of: ValuesOf, way: ActionWay): Promise<ReadonlyMap<string, Value> | null> {
  const { at, key, before } = of;
  const { view, table } = at;
  const { move } = way;
  const told = (column: string) => before.rights.cell(column).level === 'shown';
  const called = (column: string) => columnLabel(at.visit.definition, table.name, column, plainLabel);
  const values = await saidByAsks(way.set, told, called, async () => {
    const put = valuesFor(of, table, way.set);
    await refuseForeignElsewhere(at, way.action, way.set, put);
    return put;
  });
  if (values.size === 0 && move === null) return values;
  const set = new Map<string, Value>([
    ...values,
    ...stamped(view, way.stamps, 'change'),
    ...(move ? [[move.column, move.move.to] as const] : []),
  ]);
  return saidByAsks(way.set, told, called, async () => {
    await refuseKept(at, key, new Set([...values.keys(), ...(move ? [move.column] : [])]), told);
    try {
      await underPolicy(at, key, sql`UPDATE ${storedTable(table)} SET ${assignments(set, view.dialect)}`, (tables) => [
        view.rows(tables),
        part(view.filter(way.rows, tables)),
        part(view.filter(way.where, tables)),
        ...(move
          ? [
              sql`${tables.raw([move.column])} IN (${joined(
                move.move.from.map((state) => bound(state)),
                sql`, `,
              )})`,
            ]
          : []),
      ]);
    } catch (error) {
      throw readableError(error, table, [...values.keys()]);
    }
    await refuseForeignCombinations(at, key, [...values.keys()]);
    if (move) await refuseUnfilled(at, key, move.move.needs, told);
    await refuseBroken(at, key, { isNew: false, columns: new Set(set.keys()) }, told);
    return (await keeps(at, key, [way.after])) ? set : null;
  });
}
