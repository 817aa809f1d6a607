import type { Value } from '../../../core/table/value';

/** One record as a person gets it. A cell that is hidden from them is not in `values`. */
export interface ViewRecord {
  /** Absent when the table has no primary key. */
  id: string | null;
  /** By column path in text form. */
  values: Record<string, Value>;
  /** Paths whose value is the mask's. */
  masked: string[];
}
