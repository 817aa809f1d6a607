import { describeCondition, describeOperand } from './describe';
import type { Condition, Operand } from './tree';

/**
 * What tells most of a condition, short enough for a label: "own well's owner" where a column is the member's own,
 * "state open", "with visits". What has no short form is described in full.
 */
export function tellingPart(condition: Condition): string {
  switch (condition.kind) {
    case 'all':
      return condition.parts.map(tellingPart).join(', ');
    case 'any':
      return condition.parts.map(tellingPart).join(' or ');
    case 'exists':
      return `with ${condition.relation.map(plain).join(' ')}`;
    case 'not':
      return condition.part.kind === 'exists'
        ? `without ${condition.part.relation.map(plain).join(' ')}`
        : `not ${tellingPart(condition.part)}`;
    case 'compare': {
      const { left, comparison, right } = condition;
      const sides = left.kind === 'column' ? [left, right] : [right, left];
      if (comparison !== '=' || sides[0]!.kind !== 'column') break;
      if (isOwn(sides[1]!)) return `own ${withoutId(describeOperand(sides[0]!))}`;
      const value = constant(sides[1]!);
      if (value !== null) return value === true ? describeOperand(sides[0]!) : `${describeOperand(sides[0]!)} ${value}`;
      break;
    }
    case 'in': {
      const values = condition.list.map(constant);
      if (condition.left.kind !== 'column' || values.some((value) => typeof value !== 'string')) break;
      return `${describeOperand(condition.left)} ${values.join(', ')}`;
    }
  }
  return describeCondition(condition);
}

const plain = (name: string) => name.replaceAll('_', ' ');
const isOwn = (operand: Operand) => operand.kind === 'member';
const withoutId = (words: string) => words.replace(/ id$/, '');

/** A constant as it is read; true for a plain yes, null for what is no constant. */
function constant(operand: Operand): string | true | null {
  if (operand.kind === 'text') return operand.text;
  if (operand.kind === 'number') return operand.digits;
  return operand.kind === 'boolean' ? operand.value || 'no' : null;
}
