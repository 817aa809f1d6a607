/** What is known of a source's tables: read from the database's own catalogue, never typed by hand. */

/** The kinds of column that people meet. `other` is a type that can be listed but not yet shown or compared. */
export type ColumnType =
  | 'text'
  | 'long text'
  | 'whole number'
  | 'decimal'
  | 'number'
  | 'yes/no'
  | 'date'
  | 'date and time'
  | 'time'
  | 'one choice'
  | 'several choices'
  | 'other';

export interface Column {
  name: string;
  type: ColumnType;
  /** The database's own words for the type, for example `varchar(80)`. */
  nativeType: string;
  nullable: boolean;
  /** True when the database fills the column by itself when nothing is sent. */
  hasDefault: boolean;
  automatic: boolean;
  unique: boolean;
  /** Characters that fit, for text. */
  maxLength?: number;
  /** Digits in all and after the point, for decimals. */
  precision?: number;
  scale?: number;
  /** Smallest and largest whole number that fits, as decimal text because they may pass 2^53. */
  min?: string;
  max?: string;
  choices?: string[];
  /** The collation that decides when two texts are equal; absent when the column is not text. */
  collation?: string;
}

/** A to-one relation: `columns` here hold the key of one record there. */
export interface Relation {
  name: string;
  column: string;
  table: string;
  targetColumn: string;
}

export interface Table {
  name: string;
  columns: Column[];
  /** Columns of the primary key, in order; empty when the table has none (it can then be listed, not opened). */
  key: string[];
  relations: Relation[];
}

export interface Catalogue {
  schema: string;
  tables: Table[];
}

export function findTable(catalogue: Catalogue, name: string): Table | undefined {
  return catalogue.tables.find((table) => table.name === name);
}

export function findColumn(table: Table, name: string): Column | undefined {
  return table.columns.find((column) => column.name === name);
}

/** Result of following a path such as `['well', 'owner', 'parish']` from a table. */
export interface ResolvedPath {
  /** The relations passed on the way, in order; empty for the table's own column. */
  steps: Relation[];
  table: Table;
  column: Column;
}

/** Why a path leads nowhere: the part that is wrong, where it was looked for, and the names it could have been. */
export interface PathProblem {
  part: string;
  table: string;
  wanted: 'column' | 'relation';
  near: string[];
}

/** Follows to-one relations from `table` along `path` and ends at a column; a problem names the first part that fails. */
export function resolvePath(catalogue: Catalogue, table: Table, path: readonly string[]): ResolvedPath | PathProblem {
  const steps: Relation[] = [];
  let at = table;
  for (const part of path.slice(0, -1)) {
    const relation = at.relations.find((candidate) => candidate.name === part);
    const next = relation && findTable(catalogue, relation.table);
    if (!relation || !next) return { part, table: at.name, wanted: 'relation', near: at.relations.map((r) => r.name) };
    steps.push(relation);
    at = next;
  }
  const last = path.at(-1) ?? '';
  const column = findColumn(at, last);
  if (!column) return { part: last, table: at.name, wanted: 'column', near: at.columns.map((c) => c.name) };
  return { steps, table: at, column };
}

export function isPathProblem(found: ResolvedPath | PathProblem): found is PathProblem {
  return 'wanted' in found;
}

/** `planned_for` becomes `Planned for`: the label of a column or table that nobody has named yet. */
export function plainLabel(name: string): string {
  const words = name.replace(/_id$/, '').replaceAll('_', ' ');
  return words.charAt(0).toUpperCase() + words.slice(1);
}
