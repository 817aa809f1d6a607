import type { SqlValue } from '../../../core/sql/sql';
import type { Row } from '../../../core/table/value';

/** What a write made of a record whose table keeps a history; null where there was none before, or is none after. */
export interface RecordChange {
  table: string;
  id: string;
  was: Row | null;
  now: Row | null;
  /** The action by which it was done, or null. */
  action: string | null;
  /** The form by which it was sent, or null. */
  form: string | null;
  /** Whether it came by a file. */
  brought: boolean;
  /** Whether it followed by itself of something else. */
  follows: boolean;
  /** The role of services by which it was done, or null. */
  role: string | null;
}

/** Lines for a table of the product's own, to be written in the transaction of the records. */
export interface LinesBeside {
  schema: string;
  table: string;
  columns: readonly string[];
  lines: readonly (readonly SqlValue[])[];
}
