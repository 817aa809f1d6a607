import type { Sql, SqlValue } from '../../core/sql/sql';
import type { Catalogue, Column } from '../../core/table/catalogue';
import type { Asker } from './asker';

/** Raw values as the driver gives them, in the order of the statement. */
export type RawRow = unknown[];

/** Runs statements on one connection; values are bound, never part of the text. */
export interface Runner {
  rows(statement: Sql): Promise<RawRow[]>;
  /** Returns how many rows the statement matched. */
  write(statement: Sql): Promise<number>;
  /**
   * As `rows`, and how many rows the database read and put aside for it. Only outside of transactions, and only where
   * it can be told.
   */
  measure?(statement: Sql): Promise<{ rows: RawRow[]; reads: number }>;
}

export interface TransactionKind {
  /** False takes everything back at the end; what else it is, it is kept. */
  keep?: boolean;
  /** It may write very many rows: a cluster tells its nodes of them on the way and not all at its end. */
  isLarge?: boolean;
}

/** Runs statements that stand or fall together. */
export interface Transaction extends Runner {
  /**
   * As `rows`, of a statement after which no other comes. Where none came before it either, it stands or falls by
   * itself and is sent alone. Absent where a trigger could still change the rows that it gives.
   */
  last?(statement: Sql): Promise<RawRow[]>;
  /** Runs one statement once for each row of values, as fast as the database can take them. */
  many(statement: Sql, rows: SqlValue[][]): Promise<void>;
  /** Undoes what `work` did when it gives null or fails. */
  attempt<T>(work: () => Promise<T>): Promise<T>;
}

/** One connected database schema with records. */
export interface Source extends Runner {
  /** Read from the database's own catalogue; `fresh` asks again. */
  catalogue(fresh?: boolean): Promise<Catalogue>;
  /** The catalogue is read anew when it is asked for next. */
  forget(): void;
  /**
   * The columns that a SELECT gives, without running it to its end; in a transaction that can only read, and with a
   * time limit.
   */
  describe(select: Sql): Promise<Column[]>;
  /** All or nothing; tried again when the database gives up on a deadlock. */
  transaction<T>(work: (runner: Transaction) => Promise<T>, how?: TransactionKind): Promise<T>;
  /** As itself, for somebody who may go: what runs for them is stopped then. */
  askedBy(asker: Asker): Source;
  /** Ends the connections that nobody uses at the moment; absent where they only end by themselves. */
  endIdle?(): void;
  close(): Promise<void>;
}

/** Stands in every statement that reads a saved query. */
export const savedQueryMark = '/* saved query */';
