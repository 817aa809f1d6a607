import { MariadbSource } from './mariadb';
import { PostgresSource } from './postgres';
import type { Source } from './source';

export const databaseKinds = ['mariadb', 'postgresql'] as const;
export const tlsModes = ['off', 'on', 'verified'] as const;

/** A database that a builder connected: how to reach it, password and all. Never sent to a browser. */
export interface ConnectedDatabase {
  kind: (typeof databaseKinds)[number];
  host: string;
  port: number;
  /** The database to sign in to; of MariaDB the schema stands for it. */
  database: string;
  user: string;
  password: string;
  /** `on` encrypts, `verified` also asks for a certificate that this machine trusts. */
  tls: (typeof tlsModes)[number];
}

/** What the drivers take for TLS. */
export function tlsOption(tls: ConnectedDatabase['tls']): false | { rejectUnauthorized: boolean } {
  return tls === 'off' ? false : { rejectUnauthorized: tls === 'verified' };
}

/** So long a statement may run in a database that isn't ours, in seconds. */
export const statementSeconds = 30;

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
