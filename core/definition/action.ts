import type { Condition, Operand } from '../condition/tree';
import { TemplateError, valuesOf } from '../mail/template';

/** A constant, a fact of whoever presses, or a column of the record. */
export type OperandValue = Exclude<Operand, { kind: 'record' }>;

/**
 * What a step puts into a column: an operand, what was asked, the record itself or one that was made before (into a
 * relation that leads to its table; `make` is its place among what is made), or nothing.
 */
export type StepValue =
  | OperandValue
  | { kind: 'asked'; ask: string }
  | { kind: 'this' }
  | { kind: 'made'; make: number }
  | { kind: 'nothing' };

export const isOperandValue = (value: StepValue): value is OperandValue =>
  !['asked', 'this', 'made', 'nothing'].includes(value.kind);

export type StepValues = Record<string, StepValue>;

/** Writes columns of the record. */
export interface SetStep {
  kind: 'set';
  values: StepValues;
}

/** Makes a record in a table. */
export interface MakeStep {
  kind: 'make';
  table: string;
  values: StepValues;
  /** What the new record must satisfy, beside the fences of its table. */
  keepIn?: Condition | 'every row';
}

/** Takes the record to another state, by a move of its table's lifecycle. */
export interface MoveStep {
  kind: 'move';
  move: string;
}

/** Leads whoever pressed on to a page, once all else is done; maybe to its form that opens with the record. */
interface GoStep {
  kind: 'go';
  page: string;
  withRecord?: true;
}

/** To whom a mail goes: whoever presses, an address in a column of the record or along its relations, all of a role. */
export type MailTo = { to: 'presser' } | { to: 'column'; path: string[] } | { to: 'role'; role: string };

/**
 * Sends a mail once all else is kept. Its words may hold `{{columns}}` of the record, as whoever presses sees them,
 * `{{presser}}` and `{{portal}}`.
 */
export interface MailStep {
  kind: 'mail';
  mail: MailTo;
  subject: string;
  text: string;
}

/**
 * Calls an address outside once all else is kept: with values by the names that they have there, as whoever presses
 * sees them. What is found in its answer goes into columns of the record, by the paths there.
 */
export interface CallStep {
  kind: 'call';
  address: string;
  values: StepValues;
  answers?: Record<string, string>;
}

export type ActionStep = SetStep | MakeStep | MoveStep | GoStep | MailStep | CallStep;

/** What an action asks before it is done: what may be given is what the column takes. */
export interface Ask {
  id: string;
  table: string;
  column: string;
  label?: string;
  required?: true;
  /** What stands there at first. */
  first?: OperandValue;
}

/**
 * What a person may do with a record by a press. It is a right of its roles: it writes what its steps say although they
 * could not edit it, on records that they see and where its condition holds, and nothing else.
 */
export interface Action {
  id: string;
  /** What its button says. */
  name: string;
  table: string;
  roles: string[];
  /** Without a press, by the role of services that it has: when this happens to a record. */
  on?: SetOff;
  where?: Condition;
  /** How it is done with several records at once; with one at a time alone when absent. */
  several?: 'all or nothing' | 'each by itself';
  asks: Ask[];
  /** What is asked before it is done. */
  confirm?: string;
  steps: ActionStep[];
  /** What must hold of the record afterwards; the filter of what the role sees when absent. */
  keepIn?: Condition | 'every row';
  /** What is said once it is done. */
  says?: string;
}

/**
 * What sets an action off by itself: of a record that is changed, that its condition begins to hold, where it has one;
 * or each day at a time of the portal's clock (`HH:MM`), with every record for which it holds then.
 */
export type SetOff =
  | ({ what: 'made'; /** Only by this form. */ form?: string } & Also)
  | ({ what: 'changed' } & Also)
  | ({ what: 'moved'; move?: string } & Also)
  | { what: 'deleted' }
  | TimeOfDay;

interface Also {
  /** Of records that come by files, or from an address, as well. */
  brought?: true;
}

interface TimeOfDay {
  what: 'time';
  at: string;
}

/** An action that is done each day at a time. */
export type TimedAction = Action & { on: TimeOfDay };

export const timedActions = ({ actions = [] }: { actions?: readonly Action[] }): TimedAction[] =>
  actions.filter((action): action is TimedAction => action.on?.what === 'time');

/** Why what was given is not what an action asks; null where it may be. */
export function strayProblem({ name, asks }: Action, given: Record<string, unknown>): string | null {
  const stray = Object.keys(given).filter((id) => !asks.some((ask) => ask.id === id));
  return stray.length > 0 ? `“${name}” doesn't ask for ${stray.join(', ')}.` : null;
}

/** With so many records an action can be done at once; and by a job, which says how far it is. */
export const mostAtOnce = 2000;
export const mostInAJob = 20_000;

/**
 * Whether a press of an action can be taken back: it changes the record and does nothing else. What is made, mailed or
 * told outside stays.
 */
export const isTakenBack = ({ steps }: Action): boolean =>
  steps.some(({ kind }) => kind === 'set' || kind === 'move') &&
  steps.every(({ kind }) => kind === 'set' || kind === 'move' || kind === 'go');

/** The columns of the record that an action writes by its `set` steps; of a column set twice the last value counts. */
export const valuesSet = ({ steps }: Action): StepValues =>
  Object.assign({}, ...steps.flatMap((step) => (step.kind === 'set' ? [step.values] : []))) as StepValues;

export const makesOf = ({ steps }: Action): MakeStep[] =>
  steps.filter((step): step is MakeStep => step.kind === 'make');

export const mailsOf = ({ steps }: Action): MailStep[] =>
  steps.filter((step): step is MailStep => step.kind === 'mail');

export const callsOf = ({ steps }: Action): CallStep[] =>
  steps.filter((step): step is CallStep => step.kind === 'call');

/** The columns of the record that what calls are answered goes into. */
const columnsAnswered = (action: Action): string[] => [
  ...new Set(callsOf(action).flatMap(({ answers = {} }) => Object.keys(answers))),
];

/** All columns of the record that an action writes besides its state. */
export const columnsWritten = (action: Action): string[] => [
  ...new Set([...Object.keys(valuesSet(action)), ...columnsAnswered(action)]),
];

/** What words of a mail may hold beside columns of the record. */
export const mailFacts = ['presser', 'portal'] as const;

/** The names of values in a mail's words that are columns of the record; throws TemplateError for what isn't read. */
export const columnsInMail = ({ subject, text }: MailStep): string[] =>
  [subject, text].flatMap(valuesOf).filter((value) => !mailFacts.some((fact) => fact === value));

/** Why a mail's words can't be read; null where they can. */
export function mailWordsProblem(step: MailStep): string | null {
  try {
    columnsInMail(step);
    return null;
  } catch (error) {
    if (error instanceof TemplateError) return error.message;
    throw error;
  }
}

/** The last of its moves: a record has one state. */
export const moveOf = ({ steps }: Action): string | null =>
  steps.findLast((step): step is MoveStep => step.kind === 'move')?.move ?? null;

const following = new WeakMap<readonly Action[], Map<string, Action[]>>();

/** The actions that are done by themselves when something happens to a record of a table; not those of a time. */
export function followingOn({ actions }: { actions?: readonly Action[] }, table: string): readonly Action[] {
  if (!actions) return [];
  let known = following.get(actions);
  if (!known) {
    known = new Map();
    for (const action of actions)
      if (action.on && action.on.what !== 'time') known.set(action.table, [...(known.get(action.table) ?? []), action]);
    following.set(actions, known);
  }
  return known.get(table) ?? [];
}

export const actionsOf = (actions: readonly Action[] | undefined, table: string): Action[] =>
  (actions ?? []).filter((action) => action.table === table);
