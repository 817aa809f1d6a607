import { reserved } from './parse';
import type { Condition, Operand } from './tree';

/**
 * Writes a condition in its text form; reading that back gives the same tree. `inside` is the relation of the EXISTS
 * that it stands in.
 */
export function printCondition(condition: Condition, inside: string | null = null): string {
  switch (condition.kind) {
    case 'compare':
      return `${printOperand(condition.left, inside)} ${condition.comparison} ${printOperand(condition.right, inside)}`;
    case 'in':
    case 'between':
    case 'like':
    case 'null':
    case 'has':
      return predicate(condition, '', inside);
    case 'exists': {
      const relation = condition.relation.at(-1)!;
      return (
        'EXISTS ' +
        `(${printPath(condition.relation, inside)}` +
        `${condition.where ? ` WHERE ${printCondition(condition.where, relation)}` : ''})`
      );
    }
    case 'all':
      return condition.parts
        .map((part) => bracketed(part, part.kind === 'all' || part.kind === 'any', inside))
        .join(' AND ');
    case 'any':
      return condition.parts.map((part) => bracketed(part, part.kind === 'any', inside)).join(' OR ');
    case 'not':
      return isPredicate(condition.part)
        ? predicate(condition.part, 'NOT ', inside)
        : `NOT ${bracketed(condition.part, condition.part.kind !== 'exists', inside)}`;
  }
}

type Predicate = Extract<Condition, { kind: 'in' | 'between' | 'like' | 'null' | 'has' }>;

function isPredicate(condition: Condition): condition is Predicate {
  return ['in', 'between', 'like', 'null', 'has'].includes(condition.kind);
}

function predicate(condition: Predicate, not: 'NOT ' | '', inside: string | null): string {
  const print = (operand: Operand) => printOperand(operand, inside);
  switch (condition.kind) {
    case 'in':
      return `${print(condition.left)} ${not}IN (${condition.list.map(print).join(', ')})`;
    case 'between':
      return `${print(condition.left)} ${not}BETWEEN ${print(condition.low)} AND ${print(condition.high)}`;
    case 'like':
      return `${print(condition.left)} ${not}LIKE ${print(condition.pattern)}`;
    case 'null':
      return `${print(condition.left)} IS ${not}NULL`;
    case 'has':
      return `${print(condition.value)} ${not}IN ${print(condition.column)}`;
  }
}

function bracketed(part: Condition, brackets: boolean, inside: string | null): string {
  return brackets ? `(${printCondition(part, inside)})` : printCondition(part, inside);
}

export function printOperand(operand: Operand, inside: string | null = null): string {
  switch (operand.kind) {
    case 'column':
      return printPath(operand.path, inside);
    case 'text':
      return `'${operand.text.replaceAll("'", "''")}'`;
    case 'number':
      return operand.digits;
    case 'boolean':
      return operand.value ? 'TRUE' : 'FALSE';
    case 'member':
      return `:member.${operand.fact.map(printName).join('.')}`;
    case 'record':
      return `:record.${printName(operand.column)}`;
    case 'clock':
      return `:${operand.what}`;
    case 'shifted':
      return (
        `${printOperand(operand.of, inside)} ${operand.count < 0 ? '-' : '+'} INTERVAL ` +
        `${Math.abs(operand.count)} ${operand.unit}`
      );
  }
}

function printPath(path: readonly string[], inside: string | null): string {
  return (inside === null ? path : [inside, ...path]).map(printName).join('.');
}

function printName(name: string): string {
  return /^[\p{L}_][\p{L}\p{N}_]*$/u.test(name) && !reserved.has(name.toUpperCase())
    ? name
    : `"${name.replaceAll('"', '""')}"`;
}
