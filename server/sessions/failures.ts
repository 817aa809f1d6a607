import { createHash } from 'node:crypto';
import { setTimeout as sleep } from 'node:timers/promises';
import { RateLimiterMySQL, RateLimiterRes } from 'rate-limiter-flexible';
import type { Sequelize } from 'sequelize';
import { limiterClient } from './limiter-client';

/**
 * Counts tries to sign in, in the database. Each is counted before it is checked, so that many at once are no more than
 * many one after the other: after ten in a row for one person from one address they must wait. Many tries from one
 * address slow that address down and keep nobody else out.
 */
export interface SignInFailures {
  /**
   * Counts a try that is about to be made; gives the seconds to wait before the next when there were too many, and 0
   * when this one may be made.
   */
  begin(who: string, address: string): Promise<number>;
  /** The try was right: it does not count. */
  succeeded(who: string, address: string): Promise<void>;
}

const inRow = 10;
const quarterHour = 900;
/**
 * So many wrong tries an hour from one address are answered at once; each further one later than the one before, up to
 * so many milliseconds.
 */
const freely = 100;
const slowest = 5000;

/** How long a try waits, in milliseconds, by how many its address has made in the hour. */
export function slowDown(tries: number): number {
  return tries <= freely ? 0 : Math.min(slowest, (tries - freely) * 50);
}

export function signInFailures(
  sequelize: Sequelize,
  pause: (milliseconds: number) => Promise<unknown> = sleep,
): SignInFailures {
  const common = {
    storeClient: limiterClient(sequelize),
    storeType: 'pool',
    dbName: sequelize.getDatabaseName(),
    tableName: 'sign_in_failures',
    tableCreated: true,
  };
  const pair = new RateLimiterMySQL({
    ...common,
    keyPrefix: 'pair',
    points: inRow,
    duration: 24 * 3600,
    blockDuration: quarterHour,
  });
  // From anywhere (NIST SP 800-63B, 5.2.2 has a hundred in a row at most).
  const person = new RateLimiterMySQL({
    ...common,
    keyPrefix: 'person',
    points: 100,
    duration: 3600,
    blockDuration: quarterHour,
  });
  const origin = new RateLimiterMySQL({
    ...common,
    keyPrefix: 'origin',
    points: Number.MAX_SAFE_INTEGER,
    duration: 3600,
  });
  // Hashed, so that the table holds no e-mail address.
  const key = (...parts: string[]) => createHash('sha256').update(parts.join('\n')).digest('hex');

  return {
    async begin(who, address) {
      for (const [limiter, limitKey] of [
        [pair, key(who, address)],
        [person, key(who)],
      ] as const) {
        const { state, passed } = await counted(limiter, limitKey);
        if (!passed) return Math.ceil(Math.max(state.msBeforeNext, 1000) / 1000);
      }
      await pause(slowDown((await counted(origin, key(address))).state.consumedPoints));
      return 0;
    },
    async succeeded(who, address) {
      await pair.delete(key(who, address));
      await Promise.all([person.reward(key(who)), origin.reward(key(address))]);
    },
  };
}

/**
 * Counts once more. Two that begin the same count at one moment can stand in each other's way in the database: the
 * later counts again.
 */
async function counted(
  limiter: RateLimiterMySQL,
  limitKey: string,
): Promise<{ state: RateLimiterRes; passed: boolean }> {
  for (let tries = 1; ; tries++) {
    try {
      return { state: await limiter.consume(limitKey), passed: true };
    } catch (error) {
      // The limiter rejects with its state when the limit is passed; anything else is a fault.
      if (error instanceof RateLimiterRes) return { state: error, passed: false };
      if (tries === 5 || (error as { errno?: number }).errno !== 1213) throw error;
    }
  }
}
