import { createHash } from 'node:crypto';
import { RateLimiterMySQL } from 'rate-limiter-flexible';
import type { Sequelize } from 'sequelize';
import { limiterClient } from './limiter-client';

/** Counts failed sign-ins in the database: after ten in a row for one person from one address, they must wait. */
export interface SignInFailures {
  /** Seconds to wait before the next try; 0 when one may be made now. */
  wait(who: string, address: string): Promise<number>;
  failed(who: string, address: string): Promise<void>;
  succeeded(who: string, address: string): Promise<void>;
}

const inRow = 10;
const quarterHour = 900;

export function signInFailures(sequelize: Sequelize): SignInFailures {
  const common = { storeClient: limiterClient(sequelize), storeType: 'pool', dbName: sequelize.getDatabaseName(), tableName: 'sign_in_failures', tableCreated: true };
  // Ten for one person from one address; a hundred for one person from anywhere, and from one address for anyone.
  const pair = new RateLimiterMySQL({ ...common, keyPrefix: 'pair', points: inRow, duration: 24 * 3600, blockDuration: quarterHour });
  const person = new RateLimiterMySQL({ ...common, keyPrefix: 'person', points: 100, duration: 3600, blockDuration: quarterHour });
  const origin = new RateLimiterMySQL({ ...common, keyPrefix: 'origin', points: 100, duration: 3600, blockDuration: quarterHour });
  // Hashed, so that the table holds no e-mail address.
  const key = (...parts: string[]) => createHash('sha256').update(parts.join('\n')).digest('hex');
  const limits = (who: string, address: string) => [[pair, key(who, address), inRow], [person, key(who), 100], [origin, key(address), 100]] as const;

  return {
    async wait(who, address) {
      const waits = await Promise.all(limits(who, address).map(async ([limiter, limitKey, points]) => {
        const state = await limiter.get(limitKey);
        return state && state.consumedPoints >= points ? Math.ceil(Math.max(state.msBeforeNext, 1000) / 1000) : 0;
      }));
      return Math.max(...waits);
    },
    async failed(who, address) {
      for (const [limiter, limitKey, points] of limits(who, address)) {
        try {
          const state = await limiter.consume(limitKey);
          if (state.consumedPoints >= points) await limiter.block(limitKey, quarterHour);
        } catch (error) {
          // The limiter rejects with its state when the limit is passed; anything else is a fault.
          if (error instanceof Error) throw error;
        }
      }
    },
    async succeeded(who, address) {
      await pair.delete(key(who, address));
    },
  };
}
