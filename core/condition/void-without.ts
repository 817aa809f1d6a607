import type { Condition, Operand } from './tree';

/**
 * Whether a condition can't be true for somebody who lacks facts of the kind asked about: a comparison with one is
 * unknown, and so is its opposite. Sound, not complete: false means that it can't be told.
 */
export function isVoidWithout(condition: Condition, lacks: (fact: readonly string[]) => boolean): boolean {
  const within = (part: Condition): boolean => isVoidWithout(part, lacks);
  const isFact = (operand: Operand): boolean =>
    operand.kind === 'shifted' ? isFact(operand.of) : operand.kind === 'member' && lacks(operand.fact);
  /** Whether it is neither true nor false. BETWEEN is false where one bound that is known rules it out. */
  const isUnknown = (part: Condition): boolean =>
    part.kind === 'between'
      ? isFact(part.left) || (isFact(part.low) && isFact(part.high))
      : ['compare', 'like', 'has'].includes(part.kind) && within(part);
  switch (condition.kind) {
    case 'all':
      return condition.parts.some(within);
    case 'any':
      return condition.parts.every(within);
    case 'not':
      return isUnknown(condition.part);
    case 'exists':
      return condition.where !== null && within(condition.where);
    case 'compare':
      return isFact(condition.left) || isFact(condition.right);
    case 'in':
      return isFact(condition.left) || condition.list.every(isFact);
    case 'between':
      return [condition.left, condition.low, condition.high].some(isFact);
    case 'like':
      return isFact(condition.left) || isFact(condition.pattern);
    case 'has':
      return isFact(condition.value) || isFact(condition.column);
    case 'null':
      return false;
  }
}
