import type { Condition, Operand } from './tree';

/** A condition on the record that a to-one relation leads to, as one on the record that it leads from. */
export function throughRelation(condition: Condition, relation: string): Condition {
  const own = <T extends Operand>(operand: T): T => {
    if (operand.kind === 'column') return { ...operand, path: [relation, ...operand.path] };
    return operand.kind === 'shifted' ? { ...operand, of: own(operand.of) } : operand;
  };
  // A filter of the other table is none of this one.
  const { named: _named, ...plain } = condition;
  const within = plain as Condition;
  switch (within.kind) {
    case 'compare':
      return { ...within, left: own(within.left), right: own(within.right) };
    case 'in':
      return { ...within, left: own(within.left), list: within.list.map(own) };
    case 'between':
      return { ...within, left: own(within.left), low: own(within.low), high: own(within.high) };
    case 'like':
      return { ...within, left: own(within.left), pattern: own(within.pattern) };
    case 'null':
      return { ...within, left: own(within.left) };
    case 'has':
      return { ...within, value: own(within.value), column: own(within.column) };
    case 'exists':
      return { ...within, relation: [relation, ...within.relation] };
    case 'all':
    case 'any':
      return { ...within, parts: within.parts.map((part) => throughRelation(part, relation)) };
    case 'not':
      return { ...within, part: throughRelation(within.part, relation) };
  }
}
