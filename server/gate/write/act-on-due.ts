import type { ActionWay } from '../../../core/access/rights';
import type { TimedAction } from '../../../core/definition/action';
import { and, bound, joined, or, raw, sql } from '../../../core/sql/sql';
import { findColumn } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import type { Source, Transaction } from '../../sources/source';
import { decode } from '../view/decode';
import { NotFound, Refused } from '../view/errors';
import { behind, orderBy, readCursor, writeCursor, type OrderTerm } from '../view/order';
import { recordId } from '../view/record-id';
import { atTable, type TableWrite } from '../view/table-visit';
import { Tables } from '../view/tables';
import type { Visit } from '../view/visit';
import { stateFor } from './happenings';
import { outcomeOf } from './several';
import { doSteps } from './steps';
import { writing } from './writing';

/** What came of the records that were due, as far as they were gone through. */
export interface DueBatch {
  /** Where the next ones begin; null at the end. */
  place: string | null;
  done: number;
  refused: number;
  /** Why the first of those could not be done. */
  why: string | null;
}

export interface HowDue {
  from: string | null;
  atMost: number;
  /** A run kept beside the records, whose place is written in their transaction; only whoever has it in hand may. */
  beside: { schema: string; run: number; by: string } | null;
  /** Called before the transaction ends, where nothing is kept beside. */
  beforeKeeping(batch: DueBatch): Promise<void>;
}

/**
 * Does an action of a time with the next records for which it holds, in the order of their keys and one transaction,
 * each by itself: as its service, which `visit` is of.
 */
export function actOnDue(source: Source, visit: Visit, action: TimedAction, how: HowDue): Promise<DueBatch> {
  return writing(source, visit, {}, async (runner) => {
    const at = atTable(runner, visit, action.table);
    const ways = waysOf(at, action);
    if (ways.length === 0 || at.table.key.length === 0) throw new NotFound('action');
    const keys = await dueKeys(at, ways, how);
    const batch: DueBatch = { place: null, done: 0, refused: 0, why: null };
    for (const key of keys.slice(0, how.atMost)) {
      const { isDone, why } = await one(at, key, action);
      if (isDone) batch.done += 1;
      else if (why !== null) {
        batch.refused += 1;
        batch.why ??= why;
      }
    }
    if (keys.length > how.atMost) batch.place = writeCursor(keys[how.atMost - 1]!.map(String));
    if (how.beside) await keepPlace(runner, how.beside, batch);
    else await how.beforeKeeping(batch);
    return batch;
  });
}

const waysOf = ({ view, table }: TableWrite, action: TimedAction): ActionWay[] =>
  view
    .view(table)
    .lenses.flatMap(({ role, rows, actions }) =>
      actions.filter((own) => own.action === action).map((own) => ({ ...own, role, rows })),
    );

/** One more than are done, so that it is known whether there are any left. */
async function dueKeys(at: TableWrite, ways: readonly ActionWay[], { from, atMost }: HowDue): Promise<Value[][]> {
  const { runner, visit, view, table } = at;
  const tables = new Tables(visit.catalogue, table);
  const columns = table.key.map((column) => findColumn(table, column)!);
  const terms: OrderTerm[] = columns.map((column) => ({
    sql: tables.raw([column.name]),
    column,
    descending: false,
  }));
  const due = joined(
    ways.map((way) => sql`((${view.filter(way.rows, tables)}) AND (${view.filter(way.where, tables)}))`),
    or,
  );
  const where = joined(
    [
      view.rows(tables),
      sql`(${due})`,
      ...(from === null ? [] : [behind(terms, readCursor(from, terms), view.dialect)]),
    ],
    and,
  );
  const rows = await runner.rows(
    sql`SELECT ${joined(
      terms.map((term) => term.sql),
      sql`, `,
    )} FROM ${tables.sql()} WHERE ${where} ORDER BY ${orderBy(terms, view.dialect)} LIMIT ${raw(String(atMost + 1))}`,
  );
  return rows.map((row) => columns.map((column, i) => decode(column, row[i])));
}

/** Neither done nor refused is one for which it holds no more when its turn comes. */
async function one(
  at: TableWrite,
  key: Value[],
  action: TimedAction,
): Promise<{ isDone: boolean; why: string | null }> {
  const id = recordId(key);
  let isDue = true;
  const outcome = await outcomeOf(at.runner, at.visit, async () => {
    const state = await stateFor(at, key, action);
    const found = state?.rights.actions.find((each) => each.action === action);
    isDue = found !== undefined;
    for (const way of found?.ways ?? [])
      if (await doSteps(at, key, state!, way, new Map(), { tells: false, by: way.role })) return { id, record: null };
    if (!isDue) return { id, record: null };
    throw new Refused('With this the record would no longer be what must hold of it afterwards.');
  });
  if (!isDue) return { isDone: false, why: null };
  return { isDone: outcome.done, why: outcome.done ? null : outcome.error.message };
}

/** Throws Refused where somebody else has the run in hand by now. */
async function keepPlace(
  runner: Transaction,
  { schema, run, by }: NonNullable<HowDue['beside']>,
  { place, done, refused, why }: DueBatch,
): Promise<void> {
  const own = raw(`\`${schema.replaceAll('`', '``')}\`.timed_runs`);
  const kept = await runner.write(
    sql`UPDATE ${own} SET place = ${bound(place)}, state = ${bound(place === null ? 'done' : 'running')},
      done = done + ${bound(done)}, refused = refused + ${bound(refused)}, problem = COALESCE(problem, ${bound(why)}),
      beat_at = UTC_TIMESTAMP(3) WHERE id = ${bound(run)} AND taken_by = ${bound(by)} AND state = 'running'`,
  );
  if (kept !== 1) throw new Refused('Another server goes on with this.');
}
