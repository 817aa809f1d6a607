import { trace, type Trace } from '../condition/evaluate';
import type { ConditionContext } from '../condition/operand-value';
import type { RecordReader } from '../condition/prepare';
import { existsOf, pathsOf, type ExistsCondition } from '../condition/tree';
import { maskTargets, type Move, type PortalDefinition } from '../definition/definition';
import type { Mask } from '../mask/mask';
import type { Catalogue } from '../table/catalogue';
import { type Lens, type Openness } from './lens';
import { isFor } from './lens-rules';
import type { Person } from './person';
import type { PartOrigin, Rows } from './rows';
import { rightsOf, tableRights, type RecordRights } from './rights';
import { hidden, type View } from './view';

/** Why a person sees, or doesn't see, one record and one of its cells, and what they may do with it. */
export interface Explanation {
  table: string;
  column: string | null;
  inView: boolean;
  cell: Openness | null;
  /** Whether the column can be changed in this record; of the record without a column: whether any can. */
  editable: boolean;
  deletable: boolean;
  /** The moves that the person may make with this record now. */
  moves: string[];
  /** What they may do with this record by a press now. */
  actions: string[];
  /** What the source itself allows of the column: a ceiling stands above every role. */
  ceiling: 'nothing' | 'read' | null;
  /**
   * One for each of the person's roles, also those without a grant on the table, and one for all that they may do there
   * as stewards.
   */
  roles: RoleExplanation[];
}

interface RoleExplanation {
  role: string;
  /** What the role may do as a steward, by id; absent for its grant. */
  steward?: string;
  /** False when the role has no grant on the table, or one that can't be used. */
  granted: boolean;
  see: RowsExplanation | null;
  edit: RowsExplanation | null;
  remove: RowsExplanation | null;
  /** The keep-in rule and the fences, tested on the record as it is now. */
  keepIn: RowsExplanation | null;
  /** Whether the role lists the column as editable; null when no column is asked about. */
  listsColumn: boolean | null;
  moves: { move: string; fromHere: boolean; where: RowsExplanation; missing: string[] }[];
  /** Those of which it has the right here; `fromHere` whether its move leads on from the state. */
  actions: { action: string; fromHere: boolean; where: RowsExplanation }[];
  /** What this role alone shows of the column. */
  openness: Openness | null;
  /** Every mask on the column, and what became of it for this role. */
  masks: {
    id: string;
    mask: Mask;
    outcome: 'decides' | 'a stricter one decides' | 'for other roles' | 'role excepted' | 'member excepted';
  }[];
}

/** A row rule on one record: it holds when each part does. */
export interface RowsExplanation {
  holds: boolean;
  /** Empty for every row; null when the rule can't be used and so lets nothing in. */
  parts: { origin: PartOrigin; holds: boolean; trace: Trace }[] | null;
}

/** What must be known of a record to explain it: the values of paths, and for each EXISTS whether it holds. */
export function neededToExplain(view: View): { paths: string[][]; exists: ExistsCondition[] } {
  const conditions = view.lenses.flatMap((lens) =>
    [lens.rows, lens.edit?.rows, lens.edit?.keepIn, lens.create?.keepIn, lens.moves?.after, lens.remove]
      .flatMap((rows) => (rows && rows !== 'no row' ? rows.map((part) => part.where) : []))
      .concat((lens.moves?.moves ?? []).flatMap((move) => move.where ?? []))
      .concat(lens.actions.flatMap(({ where }) => (where === 'no row' ? [] : where.map((part) => part.where)))),
  );
  const states = view.lenses.flatMap((lens) => [
    ...lens.actions.flatMap(({ move }) => (move ? [[move.column]] : [])),
    ...(lens.moves
      ? [[lens.moves.column], ...lens.moves.moves.flatMap((move) => move.needs.map((column) => [column]))]
      : []),
  ]);
  const paths = [...conditions.flatMap(pathsOf), ...states];
  return {
    paths: [...new Map(paths.map((path) => [JSON.stringify(path), path])).values()],
    exists: [...new Set(conditions.flatMap(existsOf))],
  };
}

/** Tests a row rule on one record and keeps what was compared. */
export function explainRows(
  rows: Rows | null | undefined,
  catalogue: Catalogue,
  view: View,
  record: RecordReader,
  context: ConditionContext,
): RowsExplanation {
  if (!rows || rows === 'no row') return { holds: false, parts: null };
  const parts = rows.map(({ origin, where }) => {
    const result = trace(where, { catalogue, table: view.table, member: true }, record, context);
    return { origin, holds: result.outcome === true, trace: result };
  });
  return { holds: parts.every((part) => part.holds), parts };
}

/**
 * Explains a record, or one cell of it, and gives the rights that it explains. `record` gives the raw values that
 * `neededToExplain` names.
 */
export function explain(
  definition: PortalDefinition,
  catalogue: Catalogue,
  view: View,
  person: Person,
  record: RecordReader,
  context: ConditionContext,
  column: string | null,
): { explanation: Explanation; rights: RecordRights } {
  const test = (rows: Rows | null | undefined) => explainRows(rows, catalogue, view, record, context);
  const tests = view.lenses.map((lens) => ({
    see: test(lens.rows),
    edit: lens.edit && test(lens.edit.rows),
    remove: lens.remove && test(lens.remove),
    keepIn: lens.edit && test(lens.edit.keepIn),
    moves: movesOf(lens, test, record),
    actions: lens.actions.map(({ action, where, move }) => ({
      action: action.id,
      fromHere: move === null || move.move.from.includes(String(record.value([move.column]))),
      where: test(where),
    })),
  }));
  const seen = tests.map((each) => each.see.holds);
  const state = tableRights(view).stateRead;
  const stored = state === null ? null : record.value([state]);
  const rights = rightsOf(view, {
    seen,
    edited: tests.map((each) => each.edit?.holds ?? false),
    removed: tests.map((each) => each.remove?.holds ?? false),
    moves: tests.map((each) => each.moves.map((move) => move.where.holds)),
    actions: tests.map((each) => each.actions.map((action) => action.where.holds)),
    state: stored === null ? null : String(stored),
  });
  const { inView, editable } = rights;

  const places = person.roles.flatMap((role) => {
    const own = view.lenses.findIndex((lens) => lens.role === role && lens.steward === undefined);
    const asSteward = view.lenses.flatMap((lens, i) => (lens.role === role && lens.steward !== undefined ? [i] : []));
    return [own, ...asSteward].map((i) => ({ role, i }));
  });
  const roles = places.map(({ role, i }): RoleExplanation => {
    const lens = view.lenses[i];
    return {
      role,
      ...(lens?.steward === undefined ? {} : { steward: lens.steward }),
      granted: lens !== undefined,
      see: tests[i]?.see ?? null,
      edit: tests[i]?.edit ?? null,
      remove: tests[i]?.remove ?? null,
      keepIn: tests[i]?.keepIn ?? null,
      listsColumn: column === null ? null : (lens?.edit?.columns.has(column) ?? false),
      moves: tests[i]?.moves ?? [],
      actions: tests[i]?.actions ?? [],
      openness: lens && column !== null ? (lens.columns.get(column) ?? hidden) : null,
      masks: column === null ? [] : masksOf(definition, view, person, role, column, lens),
    };
  });
  const explanation: Explanation = {
    table: view.table.name,
    column,
    inView,
    cell: column === null ? null : rights.cell(column),
    editable: column === null ? editable.shown.size + editable.unseen.size > 0 : rights.edits(column),
    deletable: rights.deletable,
    moves: rights.moves.map(({ move }) => move.id),
    actions: rights.actions.map(({ action }) => action.id),
    ceiling: (column !== null && view.table.ceiling?.columns?.[column]) || null,
    roles,
  };
  return { explanation, rights };
}

function movesOf(lens: Lens, test: (rows: Rows) => RowsExplanation, record: RecordReader): RoleExplanation['moves'] {
  return (lens.moves?.moves ?? []).map((move: Move) => {
    return {
      move: move.id,
      fromHere: move.from.includes(String(record.value([lens.moves!.column]))),
      where: test(move.where ? [{ origin: { kind: 'move', id: move.id }, where: move.where }] : []),
      missing: move.needs.filter((needed) => isEmpty(record.value([needed]))),
    };
  });
}

function isEmpty(value: unknown): boolean {
  return value === null || value === '' || (Array.isArray(value) && value.length === 0);
}

function masksOf(
  definition: PortalDefinition,
  view: View,
  person: Person,
  role: string,
  column: string,
  lens: Lens | undefined,
): RoleExplanation['masks'] {
  const openness = lens?.columns.get(column);
  return definition.masks
    .filter((rule) => maskTargets(definition, rule, view.table, column))
    .map((rule) => {
      const outcome = !isFor(rule.to, role)
        ? 'for other roles'
        : rule.exceptRoles.includes(role)
          ? 'role excepted'
          : person.email && rule.exceptMembers?.includes(person.email)
            ? 'member excepted'
            : openness?.level === 'masked' && JSON.stringify(openness.mask) !== JSON.stringify(rule.mask)
              ? 'a stricter one decides'
              : 'decides';
      return { id: rule.id, mask: rule.mask, outcome };
    });
}
