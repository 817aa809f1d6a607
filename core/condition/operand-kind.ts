import type { ComparedAs } from '../sql/compared-as';
import {
  findColumn,
  findRosterTable,
  type Catalogue,
  type Column,
  resolvePath,
  isPathProblem,
} from '../table/catalogue';
import { isDate, normaliseTimestamp, isUuid } from '../table/value';
import { isComparableCollation } from './collation';
import { meant } from './near-name';
import { printOperand } from './print';
import type { ConditionScope, ConditionProblem } from './scope';
import { type Operand, unshifted } from './tree';

/** The facts that every member has, whatever roster they came from. */
export const memberFacts = new Map<string, ComparedAs>([
  ['id', 'whole'],
  ['email', 'text'],
  ['organisation', 'text'],
]);

/** What the operands are compared as, all together; a problem when they can't be. Names must have been checked. */
export function comparedAs(operands: Operand[], scope: ConditionScope): ComparedAs | ConditionProblem {
  const columns = operands.filter((operand) => unshifted(operand).kind === 'column');
  // Where there are no records, what is known of the member stands in for a column.
  const anchor = columns[0] ?? operands.find((operand) => unshifted(operand).kind === 'member') ?? operands[0]!;
  const kinds = operands.map((operand) => operandKind(operand, scope));
  const wanted = kinds[operands.indexOf(anchor)]!;
  if (wanted === 'none') {
    return {
      reason: `${printOperand(anchor)} (${columnOf(anchor, scope)?.type ?? 'a fact'}) can only be tested with IS NULL`,
      operand: anchor,
    };
  }
  for (const [i, operand] of operands.entries()) {
    const problem = fits(operand, kinds[i]!, wanted, anchor, scope);
    if (problem) return { reason: problem, operand };
  }
  const has = (kind: OperandKind) => kinds.includes(kind);
  if (wanted === 'text' || wanted === 'choice') {
    const problem = collationProblem(columns, scope)[0];
    if (problem) return problem;
    return has('choice') ? 'choice' : 'text';
  }
  if (wanted === 'truth' || wanted === 'uuid') return wanted;
  if (wanted === 'date' || wanted === 'moment') {
    const timed = operands.some(
      (operand, i) => kinds[i] === 'moment' || (operand.kind === 'text' && !isDate(operand.text)),
    );
    return timed ? 'moment' : 'date';
  }
  return has('double') ? 'double' : has('decimal') ? 'decimal' : 'whole';
}

type OperandKind = ComparedAs | 'none';

/** What one operand is, before it is compared with others. */
export function operandKind(operand: Operand, scope: ConditionScope): OperandKind {
  switch (operand.kind) {
    case 'column':
      return kindOf(columnOf(operand, scope)!);
    case 'text':
      return 'text';
    case 'number':
      return operand.digits.includes('.') ? 'decimal' : 'whole';
    case 'boolean':
      return 'truth';
    case 'clock':
      return operand.what === 'today' ? 'date' : 'moment';
    case 'shifted':
      return operandKind(operand.of, scope);
    case 'record':
      return kindOf(findColumn(scope.record!, operand.column)!);
    case 'member': {
      const [first = '', second] = operand.fact;
      return second === undefined ? (memberFacts.get(first) ?? 'none') : kindOf(factColumn(operand, scope)!);
    }
  }
}

/** The column of the member's roster row that an operand names; null when it is none. */
function factColumn(operand: Operand, scope: ConditionScope): Column | null {
  return operand.kind === 'member' ? columnOfFact(operand.fact, scope.facts ?? scope.catalogue) : null;
}

/** The column that a fact is of, on the member's roster row or further on; null when it is of none. */
export function columnOfFact([roster, ...path]: readonly string[], facts: Catalogue): Column | null {
  const table = path.length === 0 ? undefined : findRosterTable(facts, roster!);
  const found = table && resolvePath(facts, table, path);
  return found && !isPathProblem(found) ? found.column : null;
}

export function kindOf(column: Column): OperandKind {
  if (column.read === 'uuid') return 'uuid';
  const kinds: Record<Column['type'], OperandKind> = {
    text: 'text',
    'long text': 'text',
    'one choice': 'choice',
    'whole number': 'whole',
    decimal: 'decimal',
    number: 'double',
    'yes/no': 'truth',
    date: 'date',
    'date and time': 'moment',
    time: 'none',
    'several choices': 'none',
    other: 'none',
  };
  return kinds[column.type];
}

const families: Record<ComparedAs, string> = {
  text: 'text',
  choice: 'text',
  whole: 'number',
  decimal: 'number',
  double: 'number',
  truth: 'yes/no',
  date: 'date',
  moment: 'date',
  uuid: 'UUID',
};

/** Says why an operand can't be compared with the anchor column; null when it can. */
function fits(
  operand: Operand,
  kind: OperandKind,
  wanted: ComparedAs,
  anchor: Operand,
  scope: ConditionScope,
): string | null {
  const name = printOperand(anchor);
  const family = families[wanted];
  if (operand.kind === 'text' && family === 'date') {
    return normaliseTimestamp(operand.text) ? null : `${name} is a date; write it like '2026-11-24'`;
  }
  if (operand.kind === 'text' && wanted === 'uuid')
    return isUuid(operand.text) ? null : `${name} is a UUID; write it like '6f1b7a52-0c7e-4d0f-9a54-0d1e2f3a4b5c'`;
  if (operand.kind === 'text' && wanted === 'choice') {
    const choices = (columnOf(anchor, scope) ?? factColumn(anchor, scope))?.choices ?? [];
    return choices.includes(operand.text)
      ? null
      : `${name} has no choice '${operand.text}'${meant(operand.text, choices)}`;
  }
  if (operand.kind === 'number' && operand.digits.replace(/\D/g, '').length > 30)
    return 'a number may have 30 digits at most';
  if (kind !== 'none' && families[kind] === family) return null;
  return `${name} is ${describeFamily(family)} and can't be compared with ${printOperand(operand)}`;
}

function describeFamily(family: string): string {
  return family === 'text' ? 'text' : `a ${family}`;
}

export function collationProblem(columns: Operand[], scope: ConditionScope): ConditionProblem[] {
  const collations = new Set<string>();
  for (const operand of columns) {
    const column = columnOf(operand, scope) ?? (scope.memberAlone ? factColumn(unshifted(operand), scope) : null);
    const collation = column?.collation;
    if (!collation || !isComparableCollation(collation)) {
      return [
        {
          reason:
            `${printOperand(operand)} has the collation ${collation ?? 'none'}, which conditions can't compare ` +
            'yet',
          operand,
        },
      ];
    }
    collations.add(collation);
  }
  if (collations.size < 2) return [];
  return [{ reason: `these columns compare text differently (${[...collations].join(', ')})`, operand: columns[0] }];
}

export function columnOf(operand: Operand, scope: ConditionScope): Column | null {
  const plain = unshifted(operand);
  if (plain.kind !== 'column') return null;
  const found = resolvePath(scope.catalogue, scope.table, plain.path);
  return isPathProblem(found) ? null : found.column;
}

/** The collation that text operands are compared by: the first column's (the check has seen that all agree). */
export function collationOf(operands: Operand[], scope: ConditionScope): string {
  for (const operand of operands) {
    const column = columnOf(operand, scope) ?? (scope.memberAlone ? factColumn(unshifted(operand), scope) : null);
    const collation = column?.collation;
    if (collation) return collation;
  }
  return 'utf8mb4_bin';
}
