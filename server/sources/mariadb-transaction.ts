import type { Connection } from 'mariadb';
import { isOutcomeUnknown, isSourceAway } from './connection-problem';
import { NotKept, OutcomeUnknown } from './outcome-unknown';
import type { Transaction } from './source';

/** `alone`: a statement that was the only one keeps what it does, or has by now. */
type State = 'not begun' | 'begun' | 'alone';

/**
 * Does the work in a transaction on a connection, which begins with the first statement; without any there is none, and
 * one that is sent as the `last` while it is the first stands by itself. `plain` runs statements as they are.
 */
export async function inTransaction<T>(
  connection: Connection,
  plain: Transaction,
  work: (runner: Transaction) => Promise<T>,
  keep: boolean,
): Promise<T> {
  const now = { state: 'not begun' as State };
  const begin = async () => {
    if (now.state === 'alone') throw new Error('a statement after the last one of its transaction');
    if (now.state === 'begun') return;
    now.state = 'begun';
    await connection.beginTransaction();
  };
  const runner: Transaction = {
    many: (statement, rows) => begin().then(() => plain.many(statement, rows)),
    attempt: (attempted) => begin().then(() => plain.attempt(attempted)),
    rows: (statement) => begin().then(() => plain.rows(statement)),
    write: (statement) => begin().then(() => plain.write(statement)),
    last: async (statement) => {
      if (now.state !== 'not begun' || !keep) return runner.rows(statement);
      now.state = 'alone';
      return plain.rows(statement).catch((error: unknown) => {
        // Of what the database refuses nothing is kept; of one that was cut off nobody knows.
        if (!isLost(error) || isRefusedByNode(error)) now.state = 'not begun';
        throw error;
      });
    },
  };
  let result: T;
  try {
    result = await work(runner);
  } catch (error) {
    // Whatever went wrong after it, it is not to be done again.
    if (now.state === 'alone') throw new OutcomeUnknown(error);
    // The first error is what is told, also where the connection is gone by now.
    if (now.state === 'begun') await connection.rollback().catch(() => undefined);
    throw isSourceAway(error) ? new NotKept(error) : error;
  }
  if (now.state !== 'begun') return result;
  if (!keep) {
    await connection.rollback();
    return result;
  }
  try {
    await connection.commit();
    return result;
  } catch (error) {
    throw isLost(error) ? new OutcomeUnknown(error) : error;
  }
}

/** A node without the others of its cluster does nothing that it is asked (1047). */
const isRefusedByNode = (error: unknown): boolean => (error as { errno?: number }).errno === 1047;

const isLost = (error: unknown): boolean => isSourceAway(error) || isOutcomeUnknown(error);
