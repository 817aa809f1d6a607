import type { DrawnTable } from './drawn';

/** A table as a script makes it, with what a drawn one has not. */
export interface ScriptTable extends DrawnTable {
  key: string;
  /** All columns in the script's order, the key that the database numbers among them. */
  order: string[];
  /** The number that the next record gets, where the script says it. */
  next?: string;
  note?: string;
  notes: Record<string, string>;
  /** What happens to the records of a relation when the one that they lead to goes or gets another key. */
  ends: Record<string, { column: string; onDelete?: ForeignAction; onUpdate?: ForeignAction }>;
  indexes: { unique: boolean; columns: string[] }[];
}
export type ForeignAction = 'CASCADE' | 'SET NULL' | 'RESTRICT' | 'NO ACTION';

/** A value of a script as text; null where it says NULL, undefined where it says DEFAULT. */
export type ScriptCell = string | null | undefined;

/** What a script would make: tables in their order, and the rows that go into each in theirs. */
export interface Script {
  tables: ScriptTable[];
  rows: { table: string; line: number; columns: string[]; values: ScriptCell[][] }[];
  /** Whether it says that parents may come after their children, as dumps do. */
  parentsLater: boolean;
  remarks: string[];
}
