import { createConnection } from 'mariadb';
import pg from 'pg';
import { setTimeout as sleep } from 'node:timers/promises';
import { ConnectionProblem, connectionProblemOf, noDatabase } from './connection-problem';
import { reachableAddress } from './reachable';
import { tlsOption, type ConnectedDatabase } from './connected-database';

/** What a trial connection found. */
export interface TriedConnection {
  schemas: string[];
  /** What the account may do beyond what a portal needs. */
  warnings: string[];
}

/**
 * So long a database may take to answer; where none does, the answer comes after this time whatever the reason, so that
 * it tells nothing of it.
 */
const waits = 4000;

/**
 * Signs in, lists the schemas that could be connected, looks at the account's rights, and signs out. Throws
 * ConnectionProblem.
 */
export async function tryConnection(known: ConnectedDatabase, privateAddresses: boolean): Promise<TriedConnection> {
  const address = await reachableAddress(known.host, privateAddresses);
  const began = performance.now();
  // Reached at the address that was looked at, whatever the name leads to a moment later.
  const trying = known.kind === 'postgresql' ? tryPostgres(known, address) : tryMariadb(known, address);
  // What listens may let itself be spoken to and never answer: no driver's own limit covers all of it.
  const late = new AbortController();
  try {
    return await Promise.race([
      trying,
      sleep(waits, null, { signal: late.signal }).then(() => Promise.reject(noDatabase(known))),
    ]);
  } catch (error) {
    trying.catch(() => undefined);
    const problem =
      error instanceof ConnectionProblem
        ? error
        : isForeign(error)
          ? noDatabase(known)
          : (connectionProblemOf(error, known) ?? noDatabase(known));
    if (problem.message === noDatabase(known).message) await sleep(Math.max(0, waits - (performance.now() - began)));
    throw problem;
  } finally {
    late.abort();
  }
}

/** What speaks no database's language in answer to the wish for encryption: pg's own words. */
function isForeign(error: unknown): boolean {
  return /error establishing an SSL connection/i.test((error as Error).message);
}

async function tryMariadb(
  { host: servername, port, user, password, database, tls }: ConnectedDatabase,
  host: string,
): Promise<TriedConnection> {
  const option = tlsOption(tls);
  const ssl = option && { ...option, servername };
  const connection = await createConnection({
    host,
    port,
    user,
    password,
    database: database || undefined,
    connectTimeout: waits,
    ...(ssl ? { ssl } : {}),
  });
  // What it says unasked, or between two answers, is no reason for this server to end.
  connection.on('error', () => undefined);
  try {
    const rows = await connection.query<{ name: string }[]>(
      'SELECT SCHEMA_NAME name FROM information_schema.SCHEMATA WHERE SCHEMA_NAME NOT IN ' +
        "('information_schema', 'mysql', 'performance_schema', 'sys') ORDER BY 1",
    );
    const grants = (await connection.query<Record<string, string>[]>('SHOW GRANTS')).map(
      (row) => Object.values(row)[0]!,
    );
    const wide = grants.filter((grant) => / ON \*\.\* /.test(grant) && !grant.startsWith('GRANT USAGE ON'));
    const warnings = [
      ...(wide.some((grant) => /ALL PRIVILEGES|SUPER|CREATE USER|FILE/.test(grant))
        ? [
            'This account may administer the whole server. Make one that may only read and write the tables of ' +
              'the portal.',
          ]
        : []),
      ...(grants.some((grant) => /WITH GRANT OPTION/.test(grant))
        ? ['This account may give its rights to others. A portal never needs that.']
        : []),
    ];
    return { schemas: rows.map((row) => row.name), warnings };
  } finally {
    await connection.end();
  }
}

async function tryPostgres(
  { host: servername, port, user, password, database, tls }: ConnectedDatabase,
  host: string,
): Promise<TriedConnection> {
  const option = tlsOption(tls);
  const client = new pg.Client({
    host,
    port,
    user,
    password,
    database,
    ssl: option && { ...option, servername },
    connectionTimeoutMillis: waits,
  });
  client.on('error', () => undefined);
  await client.connect();
  try {
    const schemas = await client.query<{ name: string }>(
      "SELECT nspname AS name FROM pg_namespace WHERE nspname NOT LIKE 'pg\\_%' AND nspname <> " +
        "'information_schema' AND has_schema_privilege(oid, 'USAGE') ORDER BY 1",
    );
    const [role] = (
      await client.query<{ all: boolean; more: boolean }>(
        'SELECT rolsuper OR rolbypassrls AS all, rolcreaterole OR rolcreatedb AS more FROM pg_roles WHERE ' +
          'rolname = current_user',
      )
    ).rows;
    const warnings = [
      ...(role?.all
        ? [
            'This account is above all rules of the database. Make one that may only read and write the tables ' +
              'of the portal.',
          ]
        : []),
      ...(role?.more ? ['This account may make databases or accounts. A portal never needs that.'] : []),
    ];
    return { schemas: schemas.rows.map((row) => row.name), warnings };
  } finally {
    await client.end();
  }
}
