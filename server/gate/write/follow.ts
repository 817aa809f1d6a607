import type { Action } from '../../../core/definition/action';
import { findTable } from '../../../core/table/catalogue';
import { Problem } from '../../../core/refusals/problem';
import type { Transaction } from '../../sources/source';
import { Refused } from '../view/errors';
import { viewSql } from '../view/view-sql';
import type { Visit } from '../view/visit';
import { serviceAt, stateFor } from './happenings';
import { doSteps } from './steps';
import { logOf, type Happening } from './transaction-log';

/** So many may follow one after the other: what sets itself off is stopped, and nothing of it is kept. */
const deepest = 8;

/**
 * Does what follows by itself of all that happened in a transaction, and of that again. Throws where something that
 * must follow can't be done: then nothing is.
 */
export async function followUp(runner: Transaction, visit: Visit): Promise<void> {
  const log = logOf(runner);
  if (!log) return;
  for (let next = log.happenings.shift(); next; next = log.happenings.shift()) {
    if (next.depth >= deepest)
      throw new Refused('This sets itself off again and again, so nothing was done. The portal’s keeper mends it.');
    log.depth = next.depth + 1;
    for (const action of next.follow) await followOne(runner, visit, next, action);
    log.depth = 0;
  }
}

async function followOne(runner: Transaction, visit: Visit, happening: Happening, action: Action): Promise<void> {
  const table = findTable(visit.catalogue, happening.table)!;
  const { key, held, was, what } = happening;
  const at = { runner, visit, view: viewSql(visit), table };
  const state = what === 'deleted' ? (was.get(action) ?? null) : await stateFor(at, key, action);
  const found = state?.rights.actions.find((each) => each.action === action);
  if (!state || !found || held.has(action)) return;
  try {
    for (const way of found.ways) {
      const done = await doSteps(serviceAt(at, action), key, state, way, new Map(), {
        tells: false,
        by: way.role,
        isGone: what === 'deleted',
      });
      if (done) return;
    }
  } catch (error) {
    if (!(error instanceof Problem) || error.status >= 500) throw error;
    throw cantFollow();
  }
  throw cantFollow();
}

/** What stands in the way may be nothing that whoever set it off is shown. */
const cantFollow = (): Refused =>
  new Refused("This can't be done: what must follow of it can't be. The portal’s keeper mends it.");
