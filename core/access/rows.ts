import { allOf } from '../condition/all-of';
import type { Condition } from '../condition/tree';

/** Where a part of a row rule comes from, for Why. */
export type PartOrigin =
  | { kind: 'filter'; of: 'see' | 'edit' | 'delete' | 'export' }
  | { kind: 'keep-in'; of: 'create' | 'edit' }
  | { kind: 'fence'; id: string }
  | { kind: 'move'; id: string }
  | { kind: 'action'; id: string; of: 'where' | 'keep-in' }
  | { kind: 'ceiling' };

export interface RowPart {
  origin: PartOrigin;
  where: Condition;
}

/** Which rows an operation reaches: those for which every part is true. No parts means every row. */
export type Rows = readonly RowPart[] | 'no row';

export const everyRow: Rows = [];

export function bothRows(a: Rows, b: Rows): Rows {
  return a === 'no row' || b === 'no row' ? 'no row' : [...a, ...b];
}

/** The rows as one condition; null for every row. */
export function rowsCondition(rows: readonly RowPart[]): Condition | null {
  if (rows.length === 0) return null;
  return allOf(rows.map((part) => part.where));
}
