import {
  callsOf,
  columnsInMail,
  columnsWritten,
  isOperandValue,
  mailsOf,
  makesOf,
  moveOf,
  type Action,
  type MailStep,
  type StepValue,
} from '../definition/action';
import { unshifted } from '../condition/tree';
import type { PortalDefinition } from '../definition/definition';
import { readPath } from '../definition/path';
import { findTable, isPathProblem, resolvePath, type Catalogue } from '../table/catalogue';

/** What an action does with a column beyond whoever is shown it, and who brings that about. */
export interface SideEffect {
  action: string;
  /** To where it is told; null where it is written. */
  to: { address: string } | { mail: MailStep['mail'] } | null;
  by: SetOffBy;
}

/** The roles whose doing brings something about; `clock` where a time of day does. */
interface SetOffBy {
  roles: string[];
  clock: boolean;
}

/**
 * Where a column is told, and what writes it without a press: by actions, with the roles by whose doing that happens.
 * Who presses is told for what is done by a press as well.
 */
export function sideEffectsOn(
  definition: PortalDefinition,
  catalogue: Catalogue,
  of: { table: string; column: string },
): SideEffect[] {
  return (definition.actions ?? []).flatMap((action): SideEffect[] => {
    const from = findTable(catalogue, action.table);
    if (!from) return [];
    const isIt = (path: readonly string[] | null): boolean => {
      const found = path && resolvePath(catalogue, from, [...path]);
      return !!found && !isPathProblem(found) && found.table.name === of.table && found.column.name === of.column;
    };
    const made = { action: action.id, by: setOffBy(definition, action) };
    const calls = callsOf(action)
      .filter(({ values }) => Object.values(values).some((value) => isIt(pathIn(value))))
      .map(({ address }): SideEffect => ({ ...made, to: { address } }));
    const mails = mailsOf(action)
      .filter((step) => columnsInMail(step).some((text) => isIt(readPath(text))))
      .map(({ mail }): SideEffect => ({ ...made, to: { mail } }));
    const writes =
      action.on !== undefined &&
      ((action.table === of.table && columnsWritten(action).includes(of.column)) ||
        makesOf(action).some(({ table, values }) => table === of.table && Object.hasOwn(values, of.column)));
    return [...calls, ...mails, ...(writes ? [{ ...made, to: null }] : [])];
  });
}

function pathIn(value: StepValue): string[] | null {
  if (!isOperandValue(value)) return null;
  const plain = unshifted(value);
  return plain.kind === 'column' ? plain.path : null;
}

/** The roles that set an action off: by pressing it, by what they may do with its table, or through other actions. */
function setOffBy(definition: PortalDefinition, action: Action): SetOffBy {
  const roles = new Set<string>();
  let clock = false;
  const seen = new Set<Action>();
  const follow = (of: Action): void => {
    if (seen.has(of)) return;
    seen.add(of);
    if (!of.on) return of.roles.forEach((role) => roles.add(role));
    if (of.on.what === 'time') {
      clock = true;
      return;
    }
    for (const role of rolesDoing(definition, of)) roles.add(role);
    for (const other of definition.actions ?? []) if (setsOff(other, of)) follow(other);
  };
  follow(action);
  return { roles: definition.roles.map(({ id }) => id).filter((id) => roles.has(id)), clock };
}

/** The roles that may do by their grants what sets an action off. */
function rolesDoing({ access, lifecycles = [], stewards = [] }: PortalDefinition, { table, on }: Action): string[] {
  const grants = Object.entries(access[table] ?? {});
  const moves = lifecycles.filter((each) => each.table === table).flatMap((each) => each.moves);
  switch (on?.what) {
    case 'made':
      return [
        ...grants.flatMap(([role, { create }]) => (create ? [role] : [])),
        ...stewards.flatMap((each) =>
          each.does === 'look after people' && each.roster === table && each.adds ? [each.role] : [],
        ),
      ];
    case 'changed':
      return [
        ...grants.flatMap(([role, { edit }]) => (edit ? [role] : [])),
        ...moves.flatMap((move) => move.roles),
        ...stewards.flatMap((each) =>
          each.does === 'look after people' && each.roster === table && each.changes ? [each.role] : [],
        ),
      ];
    case 'moved':
      return moves.filter(({ id }) => (on.move ?? id) === id).flatMap((move) => move.roles);
    case 'deleted':
      return grants.flatMap(([role, grant]) => (grant.delete ? [role] : []));
    default:
      return [];
  }
}

/** Whether doing one action is what sets the other off. */
function setsOff(one: Action, { table, on }: Action): boolean {
  if (on?.what === 'made') return makesOf(one).some((step) => step.table === table);
  if (one.table !== table) return false;
  const move = moveOf(one);
  if (on?.what === 'moved') return move !== null && (on.move ?? move) === move;
  return on?.what === 'changed' && (move !== null || columnsWritten(one).length > 0);
}
