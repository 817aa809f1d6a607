/** What is known of a source's tables: read from the database's own catalogue, never typed by hand. */
import type { ColumnKind } from './column-kind';

/**
 * The kinds of column that people meet. `other` is a type that is shown as a text of its own, and neither compared nor
 * changed.
 */
export const columnTypes = [
  'text',
  'long text',
  'whole number',
  'decimal',
  'number',
  'yes/no',
  'date',
  'date and time',
  'time',
  'one choice',
  'several choices',
  'other',
] as const;

export type ColumnType = (typeof columnTypes)[number];

/**
 * How a column is read where the database's own value is not what people meet: a `uuid` compared as one, the database's
 * own `text`, a list's `items`, a network `address`, the `bits`, a `shape` as well-known text (OGC 06-103r4), or the
 * `size` alone of bytes that are nobody's text.
 */
export type ReadAs = 'uuid' | 'text' | 'items' | 'address' | 'bits' | 'shape' | 'size';

export interface Column {
  name: string;
  type: ColumnType;
  /** The database's own words for the type, for example `varchar(80)`. */
  nativeType: string;
  nullable: boolean;
  /** True when the database fills the column by itself when nothing is sent. */
  hasDefault: boolean;
  /** True when what it fills in by itself tells when the record was made, in which order, or by whom. */
  defaultTells?: true;
  automatic: boolean;
  /** True when the database puts the moment in whenever the record is changed. */
  setOnChange?: true;
  unique: boolean;
  /** An index begins with it, so that a value is found without reading every record. */
  indexed?: true;
  /** Characters that fit, for text. */
  maxLength?: number;
  /** Digits in all and after the point, for decimals. */
  precision?: number;
  scale?: number;
  /** Smallest and largest whole number that fits, as decimal text because they may pass 2^53. */
  min?: string;
  max?: string;
  choices?: string[];
  /** A meaning finer than the type, noted in the definition: values must fit it. */
  kind?: ColumnKind;
  /** ISO 4217, for money. */
  currency?: string;
  /** Absent when it is read as it is. */
  read?: ReadAs;
  /** True when the column has a meaning only as the same or not the same: it has no order and no parts. */
  equalityOnly?: boolean;
  /** What the database's own people wrote of it. */
  comment?: string;
  /** For a column of a saved query: the columns of tables that its values are made of. */
  from?: { table: string; column: string }[];
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

/**
 * A foreign key as the database keeps it, whether or not a relation is made of it: of several columns, or to a table
 * that is not among those of the catalogue. `table` is null where that table can't be named here.
 */
export interface ForeignKey {
  columns: string[];
  table: string | null;
  targetColumns: string[];
}

/** A to-many relation, the other end of a to-one: `column` of `table` holds our `targetColumn`. */
export interface ManyRelation {
  name: string;
  table: string;
  column: string;
  targetColumn: string;
}

/** What nobody may do with a table, whatever any portal says; the rows of a ceiling stand beside it (`Ceiling`). */
export interface Closed {
  create?: false;
  edit?: false;
  delete?: false;
  export?: false;
  /** Columns that nobody reads, or that nobody writes. */
  columns?: Record<string, 'nothing' | 'read'>;
}

export interface Table {
  name: string;
  /** What its database calls it, where that is not `name`: a table of a portal's further source. */
  stored?: string;
  columns: Column[];
  /** Columns of the primary key, in order; empty when the table has none (it can then be listed, not opened). */
  key: string[];
  /**
   * True when the key is a builder's word, for a saved query or a view: nobody gets a record whose key they don't see,
   * since its address says it.
   */
  keyByWord?: true;
  relations: Relation[];
  /** Every foreign key of the database; absent means none. */
  foreignKeys?: ForeignKey[];
  /** Filled by `withManyRelations`; absent means none. */
  many?: ManyRelation[];
  /** Kept at the source, above every portal. */
  ceiling?: Closed;
  /** The SELECT that makes it, for a saved query. */
  query?: string;
  /** Where its database is one of a cluster: whether it has a primary key there, whatever `key` says. */
  inCluster?: 'with a key' | 'without a key';
}

export interface Catalogue {
  /** The kind of database; MariaDB when absent. */
  database?: 'mariadb' | 'postgresql';
  schema: string;
  tables: Table[];
  /**
   * The tables that members are drawn from, where they are kept in another source: known for the member's facts alone.
   */
  rosters?: Table[];
}

/**
 * The same catalogue with the to-many relations of every table. One is named after the table that it leads to; where
 * that name would stand for two things, `visits_by_sampler`, after the to-one relation that it turns round.
 */
export function withManyRelations(catalogue: Catalogue): Catalogue {
  return {
    ...catalogue,
    tables: catalogue.tables.map((table) => {
      const incoming = catalogue.tables.flatMap((from) =>
        from.relations.filter((relation) => relation.table === table.name).map((relation) => ({ from, relation })),
      );
      const taken = new Set([...table.columns, ...table.relations].map((each) => each.name));
      const many = incoming.map(({ from, relation }): ManyRelation => {
        const called = from.stored ?? from.name;
        const alone = incoming.filter((each) => each.from === from).length === 1 && !taken.has(called);
        return {
          name: alone ? called : `${called}_by_${relation.name}`,
          table: from.name,
          column: relation.column,
          targetColumn: relation.targetColumn,
        };
      });
      return { ...table, many };
    }),
  };
}

/** The key by which records are told apart; none when a part of it is of a type that can't be compared. */
export function usableKey(columns: readonly Column[], key: readonly string[]): string[] {
  return key.some((part) => columns.find((column) => column.name === part)?.type === 'other') ? [] : [...key];
}

export function findTable(catalogue: Catalogue, name: string): Table | undefined {
  return catalogue.tables.find((table) => table.name === name);
}

/** A table that holds facts of the member. */
export function findRosterTable(catalogue: Catalogue, name: string): Table | undefined {
  return findTable(catalogue, name) ?? catalogue.rosters?.find((table) => table.name === name);
}

export function findColumn(table: Table, name: string): Column | undefined {
  return table.columns.find((column) => column.name === name);
}

/** Whether a new record needs something at the column: the database takes no NULL there and gives nothing by itself. */
export const isNeeded = ({ nullable, hasDefault, automatic }: Column): boolean =>
  !nullable && !hasDefault && !automatic;

/** Whether a column's numbers tell records or years apart, so that they are read as names and not as amounts. */
export function isIdentifier(table: Table, column: Column): boolean {
  return (
    column.unique ||
    column.automatic ||
    column.nativeType.startsWith('year') ||
    table.key.includes(column.name) ||
    table.relations.some((relation) => relation.column === column.name)
  );
}

/** Whether the ceiling lets nobody read a column: then nothing of any portal may name it. */
export function isClosed(table: Table, column: string): boolean {
  return table.ceiling?.columns?.[column] === 'nothing';
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
  wanted: 'column' | 'relation' | 'to-many relation';
  near: string[];
}

/**
 * Follows to-one relations from `table` along `path` and ends at a column; a problem names the first part that fails.
 */
export function resolvePath(catalogue: Catalogue, table: Table, path: readonly string[]): ResolvedPath | PathProblem {
  const walked = walk(catalogue, table, path.slice(0, -1));
  if (isPathProblem(walked)) return walked;
  const last = path.at(-1) ?? '';
  const column = findColumn(walked.at, last);
  if (!column)
    return { part: last, table: walked.at.name, wanted: 'column', near: walked.at.columns.map((c) => c.name) };
  return { steps: walked.steps, table: walked.at, column };
}

function walk(
  catalogue: Catalogue,
  table: Table,
  path: readonly string[],
): { steps: Relation[]; at: Table } | PathProblem {
  const steps: Relation[] = [];
  let at = table;
  for (const part of path) {
    const relation = at.relations.find((candidate) => candidate.name === part);
    const next = relation && findTable(catalogue, relation.table);
    if (!relation || !next) return { part, table: at.name, wanted: 'relation', near: at.relations.map((r) => r.name) };
    steps.push(relation);
    at = next;
  }
  return { steps, at };
}

export function isPathProblem(found: object): found is PathProblem {
  return 'wanted' in found;
}

/** Result of following a path such as `['well', 'visits']` to related records. */
export interface ResolvedMany {
  /** The to-one relations passed on the way; empty for the table's own to-many relation. */
  steps: Relation[];
  many: ManyRelation;
  /** The table of the related records. */
  table: Table;
}

/** Follows to-one relations from `table` along `path` and ends at a to-many relation. */
export function resolveMany(catalogue: Catalogue, table: Table, path: readonly string[]): ResolvedMany | PathProblem {
  const walked = walk(catalogue, table, path.slice(0, -1));
  if (isPathProblem(walked)) return walked;
  const last = path.at(-1) ?? '';
  const many = walked.at.many?.find((candidate) => candidate.name === last);
  const target = many && findTable(catalogue, many.table);
  if (!many || !target)
    return {
      part: last,
      table: walked.at.name,
      wanted: 'to-many relation',
      near: (walked.at.many ?? []).map((each) => each.name),
    };
  return { steps: walked.steps, many, table: target };
}

/** `planned_for` becomes `Planned for`: the label of a column or table that nobody has named yet. */
export function plainLabel(name: string): string {
  const words = name
    .replace(/^[a-z0-9_-]+:/, '')
    .replace(/_id$/, '')
    .replaceAll('_', ' ');
  return words.charAt(0).toUpperCase() + words.slice(1);
}
