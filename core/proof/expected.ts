import { contextOf, type Person } from '../access/person';
import { rightsOf, tableRights, type RecordRights } from '../access/rights';
import type { Rows } from '../access/rows';
import { exportView, viewOf, type View } from '../access/view';
import { isComparableCollation } from '../condition/collation';
import type { ConditionContext } from '../condition/operand-value';
import { prepare, test } from '../condition/prepare';
import type { Condition } from '../condition/tree';
import type { PortalDefinition } from '../definition/definition';
import { applyMask } from '../mask/mask';
import type { StandInKey } from '../mask/style';
import { findColumn, findTable, isPathProblem, resolvePath, type Table } from '../table/catalogue';
import type { Row, Value } from '../table/value';
import { NotHeld, type HeldRows } from './held-rows';

/** What core says that somebody gets in one cell. `nothing` is where a relation leads nowhere. */
export type ExpectedCell = { is: 'hidden' } | { is: 'nothing' } | { is: 'masked' | 'shown'; value: Value };

/**
 * What one person gets of a portal, worked out in memory by core: from the lenses of their view and each row, with no
 * SQL. Throws NotHeld where that takes rows that are not held.
 */
export class ExpectedView {
  readonly context: ConditionContext;
  private readonly views = new Map<string, View>();
  private readonly found = new Map<View, Map<Row, readonly boolean[]>>();

  constructor(
    private readonly held: HeldRows,
    private readonly definition: PortalDefinition,
    readonly person: Person,
    moment: Date,
    private readonly standIn: StandInKey | null,
  ) {
    this.context = contextOf(person, moment, definition.portal.timeZone);
  }

  /** `taking` as it is narrowed for what is taken out as a file. */
  view(table: Table, taking = false): View {
    const at = `${taking ? '>' : ' '}${table.name}`;
    let view = this.views.get(at);
    if (!view) {
      view = viewOf(this.definition, this.held.catalogue, table, this.person);
      if (taking) view = exportView(view);
      this.views.set(at, view);
    }
    return view;
  }

  holds(where: Condition, table: Table, row: Row): boolean {
    const prepared = prepare(where, { catalogue: this.held.catalogue, table, member: true });
    return test(prepared, this.held.record(table, row), this.context) === true;
  }

  private rowsHold(rows: Rows | null, table: Table, row: Row): boolean {
    return rows !== null && rows !== 'no row' && rows.every(({ where }) => this.holds(where, table, row));
  }

  private seen(view: View, row: Row): readonly boolean[] {
    let ofView = this.found.get(view);
    if (!ofView) this.found.set(view, (ofView = new Map()));
    let seen = ofView.get(row);
    if (!seen) {
      seen = view.lenses.map((lens) => this.rowsHold(lens.rows, view.table, row));
      ofView.set(row, seen);
    }
    return seen;
  }

  /** The rows of a table that are in the person's view, by its key. */
  rows(table: Table, taking = false): Row[] {
    const view = this.view(table, taking);
    if (view.lenses.length === 0) return [];
    return this.held.rows(table.name).filter((row) => this.seen(view, row).some(Boolean));
  }

  /** What they may see and do of one record. */
  rights(table: Table, row: Row): RecordRights {
    const view = this.view(table);
    const column = tableRights(view).stateRead;
    const state = column === null ? null : (row[column] ?? null);
    return rightsOf(view, {
      seen: this.seen(view, row),
      edited: view.lenses.map((lens) => lens.edit !== null && this.rowsHold(lens.edit.rows, table, row)),
      removed: view.lenses.map((lens) => this.rowsHold(lens.remove, table, row)),
      moves: view.lenses.map((lens) =>
        (lens.moves?.moves ?? []).map(({ where }) => where === undefined || this.holds(where, table, row)),
      ),
      state: state === null || typeof state === 'string' ? state : null,
    });
  }

  /** What they get in a column of the record, or along relations from it. */
  cell(table: Table, row: Row, path: readonly string[], taking = false): ExpectedCell {
    const found = resolvePath(this.held.catalogue, table, path);
    if (isPathProblem(found)) return { is: 'hidden' };
    // What is narrowed for a file is the table that it is of, wherever the way comes by it.
    const narrowed = (of: Table) => taking && of.name === table.name;
    let [at, here] = [table, row];
    for (const [i, step] of found.steps.entries()) {
      // A relation is gone along where its column is shown, what it ends in is known, and what is between is in view.
      if (this.open(at, here, step.column, narrowed(at)).level !== 'shown') return { is: 'hidden' };
      const next = findTable(this.held.catalogue, step.table);
      if (!next) return { is: 'hidden' };
      const there = this.held.step(here, step);
      if (!there) return { is: 'nothing' };
      const known =
        next.key.includes(step.targetColumn) ||
        this.open(next, there, step.targetColumn, narrowed(next)).level === 'shown';
      const isBetween = i < found.steps.length - 1;
      if (!known || (isBetween && !this.seen(this.view(next, narrowed(next)), there).some(Boolean)))
        return { is: 'hidden' };
      [at, here] = [next, there];
    }
    const openness = this.open(at, here, found.column.name, taking);
    const value = here[found.column.name] ?? null;
    switch (openness.level) {
      case 'hidden':
        return { is: 'hidden' };
      case 'shown':
        return { is: 'shown', value };
      case 'masked':
        return {
          is: 'masked',
          value: applyMask(openness.mask, value, found.column, { today: this.context.today, standIn: this.standIn }),
        };
    }
  }

  private open(table: Table, row: Row, column: string, taking: boolean) {
    const view = this.view(table, taking);
    return rightsOf(view, { seen: this.seen(view, row) }).cell(column);
  }

  /** Columns that are shown by every lens that has rows: what is asked of them is asked of what is stored. */
  plainColumns(table: Table): string[] {
    const lenses = this.view(table).lenses.filter((lens) => lens.rows !== 'no row');
    return table.columns
      .filter(({ collation }) => collation === undefined || isComparableCollation(collation))
      .map(({ name }) => name)
      .filter((name) => lenses.length > 0 && lenses.every((lens) => lens.columns.get(name)?.level === 'shown'));
  }
}

/** A row's key, in the order of the table's; NotHeld where a part of it is empty, as the key is none then. */
export function keyOfRow(table: Table, row: Row): Value[] {
  return table.key.map((name) => {
    const value = findColumn(table, name) ? (row[name] ?? null) : null;
    if (value === null) throw new NotHeld(`the key of ${table.name} is empty in a row`);
    return value;
  });
}
