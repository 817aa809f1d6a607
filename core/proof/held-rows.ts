import { collationKey, UnknownCollation } from '../condition/collation';
import type { RecordReader } from '../condition/prepare';
import type { ExistsCondition, Truth } from '../condition/tree';
import {
  findColumn,
  findTable,
  isPathProblem,
  resolveMany,
  resolvePath,
  type Catalogue,
  type Relation,
  type ResolvedPath,
  type Table,
} from '../table/catalogue';
import type { Row, Value } from '../table/value';

/** Rows by what stands in a column, as `key` has it. */
interface Index {
  key: (value: Value) => string;
  rows: Map<string, Row[]>;
}

/** What is asked leads to a table whose rows are not held. */
export class NotHeld extends Error {}

/** Whether what went wrong is only that memory can't judge it. */
export const isUnjudged = (error: unknown): boolean => error instanceof NotHeld || error instanceof UnknownCollation;

/**
 * Whole tables in memory, with what relations lead to found by an index: what a person gets is worked out from them by
 * core alone, so that the database's answers can be held against it.
 */
export class HeldRows {
  private readonly indexes = new Map<string, Map<string, Index>>();
  private readonly paths = new WeakMap<readonly string[], ResolvedPath & { from: Table }>();

  constructor(
    readonly catalogue: Catalogue,
    private readonly tables: ReadonlyMap<string, readonly Row[]>,
  ) {}

  /** Throws NotHeld where the rows of the table are not there. */
  rows(table: string): readonly Row[] {
    const rows = this.tables.get(table);
    if (!rows) throw new NotHeld(`the rows of ${table} are not held`);
    return rows;
  }

  holds(table: string): boolean {
    return this.tables.has(table);
  }

  /** The record that a relation leads to from a row; undefined where it leads to none. */
  step(row: Row, { column, table, targetColumn }: Relation): Row | undefined {
    return this.having(table, targetColumn, row[column] ?? null)[0];
  }

  /** A row with its relations, as conditions read it. */
  record(table: Table, row: Row): RecordReader {
    return new HeldRecord(this, table, row);
  }

  follow(table: Table, row: Row, path: readonly string[]): Value {
    const found = this.resolved(table, path);
    let at: Row | undefined = row;
    for (const step of found.steps) at = at && this.step(at, step);
    return at?.[found.column.name] ?? null;
  }

  /** Conditions hold their paths, so each is looked up once. */
  private resolved(table: Table, path: readonly string[]): ResolvedPath {
    const known = this.paths.get(path);
    if (known?.from === table) return known;
    const found = resolvePath(this.catalogue, table, path);
    if (isPathProblem(found)) throw new NotHeld(`there is no ${found.part} in ${found.table}`);
    const kept = { ...found, from: table };
    this.paths.set(path, kept);
    return kept;
  }

  related(table: Table, row: Row, condition: ExistsCondition): { of: Table; row: Row }[] {
    const found = resolveMany(this.catalogue, table, condition.relation);
    if (isPathProblem(found)) throw new NotHeld(`there is no ${found.part} in ${found.table}`);
    let from: Row | undefined = row;
    for (const step of found.steps) from = from && this.step(from, step);
    const { many } = found;
    return this.having(many.table, many.column, from?.[many.targetColumn] ?? null).map((each) => ({
      of: found.table,
      row: each,
    }));
  }

  private having(table: string, column: string, value: Value): readonly Row[] {
    if (value === null) return [];
    const { key, rows } = this.index(table, column);
    return rows.get(key(value)) ?? [];
  }

  private index(table: string, column: string): Index {
    const ofTable = this.indexes.get(table) ?? new Map<string, Index>();
    this.indexes.set(table, ofTable);
    let index = ofTable.get(column);
    if (!index) {
      const key = this.keyOf(table, column);
      const rows = new Map<string, Row[]>();
      for (const row of this.rows(table)) {
        const found = row[column] ?? null;
        if (found === null) continue;
        const text = key(found);
        const known = rows.get(text);
        if (known) known.push(row);
        else rows.set(text, [row]);
      }
      index = { key, rows };
      ofTable.set(column, index);
    }
    return index;
  }

  /** Texts meet as their column's collation has it, as they do where the database joins them. */
  private keyOf(table: string, column: string): (value: Value) => string {
    const found = findTable(this.catalogue, table);
    const collation = found && findColumn(found, column)?.collation;
    if (!collation) return String;
    return (value) => collationKey(collation, String(value));
  }
}

class HeldRecord implements RecordReader {
  constructor(
    private readonly held: HeldRows,
    private readonly table: Table,
    private readonly row: Row,
  ) {}

  value(path: readonly string[]): Value {
    return this.held.follow(this.table, this.row, path);
  }

  exists(condition: ExistsCondition, holds: (related: RecordReader) => Truth): boolean {
    for (const { of, row } of this.held.related(this.table, this.row, condition))
      if (holds(new HeldRecord(this.held, of, row)) === true) return true;
    return false;
  }
}
