import { randomUUID } from 'node:crypto';
import { setTimeout as sleep } from 'node:timers/promises';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import { prepared, preparedWrite } from './prepared';

/** In milliseconds. */
interface Times {
  /** A server that says nothing for so long has it no more. */
  holds: number;
  renewedEvery: number;
  /**
   * What has run out is another's only once nothing was heard for this long more: its holder may have been kept from
   * saying so, as a cluster lets everybody wait while a table is changed.
   */
  grace: number;
}

const usual: Times = { holds: 15_000, renewedEvery: 3000, grace: 4000 };

/** As long as somebody who is gone can keep others from it. */
export const longestHeld = usual.holds + usual.grace + 2000;

const untilSql = ({ holds }: Times) => `UTC_TIMESTAMP(3) + INTERVAL ${holds * 1000} MICROSECOND`;

/**
 * The right of one server alone to change the shape of a schema's tables: a row that it renews while it works, since
 * the locks of a database are those of one node of a cluster.
 */
export class ShapeLease {
  private readonly renewing: NodeJS.Timeout;

  private constructor(
    private readonly sequelize: Sequelize,
    private readonly schema: string,
    private readonly holder: string,
    times: Times,
  ) {
    this.renewing = setInterval(() => {
      const text = `UPDATE shape_leases SET held_until = ${untilSql(times)} WHERE schema_name = ? AND holder = ?`;
      // Where the database is away it is tried again; where it is another's by now, that is seen before anything else.
      preparedWrite(sequelize, text, [schema, holder]).catch(() => undefined);
    }, times.renewedEvery).unref();
  }

  /** Takes it as soon as nobody has it, for as many milliseconds; null where somebody has it still. */
  static async take(sequelize: Sequelize, schema: string, patience: number, times = usual): Promise<ShapeLease | null> {
    const holder = randomUUID();
    const until = untilSql(times);
    const taken = () => new ShapeLease(sequelize, schema, holder, times);
    const deadline = performance.now() + patience;
    let ranOut = null as { what: string; since: number } | null;
    for (;;) {
      const insert = `INSERT IGNORE INTO shape_leases (schema_name, holder, held_until) VALUES (?, ?, ${until})`;
      if (await wrote(sequelize, insert, [schema, holder])) return taken();
      const [row] = await prepared(
        sequelize,
        `SELECT holder, CAST(held_until AS CHAR), held_until < UTC_TIMESTAMP(3) FROM shape_leases
          WHERE schema_name = ?`,
        [schema],
      );
      const now = performance.now();
      if (row && Number(row[2]) === 1) {
        const [other, heldUntil] = [String(row[0]), String(row[1])];
        const what = `${other} ${heldUntil}`;
        if (ranOut?.what !== what) ranOut = { what, since: now };
        const text = `UPDATE shape_leases SET holder = ?, held_until = ${until}
          WHERE schema_name = ? AND holder = ? AND held_until = ?`;
        if (now - ranOut.since >= times.grace && (await wrote(sequelize, text, [holder, schema, other, heldUntil])))
          return taken();
      } else ranOut = null;
      if (now >= deadline) return null;
      await sleep(200);
    }
  }

  /**
   * Throws where it is another server's by now: nothing may be changed any more. In a transaction it stays this one's
   * to the transaction's end.
   */
  async check(transaction?: Transaction): Promise<void> {
    const found = await this.sequelize.query(
      `SELECT 1 FROM shape_leases WHERE schema_name = ? AND holder = ?${transaction ? ' FOR UPDATE' : ''}`,
      { replacements: [this.schema, this.holder], type: QueryTypes.SELECT, transaction },
    );
    if (found.length === 0)
      throw new Problem(
        409,
        'shape-busy',
        'This took so long that another server went on with the tables. See how they are now, and try again.',
      );
  }

  async giveBack(): Promise<void> {
    clearInterval(this.renewing);
    const text = 'DELETE FROM shape_leases WHERE schema_name = ? AND holder = ?';
    // Where the database is away it runs out by itself.
    await preparedWrite(this.sequelize, text, [this.schema, this.holder]).catch(() => undefined);
  }
}

/** What servers before the only one had is nobody's. */
export async function forgetShapeLeases(sequelize: Sequelize): Promise<void> {
  await sequelize.query('DELETE FROM shape_leases');
}

/** Of two nodes that write the same row at the same time one is told that it can't. */
async function wrote(sequelize: Sequelize, text: string, params: string[]): Promise<boolean> {
  try {
    return (await preparedWrite(sequelize, text, params)) === 1;
  } catch (error) {
    if ([1213, 1205].includes((error as { errno?: number }).errno ?? 0)) return false;
    throw error;
  }
}
