import { describeCondition, describeOperand, plainNaming, valueName, type Naming } from './describe';
import type { Condition, Operand } from './tree';

/**
 * What tells most of a condition, short enough for a label: "own well's owner" where a column is the member's own,
 * "state open", "with visits". What has no short form is described in full.
 */
export function tellingPart(condition: Condition, naming: Naming = plainNaming): string {
  const part = (each: Condition) => tellingPart(each, naming);
  const called = (operand: Operand) => describeOperand(operand, naming);
  switch (condition.kind) {
    case 'all':
      return condition.parts.map(part).join(', ');
    case 'any':
      return condition.parts.map(part).join(' or ');
    case 'exists':
      return `with ${condition.relation.map(plain).join(' ')}`;
    case 'not':
      return condition.part.kind === 'exists'
        ? `without ${condition.part.relation.map(plain).join(' ')}`
        : `not ${part(condition.part)}`;
    case 'compare': {
      const { left, comparison, right } = condition;
      const sides = left.kind === 'column' ? [left, right] : [right, left];
      if (comparison !== '=' || sides[0]!.kind !== 'column') break;
      if (isOwn(sides[1]!)) return `own ${withoutId(called(sides[0]!))}`;
      const value = constant(sides[1]!, sides[0]!, naming);
      if (value !== null) return value === true ? called(sides[0]!) : `${called(sides[0]!)} ${value}`;
      break;
    }
    case 'in': {
      const values = condition.list.map((each) => constant(each, condition.left, naming));
      if (condition.left.kind !== 'column' || values.some((value) => typeof value !== 'string')) break;
      return `${called(condition.left)} ${values.join(', ')}`;
    }
  }
  return describeCondition(condition, naming);
}

const plain = (name: string) => name.replaceAll('_', ' ');
const isOwn = (operand: Operand) => operand.kind === 'member';
const withoutId = (words: string) => words.replace(/ id$/, '');

/** A constant as it is read beside a column; true for a plain yes, null for what is no constant. */
function constant(operand: Operand, beside: Operand, naming: Naming): string | true | null {
  const named = (text: string) => valueName(text, beside, naming);
  if (operand.kind === 'text') return named(operand.text) ?? operand.text;
  if (operand.kind === 'number') return named(operand.digits) ?? operand.digits;
  return operand.kind === 'boolean' ? (named(String(operand.value)) ?? (operand.value || 'no')) : null;
}
