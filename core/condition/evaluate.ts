import type { Value } from '../table/value';
import { collationOf, comparedAs, type ComparedAs, type ConditionScope } from './check';
import { likeText } from './collation';
import { compareValues, constantValue, type ConditionContext } from './operand-value';
import type { Comparison, Condition, Operand, Truth } from './tree';

/** What a condition came to on one row: the outcome, the values that were compared, and the same for its parts. */
export interface Trace {
  condition: Condition;
  outcome: Truth;
  /** The values in the order of the operands: left, then right, list or bounds. */
  values?: Value[];
  parts?: Trace[];
}

/** A record in memory: the value of a column path, relations followed. */
export type ReadPath = (path: readonly string[]) => Value;

/** Whether the row passes, with SQL's three-valued logic. The condition must have been checked against the scope. */
export function evaluate(condition: Condition, scope: ConditionScope, read: ReadPath, context: ConditionContext): Truth {
  return trace(condition, scope, read, context).outcome;
}

/** As `evaluate`, keeping every value and outcome on the way: this is what Why shows. */
export function trace(condition: Condition, scope: ConditionScope, read: ReadPath, context: ConditionContext): Trace {
  const value = (operand: Operand): Value => (operand.kind === 'column' ? read(operand.path) : constantValue(operand, context));
  const compared = (operands: Operand[], outcome: (values: Value[], compare: Compare) => Truth): Trace => {
    const values = operands.map(value);
    const as = comparedAs(operands, scope);
    if (typeof as !== 'string') throw new Error(as.reason);
    const collation = collationOf(operands, scope);
    return { condition, values, outcome: outcome(values, comparer(as, collation)) };
  };

  switch (condition.kind) {
    case 'compare':
      return compared([condition.left, condition.right], ([a, b], compare) => compare(a!, condition.comparison, b!));
    case 'in':
      return compared([condition.left, ...condition.list], ([a, ...list], compare) => any(list.map((item) => compare(a!, '=', item))));
    case 'between':
      return compared([condition.left, condition.low, condition.high], ([a, low, high], compare) =>
        all([compare(a!, '>=', low!), compare(a!, '<=', high!)]));
    case 'like': {
      const [text, pattern] = [value(condition.left), value(condition.pattern)];
      const outcome = text === null || pattern === null ? null : likeText(collationOf([condition.left], scope), String(text), String(pattern));
      return { condition, values: [text, pattern], outcome };
    }
    case 'null': {
      const tested = value(condition.left);
      return { condition, values: [tested], outcome: tested === null };
    }
    case 'all':
    case 'any': {
      const parts = condition.parts.map((part) => trace(part, scope, read, context));
      const outcomes = parts.map((part) => part.outcome);
      return { condition, parts, outcome: condition.kind === 'all' ? all(outcomes) : any(outcomes) };
    }
    case 'not': {
      const part = trace(condition.part, scope, read, context);
      return { condition, parts: [part], outcome: part.outcome === null ? null : !part.outcome };
    }
  }
}

type Compare = (a: Value, comparison: Comparison, b: Value) => Truth;

function comparer(as: ComparedAs, collation: string): Compare {
  return (a, comparison, b) => {
    if (a === null || b === null) return null;
    const sign = compareValues(as, a, b, collation);
    switch (comparison) {
      case '=':
        return sign === 0;
      case '<>':
        return sign !== 0;
      case '<':
        return sign < 0;
      case '<=':
        return sign <= 0;
      case '>':
        return sign > 0;
      case '>=':
        return sign >= 0;
    }
  };
}

function all(outcomes: Truth[]): Truth {
  return outcomes.includes(false) ? false : outcomes.includes(null) ? null : true;
}

function any(outcomes: Truth[]): Truth {
  return outcomes.includes(true) ? true : outcomes.includes(null) ? null : false;
}
