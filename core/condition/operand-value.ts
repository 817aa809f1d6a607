import Big from 'big.js';
import { normaliseTimestamp, type Value } from '../table/value';
import type { ComparedAs } from '../sql/compared-as';
import { compareText } from './collation';
import { moveBy } from './interval';
import { unshifted, type ColumnOperand, type Operand, type ShiftedOperand } from './tree';

/** Who is asking and when: the facts of the member that conditions may use, and the clock. */
export interface ConditionContext {
  /** Facts by their text: `id`, `email`, `organisation`, `owners.id`. A fact that is absent is NULL. */
  facts: Readonly<Record<string, Value>>;
  /** Facts that relations lead to from the member's roster rows, by their parts as JSON. */
  along?: Readonly<Record<string, Value>>;
  /** `YYYY-MM-DD` in the portal's time zone. */
  today: string;
  /** `YYYY-MM-DD HH:MM:SS` in UTC. */
  now: string;
  /** The record of the page, in the filters of its sections. */
  record?: Readonly<Record<string, Value>>;
}

/** An operand that is the same for every row. */
export type Constant =
  | Exclude<Operand, ColumnOperand | ShiftedOperand>
  | (ShiftedOperand & { of: Exclude<ShiftedOperand['of'], ColumnOperand> });

export function isConstant(operand: Operand): operand is Constant {
  return unshifted(operand).kind !== 'column';
}

/** The value of an operand that is not a column. */
export function constantValue(operand: Constant, context: ConditionContext): Value {
  switch (operand.kind) {
    case 'text':
      return operand.text;
    case 'number':
      return operand.digits;
    case 'boolean':
      return operand.value;
    case 'clock':
      return operand.what === 'today' ? context.today : context.now;
    case 'member': {
      const { fact } = operand;
      if (fact.length > 2) {
        const key = JSON.stringify(fact);
        return context.along && Object.hasOwn(context.along, key) ? context.along[key]! : null;
      }
      const key = fact.length === 1 ? fact[0]! : fact.join('.');
      return Object.hasOwn(context.facts, key) ? context.facts[key]! : null;
    }
    case 'record':
      return context.record && Object.hasOwn(context.record, operand.column) ? context.record[operand.column]! : null;
    case 'shifted': {
      const from = constantValue(operand.of, context);
      return from === null ? null : moveBy(String(from), operand.count, operand.unit);
    }
  }
}

/** Compares two values that are not null, converted to what they are compared as. Sign as in sorting. */
export function compareValues(as: ComparedAs, a: Value, b: Value, collation: string): number {
  switch (as) {
    case 'text':
    case 'choice':
      return compareText(collation, String(a), String(b));
    case 'whole':
    case 'decimal':
      if (typeof a === 'number' && typeof b === 'number') return a - b;
      return new Big(String(a)).cmp(new Big(String(b)));
    case 'double':
      return Math.sign(Number(a) - Number(b));
    case 'truth':
      return Number(a) - Number(b);
    case 'date':
      return order(String(a), String(b));
    case 'moment':
      return order(moment(a), moment(b));
    case 'uuid':
      return order(String(a).toLowerCase(), String(b).toLowerCase());
  }
}

function order(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0;
}

/** With all six digits of the second, so that texts sort as times do. */
function moment(value: Value): string {
  const text = normaliseTimestamp(String(value)) ?? String(value);
  const [whole = '', fraction = ''] = text.split('.');
  return `${whole}.${fraction.padEnd(6, '0')}`;
}
