import pg, { type PoolClient } from 'pg';
import type { Catalogue, Column } from '../../core/table/catalogue';
import { forPostgres, filled, type Sql } from '../../core/sql/sql';
import { isSourceAway } from './connection-problem';
import { OutcomeUnknown } from './outcome-unknown';
import { AskedSource, type StoppableSource } from './asked-source';
import { type Asker, whileAsked } from './asker';
import { CatalogueChanged } from './catalogue-changed';
import { readPostgresCatalogue } from './postgres-catalogue';
import { postgresType } from './postgres-types';
import { DatabaseRefusal } from './refusal';
import type { RawRow, Source, Transaction, TransactionKind } from './source';

/** How to reach a PostgreSQL database. */
export interface PostgresAddress {
  host: string;
  port: number;
  user: string;
  password?: string;
  database: string;
  ssl?: false | { rejectUnauthorized: boolean };
  /** In milliseconds. */
  statement_timeout?: number;
}

/** Two transactions came in each other's way; once more may do. */
const tryAgain = new Set(['40001', '40P01']);
const mostTries = 12;
const again = Symbol('again');

/** A column or table is gone since the catalogue was read. */
const catalogueChanged = new Set(['42703', '42P01']);
const catalogueLasts = 30_000;

/** Dates and times stay the text that the database wrote: no type of JavaScript holds them whole. */
const asText = new Set<number>([
  pg.types.builtins.DATE,
  pg.types.builtins.TIMESTAMP,
  pg.types.builtins.TIMESTAMPTZ,
  pg.types.builtins.TIME,
]);

const types: pg.CustomTypesConfig = {
  getTypeParser: ((oid: number, format?: 'text' | 'binary') =>
    asText.has(oid)
      ? (value: string) => value
      : pg.types.getTypeParser(oid, format as 'text')) as typeof pg.types.getTypeParser,
};

/** A schema of a PostgreSQL database. Everything runs in UTC, with ISO dates. */
export class PostgresSource implements StoppableSource {
  private readonly pool: pg.Pool;
  private known: { catalogue: Promise<Catalogue>; at: number } | null = null;

  constructor(
    private readonly address: PostgresAddress,
    private readonly schema: string,
    connections = 10,
  ) {
    this.pool = new pg.Pool({
      ...address,
      max: connections,
      connectionTimeoutMillis: 5000,
      idleTimeoutMillis: 30_000,
      types,
      options:
        '-c timezone=UTC -c datestyle=ISO,YMD -c ' +
        `search_path=${pg.escapeIdentifier(schema).replaceAll(/[\\ ]/g, '\\$&')}`,
    });
    // A connection that the server closed while nobody used it; the next one is opened anew.
    this.pool.on('error', () => undefined);
    // Nor may one that is closed while it is used end this server: who asked is told by their question.
    this.pool.on('connect', (client) => client.on('error', () => undefined));
  }

  catalogue(fresh = false): Promise<Catalogue> {
    if (fresh || !this.known || Date.now() - this.known.at > catalogueLasts) {
      const catalogue = readPostgresCatalogue(
        async (text, params) => (await this.pool.query<Record<string, unknown>>(text, params)).rows,
        this.schema,
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
    return this.withClient(async (client) => (await this.run(client, statement)).rows, asker);
  }

  write(statement: Sql, asker?: Asker): Promise<number> {
    return this.withClient(async (client) => (await this.run(client, statement)).rowCount ?? 0, asker);
  }

  private async withClient<T>(use: (client: PoolClient) => Promise<T>, asker?: Asker): Promise<T> {
    const client = await this.pool.connect();
    let broken: unknown;
    try {
      return await whileAsked(
        asker,
        () => this.stop(client),
        () => use(client),
      );
    } catch (error) {
      broken = isSourceAway(error) ? error : undefined;
      throw error;
    } finally {
      // One that is broken is not given to the next.
      client.release(broken !== undefined);
    }
  }

  /** Ends the statement that runs on a connection, by way of another that is nobody's. */
  private async stop(client: PoolClient): Promise<void> {
    const { processID } = client as PoolClient & { processID?: number };
    const other = new pg.Client({ ...this.address, connectionTimeoutMillis: 5000 });
    other.on('error', () => undefined);
    await other.connect();
    try {
      await other.query('SELECT pg_cancel_backend($1)', [processID]);
    } finally {
      await other.end();
    }
  }

  async transaction<T>(
    work: (runner: Transaction) => Promise<T>,
    { keep = true }: TransactionKind = {},
    asker?: Asker,
  ): Promise<T> {
    for (let tries = 1; ; tries++) {
      const result = await this.withClient((client) => this.once(client, work, keep), asker).catch((error: unknown) => {
        if (tries === mostTries || !tryAgain.has((error as { code?: string }).code ?? '')) throw error;
        return again;
      });
      if (result !== again) return result as T;
    }
  }

  private async once<T>(client: PoolClient, work: (runner: Transaction) => Promise<T>, keep: boolean): Promise<T> {
    try {
      await client.query('BEGIN ISOLATION LEVEL REPEATABLE READ');
      const result = await work(this.runner(client));
      await client
        .query(keep ? 'COMMIT' : 'ROLLBACK')
        .catch((error: unknown) =>
          Promise.reject(keep && isSourceAway(error) ? new OutcomeUnknown(error) : (error as Error)),
        );
      return result;
    } catch (error) {
      await client.query('ROLLBACK').catch(() => undefined);
      throw error;
    }
  }

  async describe(select: Sql): Promise<Column[]> {
    const client = await this.pool.connect();
    try {
      await client.query("BEGIN READ ONLY; SET LOCAL statement_timeout = '5s'");
      const { fields } = await client.query(`SELECT * FROM (${select.text}) described LIMIT 0`);
      const types = await client.query<{ number: number; name: string; kind: string; category: string }>(
        'SELECT oid number, typname name, typtype kind, typcategory category FROM pg_type WHERE oid = ANY($1::oid[])',
        [fields.map((field) => field.dataTypeID)],
      );
      const typeOf = new Map(types.rows.map((row) => [row.number, row]));
      return fields.map(({ name, dataTypeID, dataTypeModifier }): Column => {
        const { name: type, kind, category } = typeOf.get(dataTypeID)!;
        const what =
          kind === 'e' ? { type: 'text' as const, read: 'text' as const } : postgresType(type, category === 'A');
        const column: Column = {
          name,
          ...what,
          nativeType: type,
          nullable: true,
          hasDefault: false,
          automatic: false,
          unique: false,
        };
        if (type === 'text') column.type = 'text';
        if (column.type === 'text') column.collation = 'C';
        // A numeric's modifier holds its digits, four more than they are.
        if (column.type === 'decimal' && dataTypeModifier > 4)
          Object.assign(column, { precision: (dataTypeModifier - 4) >> 16, scale: (dataTypeModifier - 4) & 0xffff });
        return column;
      });
    } finally {
      await client.query('ROLLBACK').catch(() => undefined);
      client.release();
    }
  }

  async close(): Promise<void> {
    await this.pool.end();
  }

  private runner(client: PoolClient): Transaction {
    let depth = 0;
    return {
      rows: async (statement) => (await this.run(client, statement)).rows,
      write: async (statement) => (await this.run(client, statement)).rowCount ?? 0,
      many: async (statement, rows) => {
        for (const params of rows) await this.run(client, filled(statement, params));
      },
      attempt: async (work) => {
        const savepoint = `attempt_${++depth}`;
        await client.query(`SAVEPOINT ${savepoint}`);
        const undo = () => client.query(`ROLLBACK TO SAVEPOINT ${savepoint}`);
        try {
          const result = await work();
          if (result === null) await undo();
          return result;
        } catch (error) {
          if (!tryAgain.has((error as { code?: string }).code ?? '')) await undo().catch(() => undefined);
          throw error;
        } finally {
          depth--;
        }
      },
    };
  }

  private async run(on: pg.Pool | PoolClient, statement: Sql): Promise<pg.QueryArrayResult<unknown[]>> {
    const { text, values } = forPostgres(statement);
    try {
      return await on.query<unknown[]>({
        text,
        values: values.map((value) => (typeof value === 'bigint' ? String(value) : value)),
        rowMode: 'array',
      });
    } catch (error) {
      if (!catalogueChanged.has((error as { code?: string }).code ?? '')) throw refusalOf(error) ?? error;
      this.known = null;
      throw new CatalogueChanged(error);
    }
  }
}

/** By the classes of SQLSTATE (PostgreSQL manual, appendix A). */
function refusalOf(error: unknown): DatabaseRefusal | null {
  const {
    code = '',
    column = null,
    message = '',
  } = error as { code?: string; column?: string | null; message?: string };
  switch (code) {
    case '23505':
      return new DatabaseRefusal('taken', null, error);
    case '23503':
      return new DatabaseRefusal(message.startsWith('update or delete') ? 'still used' : 'no such record', null, error);
    case '22001':
    case '22003':
    case '22P02':
    case '22007':
    case '22008':
      return new DatabaseRefusal('does not fit', column, error);
    case '23514':
    case '23502':
    case '23P01':
      return new DatabaseRefusal('breaks a rule', column, error);
    default:
      return null;
  }
}
