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

/** How what a condition speaks of is called for people. */
export interface Naming {
  path(path: string[]): string;
  /** What a value of a column is called; nothing where it is called as it is written. */
  value?(path: string[], text: string): string | null | undefined;
  table?(name: string): string;
  /** What a fact of the member is called where it is they who read it. */
  member?(fact: string[]): string;
  /** The same for the records that a relation leads to. */
  inside?(relation: string[]): Naming;
}

export const plainNaming: Naming = {
  path: (path) => path.map((part) => plainLabel(part).toLowerCase()).join("'s "),
};

/** Says a condition in plain English: "sampler is the member's row in samplers, or planned by is the member". */
export function describeCondition(condition: Condition, naming: Naming = plainNaming): string {
  switch (condition.kind) {
    case 'compare': {
      const { left, comparison, right } = condition;
      return `${describe(left, naming, right)} ${words[comparison]} ${describe(right, naming, left)}`;
    }
    case 'in': {
      const { left, list } = condition;
      return `${describe(left, naming)} is one of ${list.map((each) => describe(each, naming, left)).join(', ')}`;
    }
    case 'between':
      return (
        `${describe(condition.left, naming)} is from ${describe(condition.low, naming)} to ` +
        `${describe(condition.high, naming)}`
      );
    case 'like':
      return `${describe(condition.left, naming)} looks like ${describe(condition.pattern, naming)}`;
    case 'null':
      return `${describe(condition.left, naming)} is empty`;
    case 'has':
      return `${describe(condition.column, naming)} includes ${describe(condition.value, naming, condition.column)}`;
    case 'exists': {
      const inside = naming.inside?.(condition.relation) ?? naming;
      const inner = condition.where ? ` where ${describeCondition(condition.where, inside)}` : '';
      return `there is at least one of its ${naming.path(condition.relation)}${inner}`;
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
        ? `${describe(condition.part.left, naming)} is filled`
        : `it is not so that ${describeCondition(condition.part, naming)}`;
  }
}

export function describeOperand(operand: Operand, naming: Naming = plainNaming): string {
  return describe(operand, naming);
}

/** What a value is called that is compared with `beside`; nothing where it is called as it is written. */
export function valueName(text: string, beside: Operand | undefined, naming: Naming): string | null | undefined {
  return beside?.kind === 'column' ? naming.value?.(beside.path, text) : undefined;
}

/** `beside` is what the operand is compared with: a column's values may have names of their own. */
function describe(operand: Operand, naming: Naming, beside?: Operand): string {
  const called = (text: string) => valueName(text, beside, naming);
  switch (operand.kind) {
    case 'column':
      return naming.path(operand.path);
    case 'text':
      return called(operand.text) ?? `"${operand.text}"`;
    case 'number':
      return called(operand.digits) ?? operand.digits;
    case 'boolean':
      return called(String(operand.value)) ?? (operand.value ? 'yes' : 'no');
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
    case 'member': {
      if (naming.member) return naming.member(operand.fact);
      const [first, ...rest] = operand.fact;
      if (rest.length === 0) return first === 'id' ? 'the member' : `the member's ${first}`;
      const roster = naming.table?.(first!) ?? first;
      if (rest.length === 1 && rest[0] === 'id') return `the member's row in ${roster}`;
      return `the member's ${rest.map((part) => plainLabel(part).toLowerCase()).join("'s ")} in ${roster}`;
    }
  }
}
