import { isConstant, type Constant } from '../../core/condition/operand-value';
import { unshifted, type Operand } from '../../core/condition/tree';
import type { ViewSql } from '../gate/gate';

/**
 * Whether the value of an operand may stand before somebody: no column, and of themselves only what they are shown of
 * their own record, as in filters of their own.
 */
export function isTold(operand: Operand, view: ViewSql): operand is Constant {
  const plain = unshifted(operand);
  if (plain.kind !== 'member') return isConstant(operand);
  return view.ownFacts().some((fact) => JSON.stringify(fact) === JSON.stringify(plain.fact));
}
