import type { RecordReader } from '../core/condition/prepare';
import type { ExistsCondition } from '../core/condition/tree';
import {
  isPathProblem,
  resolveMany,
  resolvePath,
  type Catalogue,
  type Relation,
  type Table,
} from '../core/table/catalogue';
import { sameValue, type Row, type Value } from '../core/table/value';

/**
 * Whole tables in memory, for judging conditions and views plainly and slowly: every relation is a search through all
 * rows.
 */
export class MemoryRecords {
  constructor(
    readonly catalogue: Catalogue,
    readonly rows: Record<string, Row[]>,
  ) {}

  table(name: string): Table {
    return this.catalogue.tables.find((table) => table.name === name)!;
  }

  record(tableName: string, row: Row): RecordReader {
    const table = this.table(tableName);
    return {
      value: (path) => this.follow(table, row, path),
      exists: (condition, holds) =>
        this.related(table, row, condition).some((related) => holds(this.record(related.table, related.row)) === true),
    };
  }

  private step(row: Row | undefined, relation: Relation): Row | undefined {
    const key = row?.[relation.column] ?? null;
    return key === null
      ? undefined
      : this.rows[relation.table]!.find((each) => sameValue(each[relation.targetColumn]!, key));
  }

  private follow(table: Table, row: Row, path: readonly string[]): Value {
    const found = resolvePath(this.catalogue, table, path);
    if (isPathProblem(found)) throw new Error(`no ${found.part} in ${found.table}`);
    const end = found.steps.reduce<Row | undefined>((at, step) => this.step(at, step), row);
    return end?.[found.column.name] ?? null;
  }

  private related(table: Table, row: Row, condition: ExistsCondition): { table: string; row: Row }[] {
    const found = resolveMany(this.catalogue, table, condition.relation);
    if (isPathProblem(found)) throw new Error(`no ${found.part} in ${found.table}`);
    const from = found.steps.reduce<Row | undefined>((at, step) => this.step(at, step), row);
    const key = from?.[found.many.targetColumn] ?? null;
    if (key === null) return [];
    return this.rows[found.many.table]!.filter(
      (each) => each[found.many.column] !== null && sameValue(each[found.many.column]!, key),
    ).map((each) => ({ table: found.many.table, row: each }));
  }
}
