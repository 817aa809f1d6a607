import type { Condition } from '../condition/tree';
import type { Catalogue, Closed, Table } from '../table/catalogue';

/** The most that any role of any portal may do with a table. What is not said is allowed. */
export interface Ceiling extends Closed {
  /** Rows outside are never seen, made or changed. */
  where?: Condition;
}

/** The rows that a table's ceiling leaves; null where it leaves all. */
export function ceilingRows(table: Table): Condition | null {
  return (table.ceiling as Ceiling | undefined)?.where ?? null;
}

/** The catalogue with the ceilings of its tables. */
export function withCeilings(catalogue: Catalogue, ceilings: Record<string, Ceiling>): Catalogue {
  return {
    ...catalogue,
    tables: catalogue.tables.map((table) =>
      Object.hasOwn(ceilings, table.name) ? { ...table, ceiling: ceilings[table.name]! } : table,
    ),
  };
}
