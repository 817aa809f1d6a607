import type { ActionWay } from '../../../core/access/rights';
import { columnLabel } from '../../../core/definition/definition';
import { bound, joined, sql, type Sql } from '../../../core/sql/sql';
import { findTable, plainLabel } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import { readState, type RowState } from '../read/read';
import type { OpenRecord } from '../view/open-record';
import { recordId } from '../view/record-id';
import type { TableWrite } from '../view/table-visit';
import { storedTable } from '../view/tables';
import { yes } from '../view/view-sql';
import { refuseForeignElsewhere, type Asked } from './asked';
import { refuseUnfilled } from './unfilled';
import { refuseBroken, refuseKept } from './field-rules';
import { happened, watch } from './happenings';
import { insertAs } from './insert';
import { refuseForeignCombinations } from './references';
import { callsLeaving, mailsLeaving, saidByAsks, valuesFor, type ValuesOf } from './step-values';
import { noteBefore, type PressDone } from './press-done';
import { inAction, logOf } from './transaction-log';
import { assignments, keeps, readableError, stamped, underPolicy } from './write';

/** What came of a press. */
export interface Acted {
  /** The record as the person sees it then; null when it has left their view. */
  record: OpenRecord | null;
  /** What was made, in the order of the steps; the id where the person sees it. */
  made: { table: string; id: string | null }[];
  /** What takes it back, where that was asked for and can be. */
  takesBack?: PressDone | null;
}

export interface HowDone {
  /** Whether it is noted what it takes to take it back. */
  notes?: boolean;
  /** Without it nothing is read of what came of it. */
  tells?: boolean;
  /** The role of services by which it is done, where nobody pressed. */
  by?: string | null;
  /** The record is deleted by now: what would be put into it is left out. */
  isGone?: boolean;
}

/**
 * Does the steps of an action with a record, and notes what is to leave. Null, and nothing done, when what must hold
 * afterwards does not.
 */
export function doSteps(
  at: TableWrite,
  key: Value[],
  before: RowState,
  way: ActionWay,
  asked: Asked,
  how: HowDone = {},
): Promise<Acted | null> {
  return inAction(at.runner, way.action.id, () => stepsDone(at, key, before, way, asked, how));
}

async function stepsDone(
  at: TableWrite,
  key: Value[],
  before: RowState,
  way: ActionWay,
  asked: Asked,
  { tells = true, by = null, isGone = false, notes = false }: HowDone,
): Promise<Acted | null> {
  const of: ValuesOf = { at, key, before, asked };
  const noted = notes && !isGone ? await noteBefore(at, key, way) : null;
  const set = isGone ? new Map<string, Value>() : await changeRecord(of, way);
  if (!set) return null;
  const takesBack = (await noted?.()) ?? null;
  const made: Acted['made'] = [];
  const keys: NonNullable<ValuesOf['made']> = [];
  for (const make of way.makes) {
    const { table: name, values } = make.step;
    const table = findTable(at.visit.catalogue, name)!;
    const maker = { role: way.role, ...make };
    const created = await saidByAsks(values, null, plainLabel, async () => {
      const put = valuesFor({ ...of, made: keys }, table, values);
      await refuseForeignElsewhere({ ...at, table }, way.action, values, put);
      return insertAs({ ...at, table }, maker, put, tells);
    });
    if (!created) return null;
    made.push({ table: name, id: created.id });
    keys.push({ table, key: created.key });
  }
  const record = tells ? ((await readState(at, key, [], false))?.record ?? null) : null;
  const log = logOf(at.runner);
  const { action } = way;
  const about = { action, table: at.table.name, id: recordId(key), by };
  log?.leaving.mails.push(...mailsLeaving(action, of, set).map((mail) => ({ ...mail, ...about })));
  log?.leaving.calls.push(...callsLeaving(action, of, set).map((call) => ({ ...call, ...about })));
  return { record, made, ...(takesBack ? { takesBack } : {}) };
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
    const held = await watch(at, key);
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
    if (!(await keeps(at, key, [way.after]))) return null;
    happened(at, key, 'changed', { held, move: move?.move.id ?? null });
    return set;
  });
}
