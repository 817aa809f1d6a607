import { createConnection, type Connection } from 'mariadb';
import type { Sequelize } from 'sequelize';
import type { Catalogue, Column } from '../../core/table/catalogue';
import { isDiskFull, isSourceAway } from './connection-problem';
import { ShapeRefused } from './shape-refused';
import { AskedSource, type StoppableSource } from './asked-source';
import { type Asker, whileAsked } from './asker';
import { CatalogueChanged } from './catalogue-changed';
import { connectSequelize, strictInUtc, upToDate, type DatabaseAddress } from './connect-sequelize';
import { readCatalogue } from './mariadb-catalogue';
import { inTransaction } from './mariadb-transaction';
import { DatabaseRefusal } from './refusal';
import { type Sql, raw } from '../../core/sql/sql';
import { savedQueryMark, type RawRow, type Source, type Transaction, type TransactionKind } from './source';
import { type ColumnMeta, describedColumn } from './mariadb-described';

/**
 * Records are read as the driver has them, not as Sequelize's models would: decimals, dates and JSON as text, large
 * numbers whole, rows as arrays. Said once to each connection, since what is said with a statement is put together for
 * each.
 */
const driver = {
  typeCast: undefined,
  supportBigNumbers: false,
  bigNumberStrings: false,
  foundRows: true,
  jsonStrings: true,
  rowsAsArray: true,
  dateStrings: true,
  bigIntAsNumber: false,
  decimalAsNumber: false,
  insertIdAsNumber: false,
};

/** The database chose this transaction as a deadlock's victim, or it waited too long. */
const tryAgain = new Set([1213, 1205]);

/**
 * To find a row by its place or a key costs several times as much as to go on to the next of an index, and to put one
 * aside in memory less: weights set by hand after timing each.
 */
const weights: Record<string, number> = { Handler_read_rnd: 8, Handler_read_key: 4, Handler_tmp_write: 0.5 };

/** A column or table is gone since the catalogue was read. */
const catalogueChanged = new Set([1054, 1146]);
const handlerReads = raw(
  "SHOW SESSION STATUS WHERE Variable_name LIKE 'Handler_read%' OR Variable_name = 'Handler_tmp_write'",
);
const catalogueLasts = 30_000;
const rowsOfAPart = 20_000;

/** Changes of shape take as long as the table is large, and are asked for by builders on purpose. */
const shaping = /^(?:CREATE|ALTER|RENAME|DROP) /;

export interface MariadbOptions {
  ssl?: { rejectUnauthorized: boolean };
  /** So long any statement may run: for databases that aren't ours. */
  statementSeconds?: number;
  /** So long one may run that reads a saved query, where there is no limit for all. */
  savedQuerySeconds?: number;
  /** Whether it is the installation's own database, which may be a cluster. */
  own?: boolean;
}

/** What Sequelize's pool of connections can do beside what Sequelize tells of it. */
interface Pool {
  available: number;
  acquire(): Promise<Connection>;
  destroy(connection: Connection): Promise<void>;
}

/** A schema of a MariaDB server, through prepared statements on Sequelize's pool. */
export class MariadbSource implements StoppableSource {
  private readonly sequelize: Sequelize;
  private readonly savedQueryLimit: string;
  private readonly ssl: MariadbOptions['ssl'];
  private readonly own: boolean;
  private known: { catalogue: Promise<Catalogue>; at: number } | null = null;

  constructor(
    private readonly address: DatabaseAddress,
    private readonly schema: string,
    connections = 10,
    { ssl, statementSeconds, savedQuerySeconds = 30, own = false }: MariadbOptions = {},
  ) {
    this.ssl = ssl;
    this.own = own;
    // Each server runs only what is in its own kind of comment: MariaDB counts in seconds, MySQL in milliseconds.
    const limit =
      statementSeconds === undefined
        ? ''
        : ` /*M! , SESSION max_statement_time = ${Number(statementSeconds)} */ /*!80000 , SESSION ` +
          `max_execution_time = ${Number(statementSeconds) * 1000} */`;
    this.savedQueryLimit =
      statementSeconds === undefined ? `SET STATEMENT max_statement_time = ${Number(savedQuerySeconds)} FOR ` : '';
    this.sequelize = connectSequelize(address, schema, connections, {
      ...driver,
      ...(ssl ? { ssl } : {}),
      initSql: [strictInUtc + (own ? upToDate : '') + limit],
    });
  }

  catalogue(fresh = false): Promise<Catalogue> {
    if (fresh || !this.known || Date.now() - this.known.at > catalogueLasts) {
      const catalogue = this.withConnection((connection) =>
        readCatalogue((text, params) => connection.query({ sql: text, rowsAsArray: false }, params), this.schema),
      );
      this.known = { catalogue, at: Date.now() };
      catalogue.catch(() => (this.known = null));
    }
    return this.known.catalogue;
  }

  forget(): void {
    this.known = null;
  }

  askedBy(asker: Asker): Source {
    return new AskedSource(this, asker);
  }

  rows(statement: Sql, asker?: Asker): Promise<RawRow[]> {
    return this.withConnection((connection) => this.runner(connection).rows(statement), asker);
  }

  write(statement: Sql, asker?: Asker): Promise<number> {
    return this.withConnection((connection) => this.runner(connection).write(statement), asker);
  }

  measure(statement: Sql, asker?: Asker): Promise<{ rows: RawRow[]; reads: number }> {
    return this.withConnection(async (connection) => {
      const runner = this.runner(connection);
      const read = async () =>
        (await runner.rows(handlerReads)).reduce(
          (sum, row) => sum + Number(row[1]) * (weights[String(row[0])] ?? 1),
          0,
        );
      const before = await read();
      const rows = await runner.rows(statement);
      return { rows, reads: (await read()) - before };
    }, asker);
  }

  async transaction<T>(
    work: (runner: Transaction) => Promise<T>,
    { keep = true, isLarge = false }: TransactionKind = {},
    asker?: Asker,
  ): Promise<T> {
    const once = (connection: Connection) => inTransaction(connection, this.runner(connection), work, keep);
    for (let tries = 1; ; tries++) {
      try {
        return await this.withConnection(
          (connection) => (keep && isLarge && this.own ? inParts(connection, once) : once(connection)),
          asker,
        );
      } catch (error) {
        if (tries === 3 || !tryAgain.has((error as { errno?: number }).errno ?? 0)) throw error;
      }
    }
  }

  describe(select: Sql): Promise<Column[]> {
    return this.withConnection(async (connection) => {
      await connection.query('START TRANSACTION READ ONLY');
      try {
        const found = await connection.query<{ meta: ColumnMeta[] }>({
          sql: `SET STATEMENT max_statement_time = 5 FOR SELECT * FROM (${select.text}) described LIMIT 0`,
          metaAsArray: false,
        });
        return found.meta.map(describedColumn);
      } finally {
        await connection.query('ROLLBACK');
      }
    });
  }

  endIdle(): void {
    const { pool } = this.sequelize.connectionManager as unknown as { pool: Pool };
    // Each is taken first, so that it is nobody else's when it ends.
    for (let free = pool.available; free > 0; free--)
      pool.acquire().then(
        (connection) => pool.destroy(connection),
        () => undefined,
      );
  }

  async close(): Promise<void> {
    await this.sequelize.close();
  }

  private runner(connection: Connection): Transaction {
    const execute = async (statement: Sql): Promise<unknown> => {
      try {
        // Elsewhere every statement has its limit; here those that builders wrote.
        const sql = statement.text.includes(savedQueryMark)
          ? this.savedQueryLimit + statement.text
          : shaping.test(statement.text)
            ? `SET STATEMENT max_statement_time = 0 FOR ${statement.text}`
            : statement.text;
        return await connection.execute(sql, statement.params as unknown[]);
      } catch (error) {
        throw shapeRefusal(statement, error) ?? this.changed(error) ?? refusalOf(error) ?? error;
      }
    };
    let depth = 0;
    return {
      many: async ({ text }, rows) => {
        try {
          await connection.batch(text, rows);
        } catch (error) {
          throw this.changed(error) ?? refusalOf(error) ?? error;
        }
      },
      attempt: async (work) => {
        const savepoint = `attempt_${++depth}`;
        await connection.query(`SAVEPOINT ${savepoint}`);
        const undo = () => connection.query(`ROLLBACK TO SAVEPOINT ${savepoint}`);
        try {
          const result = await work();
          if (result === null) await undo();
          return result;
        } catch (error) {
          // A deadlock has undone the whole transaction, savepoints included.
          if (!tryAgain.has((error as { errno?: number }).errno ?? 0)) await undo().catch(() => undefined);
          throw error;
        } finally {
          depth--;
        }
      },
      rows: (statement) => execute(statement) as Promise<RawRow[]>,
      write: async (statement) => ((await execute(statement)) as { affectedRows: number }).affectedRows,
    };
  }

  /** The error of a statement that names what is gone; the catalogue is read anew then. */
  private changed(error: unknown): CatalogueChanged | null {
    if (!catalogueChanged.has((error as { errno?: number }).errno ?? 0)) return null;
    this.known = null;
    return new CatalogueChanged(error);
  }

  /** Ends the statement that runs on a connection, by way of another that is nobody's. */
  private async stop({ threadId }: Connection): Promise<void> {
    if (threadId === null) return;
    const { host, port, socketPath, user, password } = this.address;
    const other = await createConnection({
      host,
      port,
      socketPath,
      user,
      password,
      connectTimeout: 5000,
      ...(this.ssl ? { ssl: this.ssl } : {}),
    });
    // It may go meanwhile.
    other.on('error', () => undefined);
    try {
      await other.query(`KILL QUERY ${Number(threadId)}`);
    } finally {
      await other.end();
    }
  }

  private async withConnection<T>(use: (connection: Connection) => Promise<T>, asker?: Asker): Promise<T> {
    const connection = (await this.sequelize.connectionManager.getConnection({ type: 'write' })) as Connection;
    try {
      return await whileAsked(
        asker,
        () => this.stop(connection),
        () => use(connection),
      );
    } finally {
      this.sequelize.connectionManager.releaseConnection(connection as never);
    }
  }
}

/**
 * Lets a cluster's nodes have the rows of one transaction while it goes on, so many at a time (Galera's streaming
 * replication): it is all or nothing still, and its end does not keep others waiting. Elsewhere it does nothing.
 */
async function inParts<T>(connection: Connection, work: (connection: Connection) => Promise<T>): Promise<T> {
  const [told] = await connection.query<[on: number][]>('SELECT @@SESSION.wsrep_on');
  if (Number(told?.[0]) !== 1) return work(connection);
  const rows = (count: number) => `SET SESSION wsrep_trx_fragment_unit = 'rows', wsrep_trx_fragment_size = ${count}`;
  await connection.query(rows(rowsOfAPart));
  try {
    return await work(connection);
  } finally {
    // A connection that can't be asked any more is nobody's next one.
    await connection.query(rows(0)).catch(() => connection.destroy());
  }
}

/**
 * By the class of its SQLSTATE the database has understood the statement and says no: 42 and HY where no connection is
 * meant. Values are kept out of what is said.
 */
function shapeRefusal({ text }: Sql, error: unknown): ShapeRefused | null {
  const { sqlState = '', sqlMessage = '' } = error as { sqlState?: string; sqlMessage?: string };
  if (!shaping.test(text) || !/^(42|HY)/.test(sqlState) || isSourceAway(error) || isDiskFull(error)) return null;
  return new ShapeRefused(`${sqlMessage.replaceAll(/'[^']{60,}'/g, '…').slice(0, 300)}.`, error);
}

const refusals: Record<number, DatabaseRefusal['kind']> = {
  1062: 'taken',
  1452: 'no such record',
  1451: 'still used',
  1264: 'does not fit',
  1406: 'does not fit',
  1366: 'does not fit',
  1265: 'does not fit',
  4025: 'breaks a rule',
  1644: 'breaks a rule',
};

/** By MariaDB's error numbers. */
function refusalOf(error: unknown): DatabaseRefusal | null {
  const { errno = 0, sqlMessage = '' } = error as { errno?: number; sqlMessage?: string };
  const kind = refusals[errno];
  if (!kind) return null;
  const column = kind === 'does not fit' ? /column ['`](?:.*[`.])?([^'`]+)['`]/i.exec(sqlMessage)?.[1] : undefined;
  return new DatabaseRefusal(kind, column ?? null, error);
}
