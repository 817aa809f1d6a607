import type { ComparedAs } from '../sql/compared-as';
import { comparedAs } from './operand-kind';
import type { ConditionScope } from './scope';
import type { Operand } from './tree';

/**
 * What each of IN's list, or of BETWEEN's bounds, is compared with the left operand as. Each is a comparison of its own
 * ("x IN (a, b)" is "x = a OR x = b": ISO/IEC 9075-2, 8.4 and 8.3, from memory): a column of approximate numbers
 * takes no digit off the exact ones beside it. All other kinds of one family convert into each other without loss and
 * are compared as what they are together. Throws on what `checkCondition` refuses.
 */
export function comparedInPairs(left: Operand, others: readonly Operand[], scope: ConditionScope): ComparedAs[] {
  const together = kind([left, ...others], scope);
  return others.map((other) => (together === 'double' ? kind([left, other], scope) : together));
}

function kind(operands: Operand[], scope: ConditionScope): ComparedAs {
  const as = comparedAs(operands, scope);
  if (typeof as !== 'string') throw new Error(as.reason);
  return as;
}
