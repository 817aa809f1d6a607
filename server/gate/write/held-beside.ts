import { bound, joined, raw, sql } from '../../../core/sql/sql';
import type { Transaction } from '../../sources/source';
import { Refused } from '../view/errors';
import type { HeldBeside } from '../view/visit';

/**
 * Lets go what is held, in the transaction of the records: both are kept, or neither. Throws Refused where somebody
 * took it away in between.
 */
export async function letGoBeside(runner: Transaction, { schema, mails, calls }: HeldBeside): Promise<void> {
  for (const [table, keys] of [
    ['outbox', mails],
    ['outside_calls', calls],
  ] as const) {
    if (keys.length === 0) continue;
    const known = joined(
      keys.map((key) => bound(key)),
      sql`, `,
    );
    const own = raw(`\`${schema.replaceAll('`', '``')}\`.${table}`);
    const left = await runner.write(
      sql`UPDATE ${own} SET state = 'waiting' WHERE state = 'held' AND once_key IN (${known})`,
    );
    if (left !== keys.length) throw new Refused('This took too long, so nothing was done. Try it again.');
  }
}
