import { constantValue, isConstant } from '../../../core/condition/operand-value';
import { moveBy } from '../../../core/condition/interval';
import { unshifted } from '../../../core/condition/tree';
import {
  isOperandValue,
  type OperandValue,
  callsOf,
  columnsInMail,
  mailsOf,
  type Action,
  type StepValue,
  type StepValues,
} from '../../../core/definition/action';
import { plainText } from '../../../core/table/plain-text';
import { printPath, readPath } from '../../../core/definition/path';
import { findColumn, type Column, type Table } from '../../../core/table/catalogue';
import { parseValue, type Value } from '../../../core/table/value';
import type { RowState } from '../read/read';
import { InvalidValues, Refused } from '../view/errors';
import type { LeavingCall, LeavingMail } from '../view/leaving';
import type { TableWrite } from '../view/table-visit';
import type { Asked } from './asked';

/** What the values of an action's steps are made of. */
export interface ValuesOf {
  at: TableWrite;
  key: Value[];
  before: RowState;
  asked: Asked;
  /** What its steps have made so far, in their order. */
  made?: { table: Table; key: Value[] }[];
}

/** An action stays as it is as long as its definition is held. */
function onceFor<T>(work: (action: Action) => T): (action: Action) => T {
  const known = new WeakMap<Action, { of: T }>();
  return (action) => {
    const found = known.get(action) ?? { of: work(action) };
    known.set(action, found);
    return found.of;
  };
}

/** The columns of the record that an action's steps go by, each as its path. */
export const pathsRead = onceFor((action): string[][] => {
  const paths = action.steps
    .flatMap((step) => ('values' in step ? Object.values(step.values) : []))
    .flatMap((value) => {
      const operand = isOperandValue(value) ? unshifted(value) : null;
      return operand?.kind === 'column' ? [operand.path] : [];
    });
  return distinct(paths);
});

/** The columns of the record that stand in its mails, and that say to whom they go. */
export const pathsMailed = onceFor((action): string[][] =>
  distinct(
    mailsOf(action).flatMap((step) => [
      ...(step.mail.to === 'column' ? [step.mail.path] : []),
      ...columnsInMail(step).flatMap((value) => {
        const path = readPath(value);
        return path ? [path] : [];
      }),
    ]),
  ),
);

const distinct = (paths: string[][]): string[][] => [...new Map(paths.map((path) => [printPath(path), path])).values()];

/**
 * The mails of a press, with what whoever pressed is shown of the record, and `set` over it. One to an address that
 * isn't there goes to nobody.
 */
export function mailsLeaving(
  action: Action,
  { before: { record } }: ValuesOf,
  set: ReadonlyMap<string, Value>,
): LeavingMail[] {
  const said = (text: string): string => {
    const path = readPath(text) ?? [];
    const own = path.length === 1 && text in record.values && !record.masked.includes(text) && set.has(path[0]!);
    return plainText(own ? set.get(path[0]!)! : (record.values[text] ?? null));
  };
  return mailsOf(action).flatMap((step): LeavingMail[] => {
    const values = Object.fromEntries(columnsInMail(step).map((value) => [value, said(value)]));
    if (step.mail.to === 'presser') return [{ step, to: 'presser', values }];
    if (step.mail.to === 'role') return [{ step, to: { role: step.mail.role }, values }];
    const text = printPath(step.mail.path);
    // An address that is kept from whoever presses is not written to by them.
    const address = record.masked.includes(text) ? '' : said(text);
    return address === '' ? [] : [{ step, to: { address }, values }];
  });
}

/** The calls of a press, with what whoever pressed is shown of the record, and `set` over it. */
export function callsLeaving(action: Action, of: ValuesOf, set: ReadonlyMap<string, Value>): LeavingCall[] {
  const steps = callsOf(action);
  if (steps.length === 0) return [];
  const { record } = of.before;
  const now = Object.fromEntries(
    [...set].map(([column, value]) => [printPath([column]), value] as const).filter(([path]) => path in record.values),
  );
  const after: ValuesOf = {
    ...of,
    before: { ...of.before, record: { ...record, values: { ...record.values, ...now } } },
  };
  return steps.map((step) => ({
    step,
    values: Object.fromEntries(Object.entries(step.values).map(([called, value]) => [called, sentValue(after, value)])),
  }));
}

function sentValue(of: ValuesOf, value: StepValue): Value {
  if (value.kind === 'this') return of.key.length === 1 ? of.key[0]! : of.before.record.id;
  return isOperandValue(value)
    ? operandValue(of, value)
    : value.kind === 'asked'
      ? (of.asked.get(value.ask) ?? null)
      : null;
}

/** What is put into each column of a table. Throws Refused where it can't be told, or the column doesn't take it. */
export function valuesFor(of: ValuesOf, table: Table, values: StepValues): Map<string, Value> {
  return new Map(
    Object.entries(values).map(([name, value]) => {
      const column = findColumn(table, name)!;
      const parsed = parseValue(column, asTaken(column, valueOf(of, table, name, value)));
      if (parsed.ok) return [name, parsed.value];
      if (value.kind === 'asked') throw new InvalidValues({ [name]: parsed.problem });
      throw new Refused("This can't be done: a value that it puts in doesn't fit. Its portal's keeper mends it.");
    }),
  );
}

/** The day of a moment, into a column of days. */
const asTaken = ({ type }: Column, value: Value): Value =>
  type === 'date' && typeof value === 'string' ? value.slice(0, 10) : value;

function valueOf(of: ValuesOf, table: Table, column: string, value: StepValue): Value {
  switch (value.kind) {
    case 'nothing':
      return null;
    case 'asked':
      return of.asked.get(value.ask) ?? null;
    case 'this':
      return keyOf({ table: of.at.table, key: of.key }, table, column) ?? keyShown(of, table, column);
    case 'made': {
      const made = of.made?.[value.make];
      const key = made && keyOf(made, table, column);
      if (key === undefined) throw new Refused("This can't be done: a relation that it goes by is gone.");
      return key;
    }
    default:
      return operandValue(of, value);
  }
}

/** What a relation to a record holds that is a part of its key; undefined where it holds none. */
function keyOf(to: { table: Table; key: Value[] }, table: Table, column: string): Value | undefined {
  const relation = table.relations.find((each) => each.column === column && each.table === to.table.name);
  const place = relation ? to.table.key.indexOf(relation.targetColumn) : -1;
  return place >= 0 ? to.key[place]! : undefined;
}

/** What a relation to the record holds that is no part of its key: a column of it that the person is shown. */
function keyShown(of: ValuesOf, table: Table, column: string): Value {
  const relation = table.relations.find((each) => each.column === column && each.table === of.at.table.name);
  if (!relation) throw new Refused("This can't be done: a relation that it goes by is gone.");
  return shown(of, [relation.targetColumn]);
}

function operandValue(of: ValuesOf, operand: OperandValue): Value {
  if (isConstant(operand)) return constantValue(operand, of.at.view.context);
  const plain = unshifted(operand);
  const value = shown(of, plain.kind === 'column' ? plain.path : []);
  if (operand.kind !== 'shifted' || value === null) return value;
  return moveBy(String(value), operand.count, operand.unit);
}

/** What is shown to the person: what is kept from them may not come to them, or to others, by a press. */
function shown({ before: { record } }: ValuesOf, path: readonly string[]): Value {
  const text = printPath([...path]);
  const value = record.values[text];
  if (value === undefined || record.masked.includes(text))
    throw new Refused("This can't be done by you: it goes by something that you are not shown.");
  return value;
}

/**
 * Says a fault at a column by the ask that fills it; of what nothing was asked for it is said as a whole, in the words
 * for the column, under what it is `called`, where the person is shown it. `told` is null where they are shown none.
 */
export async function saidByAsks<T>(
  values: StepValues,
  told: ((column: string) => boolean) | null,
  called: (column: string) => string,
  work: () => Promise<T>,
): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof InvalidValues)) throw error;
    const faults = Object.entries(error.fields);
    const asked = faults.flatMap(([column, fault]) => {
      const value = Object.hasOwn(values, column) ? values[column]! : null;
      return value?.kind === 'asked' ? [[value.ask, fault] as const] : [];
    });
    if (asked.length > 0) throw new InvalidValues(Object.fromEntries(asked));
    const [said] = faults.filter(([column]) => told?.(column));
    throw new Refused(
      said
        ? `This can't be done: ${called(said[0])}. ${said[1]}`
        : "This can't be done: something in a record does not allow it.",
    );
  }
}
