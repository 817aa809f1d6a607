import type { Openness } from './lens';
import { cellOf, editableColumns, hidden, type Editable, type View } from './view';

/** What a person may see and change of one record. */
export interface Rights {
  inView: boolean;
  /** How open one cell is. */
  cell(column: string): Openness;
  editable: Editable;
  /** Whether one cell may be changed, seen or unseen. */
  edits(column: string): boolean;
}

/**
 * Of the outcomes of all lenses there are few combinations, so what a combination opens is worked out once for a view.
 */
const known = new WeakMap<View, Map<string, Rights>>();

/**
 * Decides by which lenses of the view have the record, and through which it may be edited: `seen` and `edited` hold one
 * outcome for each lens, in its place.
 */
export function rightsOf(view: View, seen: readonly boolean[], edited: readonly boolean[]): Rights {
  const ofView = known.get(view) ?? new Map<string, Rights>();
  known.set(view, ofView);
  // As text: there may be more roles than a number has bits.
  let key = '';
  for (let i = 0; i < view.lenses.length; i++) key += seen[i] ? (edited[i] ? '3' : '2') : edited[i] ? '1' : '0';
  let rights = ofView.get(key);
  if (!rights) {
    const cells = new Map(view.table.columns.map((column) => [column.name, cellOf(view, column.name, seen)]));
    const editable = editableColumns(view, seen, edited);
    rights = {
      inView: seen.some(Boolean),
      cell: (column) => cells.get(column) ?? hidden,
      editable,
      edits: (column) => editable.shown.has(column) || editable.unseen.has(column),
    };
    ofView.set(key, rights);
  }
  return rights;
}
