import type { Action } from '../../../core/definition/action';
import type { Value } from '../../../core/table/value';
import type { Transaction } from '../../sources/source';
import type { RowState } from '../read/read';
import type { Leaving } from '../view/leaving';
import type { RecordChange } from '../view/record-change';

/** What has happened to a record, with the actions that may have to follow by themselves. */
export interface Happening {
  table: string;
  key: Value[];
  what: 'made' | 'changed' | 'deleted';
  /** The move by which its state was changed. */
  move: string | null;
  follow: readonly Action[];
  /** Those whose condition held before. */
  held: ReadonlySet<Action>;
  /** Of one that is gone by now: what it was to each of them whose condition held. */
  was: ReadonlyMap<Action, RowState>;
  /** After how many others that followed by themselves. */
  depth: number;
}

/** What was done in a transaction that is not in the database. */
export interface TransactionLog {
  leaving: Leaving;
  happenings: Happening[];
  changes: RecordChange[];
  /** The action that is being done now. */
  action: string | null;
  /** Of what is being done now. */
  depth: number;
  /** By what it is done, where that matters to what follows. */
  by: DoneBy;
  /** One record is made, and nothing else is done. */
  isOne: boolean;
}

/** `form` is by which the first record is made; `brought` where records come by a file. */
export interface DoneBy {
  form?: string;
  brought?: true;
}

const logs = new WeakMap<Transaction, TransactionLog>();

/** Begins a log for a transaction; without one nothing leaves and nothing follows, as with imports. */
export function beginLog(runner: Transaction, by: DoneBy = {}, isOne = false): TransactionLog {
  const log: TransactionLog = {
    leaving: { mails: [], calls: [] },
    happenings: [],
    changes: [],
    action: null,
    depth: 0,
    by,
    isOne,
  };
  logs.set(runner, log);
  return log;
}

/** Does the work of an action: what it changes is noted as done by it. */
export async function inAction<T>(runner: object, action: string, work: () => Promise<T>): Promise<T> {
  const log = logOf(runner);
  if (!log) return work();
  const outer = log.action;
  log.action = action;
  try {
    return await work();
  } finally {
    log.action = outer;
  }
}

export const logOf = (runner: object): TransactionLog | undefined => logs.get(runner as Transaction);

/** As the transaction's `attempt`: what is taken back leaves nothing in its log. */
export async function attempting<T>(runner: Transaction, work: () => Promise<T | null>): Promise<T | null> {
  const log = logs.get(runner);
  const before = log && [log.leaving.mails.length, log.leaving.calls.length, log.happenings.length, log.changes.length];
  const forget = () => {
    if (!log || !before) return;
    log.leaving.mails.length = before[0]!;
    log.leaving.calls.length = before[1]!;
    log.happenings.length = before[2]!;
    log.changes.length = before[3]!;
  };
  let done: T | null;
  try {
    done = await runner.attempt(work);
  } catch (error) {
    forget();
    throw error;
  }
  if (done === null) forget();
  return done;
}
