import { createConnection } from 'mariadb';
import pg from 'pg';
import { connectionProblemOf } from './connection-problem';
import { tlsOption, type ConnectedDatabase } from './connected';

/** What a trial connection found. */
export interface TriedConnection {
  schemas: string[];
  /** What the account may do beyond what a portal needs. */
  warnings: string[];
}

const waits = 6000;

/** Signs in, lists the schemas that could be connected, looks at the account's rights, and signs out. Throws ConnectionProblem. */
export async function tryConnection(known: ConnectedDatabase): Promise<TriedConnection> {
  try {
    return await (known.kind === 'postgresql' ? tryPostgres(known) : tryMariadb(known));
  } catch (error) {
    throw connectionProblemOf(error, known) ?? error;
  }
}

async function tryMariadb({ host, port, user, password, database, tls }: ConnectedDatabase): Promise<TriedConnection> {
  const ssl = tlsOption(tls);
  const connection = await createConnection({ host, port, user, password, database: database || undefined, connectTimeout: waits, ...(ssl ? { ssl } : {}) });
  try {
    const rows = await connection.query<{ name: string }[]>("SELECT SCHEMA_NAME name FROM information_schema.SCHEMATA WHERE SCHEMA_NAME NOT IN ('information_schema', 'mysql', 'performance_schema', 'sys') ORDER BY 1");
    const grants = (await connection.query<Record<string, string>[]>('SHOW GRANTS')).map((row) => Object.values(row)[0]!);
    const wide = grants.filter((grant) => / ON \*\.\* /.test(grant) && !grant.startsWith('GRANT USAGE ON'));
    const warnings = [
      ...(wide.some((grant) => /ALL PRIVILEGES|SUPER|CREATE USER|FILE/.test(grant)) ? ['This account may administer the whole server. Make one that may only read and write the tables of the portal.'] : []),
      ...(grants.some((grant) => /WITH GRANT OPTION/.test(grant)) ? ['This account may give its rights to others. A portal never needs that.'] : []),
    ];
    return { schemas: rows.map((row) => row.name), warnings };
  } finally {
    await connection.end();
  }
}

async function tryPostgres({ host, port, user, password, database, tls }: ConnectedDatabase): Promise<TriedConnection> {
  const client = new pg.Client({ host, port, user, password, database, ssl: tlsOption(tls), connectionTimeoutMillis: waits });
  await client.connect();
  try {
    const schemas = await client.query<{ name: string }>("SELECT nspname AS name FROM pg_namespace WHERE nspname NOT LIKE 'pg\\_%' AND nspname <> 'information_schema' AND has_schema_privilege(oid, 'USAGE') ORDER BY 1");
    const [role] = (await client.query<{ all: boolean; more: boolean }>('SELECT rolsuper OR rolbypassrls AS all, rolcreaterole OR rolcreatedb AS more FROM pg_roles WHERE rolname = current_user')).rows;
    const warnings = [
      ...(role?.all ? ['This account is above all rules of the database. Make one that may only read and write the tables of the portal.'] : []),
      ...(role?.more ? ['This account may make databases or accounts. A portal never needs that.'] : []),
    ];
    return { schemas: schemas.rows.map((row) => row.name), warnings };
  } finally {
    await client.end();
  }
}
