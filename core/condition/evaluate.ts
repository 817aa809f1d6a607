import type { Value } from '../table/value';
import type { ConditionScope } from './scope';
import type { ConditionContext } from './operand-value';
import { allOf, anyOf, prepare, test, type Prepared, type RecordReader } from './prepare';
import type { Condition, Truth } from './tree';

/** What a condition came to on one row: the outcome, the values that were compared, and the same for its parts. */
export interface Trace {
  condition: Condition;
  outcome: Truth;
  /** The values in the order of the operands: left, then right, list or bounds. */
  values?: Value[];
  parts?: Trace[];
}

/** Whether the row passes, with SQL's three-valued logic. The condition must have been checked against the scope. */
export function evaluate(
  condition: Condition,
  scope: ConditionScope,
  record: RecordReader,
  context: ConditionContext,
): Truth {
  return test(prepare(condition, scope), record, context);
}

/** As `evaluate`, keeping every value and outcome on the way: this is what Why shows. */
export function trace(
  condition: Condition,
  scope: ConditionScope,
  record: RecordReader,
  context: ConditionContext,
): Trace {
  return traced(prepare(condition, scope), record, context);
}

function traced(prepared: Prepared, record: RecordReader, context: ConditionContext): Trace {
  const { condition } = prepared;
  switch (prepared.kind) {
    case 'leaf': {
      const values = prepared.values(record, context);
      return { condition, values, outcome: prepared.outcome(values) };
    }
    case 'exists':
      return { condition, outcome: test(prepared, record, context) };
    case 'not': {
      const part = traced(prepared.parts[0]!, record, context);
      return { condition, parts: [part], outcome: part.outcome === null ? null : !part.outcome };
    }
    case 'all':
    case 'any': {
      const parts = prepared.parts.map((part) => traced(part, record, context));
      const outcomes = parts.map((part) => part.outcome);
      return { condition, parts, outcome: prepared.kind === 'all' ? allOf(outcomes) : anyOf(outcomes) };
    }
  }
}
