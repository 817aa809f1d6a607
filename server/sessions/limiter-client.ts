import type { Connection } from 'mariadb';
import type { Sequelize } from 'sequelize';

type Answer = (error: unknown, rows?: unknown) => void;

/**
 * The pool as rate-limiter-flexible wants its client: callbacks, and `??` for names, neither of which MariaDB's own
 * driver has. Connections come from Sequelize's pool.
 */
export function limiterClient(sequelize: Sequelize) {
  const manager = sequelize.connectionManager;
  const wrap = (connection: Connection) => ({
    query(text: string, params: unknown[] | Answer, done?: Answer): void {
      const answer = typeof params === 'function' ? params : done!;
      const values = typeof params === 'function' ? [] : [...params];
      const named = text.replaceAll('??', () => `\`${String(values.shift()).replaceAll('`', '``')}\``);
      connection
        .query({ sql: named, bigIntAsNumber: true, supportBigNumbers: true, bigNumberStrings: false }, values)
        .then((rows) => answer(null, rows), answer);
    },
    rollback: () => void connection.rollback(),
    release: () => manager.releaseConnection(connection as never),
  });
  return {
    getConnection(done: (error: unknown, connection?: ReturnType<typeof wrap>) => void): void {
      manager.getConnection({ type: 'write' }).then((connection) => done(null, wrap(connection as Connection)), done);
    },
  };
}
