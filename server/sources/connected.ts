import { type ConnectedDatabase, tlsOption } from './connected-database';
import { MariadbSource } from './mariadb';
import { PostgresSource } from './postgres';
import type { Source } from './source';

/** So long a statement may run in a database that isn't ours, in seconds. */
const statementSeconds = 30;

/** Opens one schema of a connected database, with one pool. */
export function openConnected(known: ConnectedDatabase, schema: string, connections = 10): Source {
  const { host, port, user, password, database } = known;
  const ssl = tlsOption(known.tls);
  return known.kind === 'postgresql'
    ? new PostgresSource(
        { host, port, user, password, database, ssl, statement_timeout: statementSeconds * 1000 },
        schema,
        connections,
      )
    : new MariadbSource({ host, port, user, password }, schema, connections, {
        ...(ssl ? { ssl } : {}),
        statementSeconds,
      });
}
