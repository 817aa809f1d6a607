import { servicePerson } from '../../../core/access/person';
import { visibleColumns } from '../../../core/access/view';
import { followingOn, type Action } from '../../../core/definition/action';
import type { Value } from '../../../core/table/value';
import { readState, type RowState } from '../read/read';
import type { TableVisit, TableWrite } from '../view/table-visit';
import { viewSql } from '../view/view-sql';
import type { Visit } from '../view/visit';
import { pathsMailed, pathsRead } from './step-values';
import { logOf, type TransactionLog } from './transaction-log';

/**
 * Notes what happens to records, for the actions that are done by themselves when it does. What builders do with all
 * records sets nothing off: theirs is the draft, and what follows is of what is published.
 */

const services = new WeakMap<Visit, Map<string, Visit>>();

/** The service by whose role an action is done by itself, where somebody does what sets it off. */
function asService(visit: Visit, role: string): Visit {
  const known = services.get(visit) ?? new Map<string, Visit>();
  services.set(visit, known);
  let service = known.get(role);
  if (!service) {
    const { definition, catalogue, moment, elsewhere, standIn } = visit;
    const person = servicePerson(definition, [role]);
    service = { definition, catalogue, moment, person, ...(elsewhere ? { elsewhere } : {}), standIn: standIn ?? null };
    known.set(role, service);
  }
  return service;
}

/** The same table as the service of an action has it. */
export function serviceAt({ runner, visit, table }: TableWrite, action: Action): TableWrite {
  const service = asService(visit, action.roles[0] ?? '');
  return { runner, visit: service, view: viewSql(service), table };
}

/** A record as the service of an action has it, with what its steps go by; null where it doesn't see it. */
export function stateFor(at: TableWrite, key: Value[], action: Action): Promise<RowState | null> {
  const service = serviceAt(at, action);
  const first = visibleColumns(service.view.view(service.table)).slice(0, 1);
  const paths = [...first.map((column) => [column]), ...pathsRead(action), ...pathsMailed(action)];
  return readState(service, key, paths, true);
}

const logFor = ({ runner, visit }: TableVisit) => (visit.person.kind === 'builder' ? undefined : logOf(runner));

const can = (state: RowState | null, action: Action): boolean =>
  state?.rights.actions.some((each) => each.action === action) ?? false;

/** Whether an action is left out, as the records come by a file and it is not ticked for those. */
const isLeft = ({ by, depth }: TransactionLog, { on }: Action): boolean =>
  by.brought === true && depth === 0 && !(on && 'brought' in on);

/** What held of a record before it is changed. */
export type Watched = ReadonlySet<Action>;

/** Looks at a record before a change, where something may begin to hold by it. */
export async function watch(at: TableVisit, key: Value[]): Promise<Watched> {
  const held = new Set<Action>();
  const log = logFor(at);
  if (!log) return held;
  for (const action of followingOn(at.visit.definition, at.table.name)) {
    if (action.on?.what !== 'changed' || !action.where || isLeft(log, action)) continue;
    if (can(await stateFor(at as TableWrite, key, action), action)) held.add(action);
  }
  return held;
}

/** What follows by itself of a record that was made, changed or moved. */
export function followersOf(at: TableVisit, what: 'made' | 'changed', move: string | null = null): Action[] {
  const log = logFor(at);
  if (!log) return [];
  return followingOn(at.visit.definition, at.table.name).filter((action) => {
    const { on } = action;
    if (isLeft(log, action)) return false;
    // Of what follows of others it doesn't matter how they came.
    const isFirst = log.depth === 0;
    if (on!.what === 'moved') return what === 'changed' && move !== null && (on!.move ?? move) === move;
    if (on!.what === 'made' && on!.form !== undefined && !(isFirst && on!.form === log.by.form)) return false;
    return on!.what === what;
  });
}

/** Notes that a record was made, changed or moved; `held` is what held before. */
export function happened(
  at: TableVisit,
  key: Value[],
  what: 'made' | 'changed',
  { held = new Set(), move = null }: { held?: Watched; move?: string | null } = {},
): void {
  const log = logFor(at);
  if (!log || key.length === 0) return;
  const follow = followersOf(at, what, move);
  if (follow.length > 0)
    log.happenings.push({ table: at.table.name, key, what, move, follow, held, was: new Map(), depth: log.depth });
}

/** Notes that a record is going to be deleted, and what it was. */
export async function goes(at: TableVisit, key: Value[]): Promise<void> {
  const log = logFor(at);
  if (!log) return;
  const follow = followingOn(at.visit.definition, at.table.name).filter(({ on }) => on?.what === 'deleted');
  const was = new Map<Action, RowState>();
  for (const action of follow) {
    const state = await stateFor(at as TableWrite, key, action);
    if (can(state, action)) was.set(action, state!);
  }
  if (was.size === 0) return;
  const { depth } = log;
  const of = { table: at.table.name, key, what: 'deleted' as const, move: null, held: new Set<Action>() };
  log.happenings.push({ ...of, follow, was, depth });
}
