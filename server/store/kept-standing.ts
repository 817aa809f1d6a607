import type { DrawnBy } from '../../sections/chart/drawn-by';
import type { Condition } from '../../core/condition/tree';

/** How a list stands, as it is kept: what names columns is kept apart, so that it follows them to new names. */
export interface KeptStanding {
  view: string;
  search: string;
  columns: string[];
  sort: { column: string; descending: boolean }[];
  filter: Condition | null;
  /** What it is drawn by; absent where it isn't. */
  chart?: DrawnBy;
}
