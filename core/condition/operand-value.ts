import Big from 'big.js';
import { normaliseTimestamp, type Value } from '../table/value';
import type { ComparedAs } from './check';
import { compareText } from './collation';
import type { Operand } from './tree';

/** Who is asking and when: the facts of the member that conditions may use, and the clock. */
export interface ConditionContext {
  /** Facts by their text: `id`, `email`, `organisation`, `owners.id`. A fact that is absent is NULL. */
  facts: Readonly<Record<string, Value>>;
  /** `YYYY-MM-DD` in the portal's time zone. */
  today: string;
  /** `YYYY-MM-DD HH:MM:SS` in UTC. */
  now: string;
}

export type Constant = Exclude<Operand, { kind: 'column' }>;

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
    case 'member':
      return Object.hasOwn(context.facts, operand.fact.join('.')) ? context.facts[operand.fact.join('.')]! : null;
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
      return new Big(String(a)).cmp(new Big(String(b)));
    case 'double':
      return Math.sign(Number(a) - Number(b));
    case 'truth':
      return Number(a) - Number(b);
    case 'date':
      return order(String(a), String(b));
    case 'moment':
      return order(moment(a), moment(b));
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
