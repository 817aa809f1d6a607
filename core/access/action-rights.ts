import {
  actionsOf,
  callsOf,
  columnsWritten,
  mailsOf,
  mailWordsProblem,
  makesOf,
  moveOf,
  valuesSet,
  type Action,
  type MakeStep,
  type StepValues,
} from '../definition/action';
import type { Move, PortalDefinition, Stamp } from '../definition/definition';
import { findColumn, findTable, type Catalogue, type Table } from '../table/catalogue';
import { boundsOf, isFor, partsOf, writable } from './lens-rules';
import { bothRows, type Rows } from './rows';

/**
 * What an action lets a role do that its grant does not. Whatever bounds every right of the role holds here too: its
 * fences, the ceiling, and that a state changes by moves alone.
 */

/** One action as a role has it on its table. */
export interface ActionLens {
  action: Action;
  /** Where it can be done, of the rows that the role sees. */
  where: Rows;
  /** What must hold of the record afterwards. */
  after: Rows;
  set: StepValues;
  /** The columns that it writes: those it sets, and those that what its calls are answered goes into. */
  writes: ReadonlySet<string>;
  move: { column: string; move: Move } | null;
  /** What the server puts into the record when it is changed. */
  stamps: readonly Stamp[];
  makes: readonly MakeRight[];
}

/** A record that an action makes, in place of what the role may make by itself. */
interface MakeRight {
  step: MakeStep;
  fills: ReadonlySet<string>;
  keepIn: Rows;
  stamps: readonly Stamp[];
}

/**
 * The actions that a role has on a table of which it sees `seen`. Fails closed: an action of which anything can't be
 * done is not there.
 */
export function actionLenses(
  definition: PortalDefinition,
  catalogue: Catalogue,
  table: Table,
  role: string,
  seen: Rows,
): ActionLens[] {
  if (seen === 'no row') return [];
  // What is done by itself is done by a service.
  const isService = definition.roles.some(({ id, for: whom }) => id === role && whom === 'services');
  return actionsOf(definition.actions, table.name)
    .filter(({ roles, on }) => roles.includes(role) && (on === undefined || isService))
    .map((action) => actionLens(definition, catalogue, table, role, seen, action))
    .filter((lens) => lens !== null);
}

function actionLens(
  definition: PortalDefinition,
  catalogue: Catalogue,
  table: Table,
  role: string,
  seen: Rows,
  action: Action,
): ActionLens | null {
  const { part } = partsOf(catalogue, table);
  const own = part(action.where ?? 'every row', { kind: 'action', id: action.id, of: 'where' });
  const after =
    action.keepIn === undefined
      ? seen
      : bothRows(
          part(action.keepIn, { kind: 'action', id: action.id, of: 'keep-in' }),
          boundsOf(definition, table, role, part),
        );
  const set = valuesSet(action);
  const move = moveMade(definition, table, action);
  if (move === 'gone') return null;
  const where = move?.move.where ? bothRows(own, part(move.move.where, { kind: 'move', id: move.move.id })) : own;
  const writes = columnsWritten(action);
  const makes = makesOf(action).map((step) => makeRight(definition, catalogue, role, action, step));
  const isWhole =
    where !== 'no row' &&
    after !== 'no row' &&
    mailsOf(action).every((step) => mailWordsProblem(step) === null) &&
    callsOf(action).every((step) => definition.addresses?.some(({ id }) => id === step.address)) &&
    !((writes.length > 0 || move !== null) && (table.ceiling?.edit === false || table.key.length === 0)) &&
    canWrite(definition, table, writes, table.key);
  if (!isWhole || makes.some((make) => make === null)) return null;
  return {
    action,
    where,
    after,
    set,
    writes: new Set(writes),
    move,
    stamps: stampsOf(definition, table, role),
    makes: makes.filter((make) => make !== null),
  };
}

const stampsOf = (definition: PortalDefinition, table: Table, role: string): Stamp[] =>
  (definition.stamps ?? []).filter((stamp) => stamp.table === table.name && isFor(stamp.to, role));

/** Whether each of the columns can be written at all, and none is one of the key. */
function canWrite(
  definition: PortalDefinition,
  table: Table,
  columns: readonly string[],
  key: readonly string[],
): boolean {
  const open = writable(definition, table, [...columns]);
  return columns.every((column) => open.has(column) && !key.includes(column));
}

function moveMade(definition: PortalDefinition, table: Table, action: Action): ActionLens['move'] | 'gone' {
  const id = moveOf(action);
  if (id === null) return null;
  const lifecycle = (definition.lifecycles ?? []).find((each) => each.table === table.name);
  const move = lifecycle?.moves.find((each) => each.id === id);
  if (!lifecycle || !move || !findColumn(table, lifecycle.column)) return 'gone';
  if (table.ceiling?.columns?.[lifecycle.column] !== undefined) return 'gone';
  return { column: lifecycle.column, move };
}

function makeRight(
  definition: PortalDefinition,
  catalogue: Catalogue,
  role: string,
  action: Action,
  step: MakeStep,
): MakeRight | null {
  const table = findTable(catalogue, step.table);
  if (!table || table.ceiling?.create === false) return null;
  const { part } = partsOf(catalogue, table);
  const own = part(step.keepIn ?? 'every row', { kind: 'action', id: action.id, of: 'keep-in' });
  const keepIn = bothRows(own, boundsOf(definition, table, role, part));
  const columns = Object.keys(step.values);
  if (keepIn === 'no row' || !canWrite(definition, table, columns, [])) return null;
  return { step, fills: new Set(columns), keepIn, stamps: stampsOf(definition, table, role) };
}
