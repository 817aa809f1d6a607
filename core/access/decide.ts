import type { ConditionContext } from '../condition/operand-value';
import { prepare, test, type Prepared, type RecordReader } from '../condition/prepare';
import type { PortalDefinition } from '../definition/definition';
import type { Catalogue, Table } from '../table/catalogue';
import type { Row } from '../table/value';
import type { Openness } from './lens';
import type { Person } from './person';
import { rowsCondition, type Rows } from './rows';
import { cellOf, editableColumns, hidden, viewOf, type Editable } from './view';

/** A person's rights on records that are in memory. */
export interface Decisions {
  /** Whether the record is in the person's view. */
  inView(record: Row): boolean;
  /** How open one cell is. */
  cell(record: Row, column: string): Openness;
  /** Whether the person sees the cell whole. */
  sees(record: Row, column: string): boolean;
  /** Whether the person may change the cell. */
  edits(record: Row, column: string): boolean;
}

/**
 * Decides for many records of one table. `reader` gives a record with its relations; without it the rules may ask only columns of the
 * table itself. What was worked out of a record is kept while the same record is asked about, so it must not change meanwhile.
 */
export function decisionsFor(definition: PortalDefinition, catalogue: Catalogue, table: Table, person: Person, context: ConditionContext, reader: (record: Row) => RecordReader = plainReader): Decisions {
  const view = viewOf(definition, catalogue, table, person);
  const scope = { catalogue, table, member: true };
  const ready = (rows: Rows | null | undefined): Prepared | boolean => {
    if (!rows || rows === 'no row') return false;
    const condition = rowsCondition(rows);
    return condition === null ? true : prepare(condition, scope);
  };
  const rules = view.lenses.map((lens) => ({ seen: ready(lens.rows), edited: ready(lens.edit?.rows) }));
  const holds = (rule: Prepared | boolean, record: RecordReader) => (typeof rule === 'boolean' ? rule : test(rule, record, context) === true);
  // Of the outcomes of all lenses there are few combinations, so what a combination opens is worked out once.
  const opened = new Map<number, { cells: Map<string, Openness>; editable: Editable }>();
  let last: { record: Row; seen: number; edited: number } | null = null;

  const outcome = (record: Row) => {
    if (last?.record === record) return last;
    const read = reader(record);
    let [seen, edited] = [0, 0];
    rules.forEach((rule, i) => {
      if (holds(rule.seen, read)) seen |= 1 << i;
      if (holds(rule.edited, read)) edited |= 1 << i;
    });
    last = { record, seen, edited };
    return last;
  };
  const rights = (record: Row) => {
    const { seen, edited } = outcome(record);
    const key = seen * 2 ** rules.length + edited;
    let known = opened.get(key);
    if (!known) {
      const bits = (set: number) => rules.map((_, i) => (set & (1 << i)) !== 0);
      known = { cells: new Map(table.columns.map((column) => [column.name, cellOf(view, column.name, bits(seen))])), editable: editableColumns(view, bits(seen), bits(edited)) };
      opened.set(key, known);
    }
    return known;
  };
  return {
    inView: (record) => outcome(record).seen !== 0,
    cell: (record, column) => rights(record).cells.get(column) ?? hidden,
    sees: (record, column) => rights(record).cells.get(column)?.level === 'shown',
    edits: (record, column) => {
      const { editable } = rights(record);
      return editable.shown.has(column) || editable.unseen.has(column);
    },
  };
}

function plainReader(record: Row): RecordReader {
  return {
    value: (path) => {
      if (path.length > 1) throw new Error(`${path.join('.')} needs the related record`);
      return record[path[0]!] ?? null;
    },
    exists: () => { throw new Error('EXISTS needs the related records'); },
  };
}
