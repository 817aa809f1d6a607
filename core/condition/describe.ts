import { plainLabel } from '../table/catalogue';
import type { Comparison, Condition, Operand } from './tree';

const words: Record<Comparison, string> = {
  '=': 'is',
  '<>': 'is not',
  '<': 'is less than',
  '<=': 'is at most',
  '>': 'is more than',
  '>=': 'is at least',
};

/** Names a column path for people. */
export type Naming = (path: string[]) => string;

const plainNaming: Naming = (path) => path.map((part) => plainLabel(part).toLowerCase()).join("'s ");

/** Says a condition in plain English: "sampler is the member's row in samplers, or planned by is the member". */
export function describeCondition(condition: Condition, naming: Naming = plainNaming): string {
  const describeOperand = (operand: Operand) => describe(operand, naming);
  switch (condition.kind) {
    case 'compare':
      return `${describeOperand(condition.left)} ${words[condition.comparison]} ${describeOperand(condition.right)}`;
    case 'in':
      return `${describeOperand(condition.left)} is one of ${condition.list.map(describeOperand).join(', ')}`;
    case 'between':
      return (
        `${describeOperand(condition.left)} is from ${describeOperand(condition.low)} to ` +
        `${describeOperand(condition.high)}`
      );
    case 'like':
      return `${describeOperand(condition.left)} looks like ${describeOperand(condition.pattern)}`;
    case 'null':
      return `${describeOperand(condition.left)} is empty`;
    case 'has':
      return `${describeOperand(condition.column)} includes ${describeOperand(condition.value)}`;
    case 'exists': {
      const inner = condition.where ? ` where ${describeCondition(condition.where, naming)}` : '';
      return `there is at least one of its ${naming(condition.relation)}${inner}`;
    }
    case 'all':
    case 'any':
      return condition.parts
        .map((part) =>
          part.kind === 'all' || part.kind === 'any'
            ? `(${describeCondition(part, naming)})`
            : describeCondition(part, naming),
        )
        .join(condition.kind === 'all' ? ', and ' : ', or ');
    case 'not':
      if (condition.part.kind === 'exists')
        return describeCondition(condition.part, naming).replace('there is at least one of', 'there is none of');
      return condition.part.kind === 'null'
        ? `${describeOperand(condition.part.left)} is filled`
        : `it is not so that ${describeCondition(condition.part, naming)}`;
  }
}

export function describeOperand(operand: Operand): string {
  return describe(operand, plainNaming);
}

function describe(operand: Operand, naming: Naming): string {
  switch (operand.kind) {
    case 'column':
      return naming(operand.path);
    case 'text':
      return `"${operand.text}"`;
    case 'number':
      return operand.digits;
    case 'boolean':
      return operand.value ? 'yes' : 'no';
    case 'clock':
      return operand.what === 'today' ? 'today' : 'this moment';
    case 'record':
      return `the page's ${plainLabel(operand.column).toLowerCase()}`;
    case 'shifted': {
      const count = Math.abs(operand.count);
      return (
        `${count} ${operand.unit.toLowerCase()}${count === 1 ? '' : 's'} ` +
        `${operand.count < 0 ? 'before' : 'after'} ${describe(operand.of, naming)}`
      );
    }
    case 'member':
      if (operand.fact.length === 1) return operand.fact[0] === 'id' ? 'the member' : `the member's ${operand.fact[0]}`;
      if (operand.fact.length === 2 && operand.fact[1] === 'id') return `the member's row in ${operand.fact[0]}`;
      return `the member's ${operand.fact
        .slice(1)
        .map((part) => plainLabel(part).toLowerCase())
        .join("'s ")} in ${operand.fact[0]}`;
  }
}
