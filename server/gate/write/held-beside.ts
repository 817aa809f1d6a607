import { bound, joined, raw, sql, type Sql } from '../../../core/sql/sql';
import type { Transaction } from '../../sources/source';
import { Refused } from '../view/errors';
import type { HeldBeside } from '../view/visit';

/** A table of the product's own, where its schema is on the server of the records. */
export const ownTable = (schema: string, table: string): Sql => raw(`\`${schema.replaceAll('`', '``')}\`.${table}`);

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
    const left = await runner.write(
      sql`UPDATE ${ownTable(schema, table)} SET state = 'waiting' WHERE state = 'held' AND once_key IN (${known})`,
    );
    if (left !== keys.length) throw new Refused('This took too long, so nothing was done. Try it again.');
  }
}
