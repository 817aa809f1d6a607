import { makesOf, type Action, type Ask, type MakeStep, type StepValue } from '../../../core/definition/action';
import type { PortalDefinition } from '../../../core/definition/definition';
import { freeId } from '../../../core/definition/free-id';
import type { ForRoles } from '../../../core/definition/section-kinds';
import { isClosed, type Column, type Table } from '../../../core/table/catalogue';
import { firstConstant } from '../access/choices';

/** A new action with a record of a table, which does nothing yet; called as no other is. */
export function newAction(draft: PortalDefinition, table: string, called: string, roles: string[]): Action {
  const all = draft.actions ?? [];
  const free = (name: string): string => (all.some((each) => each.name === name) ? free(`${name} too`) : name);
  return {
    id: freeId(`${table}-action`, all),
    name: free(`Do something with ${called}`),
    table,
    roles,
    asks: [],
    steps: [{ kind: 'set', values: {} }],
  };
}

/** The roles of a page that see something of a table. */
export const rolesSeeing = (draft: PortalDefinition, table: string, of: ForRoles): string[] =>
  draft.roles
    .filter(({ id, for: whom = 'members' }) => whom === 'members' && (of === 'everyone' || of.includes(id)))
    .map(({ id }) => id)
    .filter((id) => draft.access[table]?.[id]?.see !== undefined);

/** Columns that an action may write: of a record that is there not its key, and never a state. */
export function writtenColumns(table: Table, states: readonly string[], ofNew: boolean): Column[] {
  return table.columns.filter(
    (column) =>
      !column.automatic &&
      column.type !== 'other' &&
      !isClosed(table, column.name) &&
      !states.includes(column.name) &&
      (ofNew || !table.key.includes(column.name)),
  );
}

/**
 * What a column is filled with at first: days with today, choices and yes with themselves, a relation to the record
 * with the record, and what only whoever presses can know with what they are asked; an ask is made for that.
 */
export function firstValue(action: Action, table: Table, column: Column): StepValue {
  const leadsHere = table.relations.some((each) => each.column === column.name && each.table === action.table);
  if (leadsHere && table.name !== action.table) return { kind: 'this' };
  const constant = firstConstant(column);
  if (constant.kind === 'clock' || constant.kind === 'boolean' || column.choices) return constant as StepValue;
  return askFor(action, table, column);
}

/** The value that is asked for of a column, by an ask that is there or is made now. */
export function askFor(action: Action, table: Table, column: Column): StepValue {
  const known = action.asks.find((ask) => ask.table === table.name && ask.column === column.name);
  if (known) return { kind: 'asked', ask: known.id };
  const ask: Ask = { id: freeId(column.name, action.asks), table: table.name, column: column.name };
  if (!column.nullable) ask.required = true;
  action.asks.push(ask);
  return { kind: 'asked', ask: ask.id };
}

/** Takes out asks that no step goes by any more. */
export function dropUnasked(action: Action): void {
  const used = new Set(
    action.steps.flatMap((step) =>
      'values' in step ? Object.values(step.values).flatMap((value) => (value.kind === 'asked' ? value.ask : [])) : [],
    ),
  );
  action.asks = action.asks.filter(({ id }) => used.has(id));
}

/** Takes a step out; what goes by a record that it made goes by nothing, and others are counted anew. */
export function dropStep(action: Action, at: number): void {
  const gone = makesOf(action).indexOf(action.steps[at] as MakeStep);
  action.steps.splice(at, 1);
  if (gone < 0) return;
  for (const { values } of makesOf(action))
    for (const [column, value] of Object.entries(values))
      if (value.kind === 'made' && value.make === gone) delete values[column];
      else if (value.kind === 'made' && value.make > gone) value.make -= 1;
}
