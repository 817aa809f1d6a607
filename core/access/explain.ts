import { trace, type ReadPath, type Trace } from '../condition/evaluate';
import type { ConditionContext } from '../condition/operand-value';
import { pathsOf } from '../condition/tree';
import type { PortalDefinition, RowFilter } from '../definition/definition';
import type { Catalogue } from '../table/catalogue';
import type { Openness } from './lens';
import type { Person } from './person';
import { cellOf, editableColumns, hidden, type View } from './view';

/** Why a person sees, or doesn't see, one record and one of its cells. */
export interface Explanation {
  table: string;
  column: string | null;
  inView: boolean;
  cell: Openness | null;
  editable: boolean;
  /** One for each of the person's roles, also those without a grant on the table. */
  roles: RoleExplanation[];
}

export interface RoleExplanation {
  role: string;
  /** False when the role has no grant on the table, or one that can't be used. */
  granted: boolean;
  rows: FilterExplanation | null;
  edit: FilterExplanation | null;
  /** What this role alone shows of the column. */
  openness: Openness | null;
  /** Masks on the column from which this role is excepted, or that are for others. */
  masksPassed: string[];
}

export interface FilterExplanation {
  filter: RowFilter | 'no row';
  holds: boolean;
  trace: Trace | null;
}

/** Every column path that the view's filters read: what must be known of a record to explain it. */
export function pathsToExplain(view: View): string[][] {
  const filters = view.lenses.flatMap((lens) => [lens.rows, lens.edit?.rows]);
  const paths = filters.flatMap((filter) => (filter && typeof filter === 'object' ? pathsOf(filter) : []));
  return [...new Map(paths.map((path) => [JSON.stringify(path), path])).values()];
}

/** Explains a record, or one cell of it. `read` gives the raw values of the paths named by `pathsToExplain`. */
export function explain(
  definition: PortalDefinition,
  catalogue: Catalogue,
  view: View,
  person: Person,
  read: ReadPath,
  context: ConditionContext,
  column: string | null,
): Explanation {
  const test = (filter: RowFilter | 'no row'): FilterExplanation => {
    if (typeof filter === 'string') return { filter, holds: filter === 'every row', trace: null };
    const result = trace(filter, { catalogue, table: view.table, member: true }, read, context);
    return { filter, holds: result.outcome === true, trace: result };
  };
  const tests = view.lenses.map((lens) => ({ rows: test(lens.rows), edit: lens.edit && test(lens.edit.rows) }));
  const seen = tests.map((each) => each.rows.holds);
  const edited = tests.map((each) => each.edit?.holds ?? false);

  const roles = person.roles.map((role): RoleExplanation => {
    const i = view.lenses.findIndex((lens) => lens.role === role);
    const lens = view.lenses[i];
    const masksPassed = definition.masks
      .filter((rule) => rule.table === view.table.name && rule.column === column)
      .filter((rule) => rule.exceptRoles.includes(role) || (rule.to !== 'everyone' && !rule.to.includes(role)))
      .map((rule) => rule.id);
    return {
      role,
      granted: lens !== undefined,
      rows: tests[i]?.rows ?? null,
      edit: tests[i]?.edit ?? null,
      openness: lens && column !== null ? (lens.columns.get(column) ?? hidden) : null,
      masksPassed,
    };
  });
  return {
    table: view.table.name,
    column,
    inView: seen.some(Boolean),
    cell: column === null ? null : cellOf(view, column, seen),
    editable: column !== null && editableColumns(view, seen, edited).has(column),
    roles,
  };
}
