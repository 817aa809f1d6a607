import { reserved } from './parse';
import type { Condition, Operand } from './tree';

/** Writes a condition in its text form; reading that back gives the same tree. */
export function printCondition(condition: Condition): string {
  switch (condition.kind) {
    case 'compare':
      return `${printOperand(condition.left)} ${condition.comparison} ${printOperand(condition.right)}`;
    case 'in':
    case 'between':
    case 'like':
    case 'null':
      return predicate(condition, '');
    case 'all':
      return condition.parts.map((part) => inside(part)).join(' AND ');
    case 'any':
      return condition.parts.map((part) => (part.kind === 'any' ? `(${printCondition(part)})` : printCondition(part))).join(' OR ');
    case 'not':
      return isPredicate(condition.part) ? predicate(condition.part, 'NOT ') : `NOT (${printCondition(condition.part)})`;
  }
}

type Predicate = Extract<Condition, { kind: 'in' | 'between' | 'like' | 'null' }>;

function isPredicate(condition: Condition): condition is Predicate {
  return ['in', 'between', 'like', 'null'].includes(condition.kind);
}

function predicate(condition: Predicate, not: 'NOT ' | ''): string {
  const left = printOperand(condition.left);
  switch (condition.kind) {
    case 'in':
      return `${left} ${not}IN (${condition.list.map(printOperand).join(', ')})`;
    case 'between':
      return `${left} ${not}BETWEEN ${printOperand(condition.low)} AND ${printOperand(condition.high)}`;
    case 'like':
      return `${left} ${not}LIKE ${printOperand(condition.pattern)}`;
    case 'null':
      return `${left} IS ${not}NULL`;
  }
}

function inside(part: Condition): string {
  return part.kind === 'all' || part.kind === 'any' ? `(${printCondition(part)})` : printCondition(part);
}

export function printOperand(operand: Operand): string {
  switch (operand.kind) {
    case 'column':
      return operand.path.map(printName).join('.');
    case 'text':
      return `'${operand.text.replaceAll("'", "''")}'`;
    case 'number':
      return operand.digits;
    case 'boolean':
      return operand.value ? 'TRUE' : 'FALSE';
    case 'member':
      return `:member.${operand.fact.map(printName).join('.')}`;
    case 'clock':
      return `:${operand.what}`;
  }
}

function printName(name: string): string {
  return /^[\p{L}_][\p{L}\p{N}_]*$/u.test(name) && !reserved.has(name.toUpperCase()) ? name : `"${name.replaceAll('"', '""')}"`;
}
