import { unshifted, type Condition, type Operand } from './tree';

/**
 * The condition that is true just where another is false or unknown: SQL's IS NOT TRUE, in our own conditions. For
 * conditions on a row's own columns. IN and BETWEEN are taken apart into the comparisons that they are (pairs.ts);
 * where one of those compares nothing of the row, `checkCondition` refuses it, and rights made of it give nothing.
 */
export function notTrue(condition: Condition): Condition {
  switch (condition.kind) {
    case 'not':
      return notFalse(condition.part);
    case 'all':
      return { kind: 'any', parts: condition.parts.map(notTrue) };
    case 'any':
      return { kind: 'all', parts: condition.parts.map(notTrue) };
    default:
      return either(condition, { kind: 'not', part: condition });
  }
}

/** True just where the other is true or unknown. */
function notFalse(condition: Condition): Condition {
  switch (condition.kind) {
    case 'not':
      return notTrue(condition.part);
    case 'all':
    case 'any':
      return { kind: condition.kind, parts: condition.parts.map(notFalse) };
    default:
      return either(condition, condition);
  }
}

/** The outcome wanted of a condition that is no group, or that it is unknown. */
function either(leaf: Exclude<Condition, { kind: 'all' | 'any' | 'not' }>, wanted: Condition): Condition {
  switch (leaf.kind) {
    case 'compare':
      return orNull([leaf.left, leaf.right], wanted);
    case 'like':
      return orNull([leaf.left, leaf.pattern], wanted);
    case 'has':
      return orNull([leaf.value, leaf.column], wanted);
    case 'in': {
      const parts = leaf.list.map((right): Condition => ({ kind: 'compare', left: leaf.left, comparison: '=', right }));
      const whole: Condition = parts.length === 1 ? parts[0]! : { kind: 'any', parts };
      return wanted.kind === 'not' ? notTrue(whole) : notFalse(whole);
    }
    case 'between': {
      const whole: Condition = {
        kind: 'all',
        parts: [
          { kind: 'compare', left: leaf.left, comparison: '>=', right: leaf.low },
          { kind: 'compare', left: leaf.left, comparison: '<=', right: leaf.high },
        ],
      };
      return wanted.kind === 'not' ? notTrue(whole) : notFalse(whole);
    }
    // These are never unknown.
    case 'null':
    case 'exists':
      return wanted;
  }
}

function orNull(operands: Operand[], wanted: Condition): Condition {
  const empty = operands
    .map(unshifted)
    .filter(({ kind }) => kind === 'column' || kind === 'member' || kind === 'record')
    .map((left): Condition => ({ kind: 'null', left }));
  return empty.length === 0 ? wanted : { kind: 'any', parts: [wanted, ...empty] };
}
