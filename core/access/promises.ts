import { excludes, implies } from '../condition/analyse';
import { checkCondition } from '../condition/check';
import type { Condition } from '../condition/tree';
import { originsOf, type Move, type PortalDefinition } from '../definition/definition';
import type { PortalPromise, PromisedOperation } from '../definition/promise';
import { actionsOf } from '../definition/action';
import { findColumn, findTable, type Catalogue } from '../table/catalogue';
import { rolesOf, type KnownPerson } from './people';
import type { Lens } from './lens';
import type { MadeByAction } from './made-by-actions';
import { bothRows, rowsCondition, type Rows } from './rows';
import type { Person } from './person';
import { exportView, viewOf, type View } from './view';

/** A promise about an operation, as opposed to one about a number of records. */
export type RulePromise = Extract<PortalPromise, { operation: PromisedOperation }>;

/** What became of a promise. */
export interface PromiseOutcome {
  id: string;
  kept: boolean;
  /** `analysis`: certain for all data. `data`: so it is now, for every member concerned. */
  by: 'analysis' | 'data';
  counterExample?: { person: { id: number | null; name: string }; record: string | null; found?: number };
  /** Why it could not be tested; it then counts as broken. */
  problem?: string;
}

/** Which rows a person reaches; null for every row. */
export type Reach = Condition | null | 'no row';

/** Why a promise can't be tested against the catalogue and the definition; null when it can. */
export function promiseProblem(
  promise: PortalPromise,
  definition: PortalDefinition,
  catalogue: Catalogue,
): string | null {
  const table = findTable(catalogue, promise.table);
  if (!table) return `there is no table ${promise.table}`;
  if ('role' in promise.who && !definition.roles.some((role) => role.id === (promise.who as { role: string }).role))
    return `there is no role ${promise.who.role}`;
  if (promise.says === 'sees exactly') return null;
  if (promise.column !== undefined && !findColumn(table, promise.column))
    return `there is no column ${promise.column} in ${promise.table}`;
  const { step, operation } = promise;
  const isStep = operation === 'move' || operation === 'act';
  if (isStep && promise.column !== undefined) return 'a move or an action is of a record, not of a column';
  if (step !== undefined && !(isStep && stepsOf(definition, promise.table, operation).some(({ id }) => id === step)))
    return `there is no ${operation === 'act' ? 'action' : 'move'} ${step} in ${promise.table}`;
  if (promise.says === 'may only' && !promise.where) return '"may only" needs a condition that says which records';
  const problem = promise.where && checkCondition(promise.where, { catalogue, table, member: true })[0];
  return problem ? problem.reason : null;
}

/** The moves of a table, or the actions that are pressed on its records. */
export function stepsOf(
  definition: PortalDefinition,
  table: string,
  operation: 'move' | 'act',
): readonly { id: string; name: string }[] {
  return operation === 'act'
    ? actionsOf(definition.actions, table).filter(({ on }) => on === undefined)
    : ((definition.lifecycles ?? []).find((each) => each.table === table)?.moves ?? []);
}

/** Whether the promise is about the person. */
export function isAbout(
  promise: PortalPromise,
  definition: PortalDefinition,
  catalogue: Catalogue,
  person: KnownPerson,
): boolean {
  if ('member' in promise.who) return person.email !== null && person.email === promise.who.member.trim().toLowerCase();
  const roles = rolesOf(definition, catalogue, person);
  if ('role' in promise.who) return roles.includes(promise.who.role);
  return !promise.who.exceptRoles.some((role) => roles.includes(role));
}

/**
 * Which rows a view lets its person see, edit, delete, make, take out, move or act on. With a column: where they see it
 * unmasked, can fill it, or have it unmasked in what they take out. What actions make of it comes as `made`.
 */
export function reachOf(
  view: View,
  { operation, column, step }: Pick<RulePromise, 'operation' | 'column' | 'step'>,
  made: readonly MadeByAction[] = [],
): Reach {
  const { lenses } = view;
  const seen = anyOf(lenses.map((lens) => lens.rows));
  switch (operation) {
    case 'see':
      return column === undefined
        ? seen
        : anyOf(lenses.filter((lens) => lens.columns.get(column)?.level === 'shown').map((lens) => lens.rows));
    case 'edit': {
      // What an action writes is changed as well, by whom and where the action lets it.
      const acted = anyOf(lenses.flatMap((lens) => writtenByPress(lens, column)));
      const edited = anyOf(
        lenses.map((lens) =>
          lens.edit && (column === undefined ? lens.edit.columns.size > 0 : lens.edit.columns.has(column))
            ? lens.edit.rows
            : null,
        ),
      );
      if (column === undefined) return either(both(seen, edited), acted);
      const shown = anyOf(
        lenses.filter((lens) => lens.columns.get(column)?.level === 'shown').map((lens) => lens.rows),
      );
      const unseen = anyOf(lenses.map((lens) => (lens.edit?.unseen.has(column) ? lens.edit.rows : null)));
      return either(either(both(shown, edited), both(seen, unseen)), acted);
    }
    case 'delete':
      return both(seen, anyOf(lenses.map((lens) => lens.remove)));
    case 'export':
      return reachOf(exportView(view), { operation: 'see', column });
    case 'move':
      // A role makes moves with the records that it shows or lets be edited.
      return both(
        seen,
        lenses
          .map((lens) => both(anyOf([lens.rows, lens.edit?.rows ?? null]), movedBy(lens, step)))
          .reduce(either, 'no row'),
      );
    case 'act':
      return lenses
        .flatMap((lens) =>
          lens.actions
            .filter(({ action }) => action.on === undefined && (step === undefined || action.id === step))
            .map(({ where, move }) =>
              both(anyOf([bothRows(lens.rows, where)]), move ? inStates(move.column, move.move) : null),
            ),
        )
        .reduce(either, 'no row');
    case 'create':
      return anyOf([
        ...made.flatMap(({ make }) => (column === undefined || make.fills.has(column) ? [make.keepIn] : [])),
        ...lenses.map((lens) =>
          lens.create && (column === undefined || lens.create.columns.has(column)) ? lens.create.keepIn : null,
        ),
      ]);
  }
}

/** From where a lens lets a move, or any, be made. */
const movedBy = ({ moves }: Lens, step: string | undefined): Reach =>
  (moves?.moves ?? [])
    .filter(({ id }) => step === undefined || id === step)
    .map((move) => both(inStates(moves!.column, move), move.where ?? null))
    .reduce(either, 'no row');

const inStates = (column: string, { from }: Move): Reach =>
  from.length === 0
    ? 'no row'
    : {
        kind: 'in',
        left: { kind: 'column', path: [column] },
        list: from.map((text) => ({ kind: 'text', text })),
      };

/** Where a lens lets a column, or any, be written by an action. */
const writtenByPress = ({ rows, actions }: Lens, column: string | undefined): Rows[] =>
  actions
    .filter(({ set }) => (column === undefined ? Object.keys(set).length > 0 : Object.hasOwn(set, column)))
    .map(({ where }) => bothRows(rows, where));

function anyOf(rules: (Rows | null)[]): Reach {
  return rules
    .map((rows): Reach => (!rows || rows === 'no row' ? 'no row' : rowsCondition(rows)))
    .reduce(either, 'no row');
}

function either(a: Reach, b: Reach): Reach {
  if (a === 'no row') return b;
  if (b === 'no row') return a;
  return a === null || b === null ? null : JSON.stringify(a) === JSON.stringify(b) ? a : { kind: 'any', parts: [a, b] };
}

function both(a: Reach, b: Reach): Reach {
  if (a === 'no row' || b === 'no row') return 'no row';
  if (a === null) return b;
  return b === null || JSON.stringify(a) === JSON.stringify(b) ? a : { kind: 'all', parts: [a, b] };
}

/**
 * The column of a saved query that shows a person what a promise keeps from them: made of the column that the promise
 * is about, or of any column of its table. Which records its values are of can't be told from it, so a promise that
 * something is not seen, or only in some records, is broken by it. Null where there is none.
 */
export function shownByQuery(
  promise: RulePromise,
  definition: PortalDefinition,
  catalogue: Catalogue,
  person: Person,
): { table: string; column: string } | null {
  const isExport = promise.operation === 'export';
  if (!(isExport || promise.operation === 'see') || promise.says === 'must be able to') return null;
  for (const query of catalogue.tables.filter((table) => table.query !== undefined && table.name !== promise.table)) {
    const made = query.columns.filter((column) =>
      originsOf(definition, query, column.name).some(
        (origin) =>
          origin.table === promise.table && (promise.column === undefined || origin.column === promise.column),
      ),
    );
    if (made.length === 0) continue;
    const view = viewOf(definition, catalogue, query, person);
    const { lenses: all } = isExport ? exportView(view) : view;
    const lenses = all.filter((lens) => lens.rows !== 'no row');
    const shown = made.find((column) =>
      lenses.some((lens) =>
        promise.column === undefined ? lens.columns.has(column.name) : lens.columns.get(column.name)?.level === 'shown',
      ),
    );
    if (shown) return { table: query.name, column: shown.name };
  }
  return null;
}

/** Whether it is certain that whoever reaches these rows keeps the promise, whatever the data. */
export function isCertain(promise: RulePromise, reach: Reach, view: View, catalogue: Catalogue): boolean {
  const scope = { catalogue, table: view.table, member: true };
  const where = promise.where ?? null;
  switch (promise.says) {
    case 'may never':
      return reach === 'no row' || excludes(reach, where, scope);
    case 'may only':
      return reach === 'no row' || implies(reach, where, scope);
    case 'must be able to':
      return reach !== 'no row' && implies(where, reach, scope);
  }
}
