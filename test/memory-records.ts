import type { RecordReader } from '../core/condition/prepare';
import { HeldRows } from '../core/proof/held-rows';
import type { Catalogue, Table } from '../core/table/catalogue';
import type { Row } from '../core/table/value';

/** Whole tables of a test in memory, held as a proof run holds them. */
export class MemoryRecords {
  private readonly held: HeldRows;

  constructor(
    readonly catalogue: Catalogue,
    readonly rows: Record<string, Row[]>,
  ) {
    this.held = new HeldRows(catalogue, new Map(Object.entries(rows)));
  }

  table(name: string): Table {
    return this.catalogue.tables.find((table) => table.name === name)!;
  }

  record(tableName: string, row: Row): RecordReader {
    return this.held.record(this.table(tableName), row);
  }
}
