import {
  findColumn,
  findRosterTable,
  findTable,
  isClosed,
  isPathProblem,
  resolveMany,
  resolvePath,
  type Catalogue,
  type Column,
  type Relation,
  type Table,
} from '../table/catalogue';
import { isDate, isUuid, normaliseTimestamp } from '../table/value';
import { isComparableCollation } from './collation';
import { ConditionError } from './tokens';
import { parseCondition } from './parse';
import { printOperand } from './print';
import { unshifted, type Condition, type HasCondition, type Operand, type ShiftedOperand } from './tree';

/** What two operands are compared as; the database and memory both convert to this before they compare. */
export type ComparedAs = 'text' | 'choice' | 'whole' | 'decimal' | 'double' | 'truth' | 'date' | 'moment' | 'uuid';

/** Something wrong with a condition, said of one operand or of the whole. */
export interface ConditionProblem {
  reason: string;
  /** The operand, or the EXISTS, that it is said of. */
  operand?: Operand | Condition;
}

/** What a condition may speak of: the table it is about, and whether the member and the clock may appear in it. */
export interface ConditionScope {
  catalogue: Catalogue;
  table: Table;
  /** False in filters that people type in a list: those compare with constants only. */
  member: boolean;
  /** Where the member's roster tables are described, when `catalogue` holds only what a person may ask about. */
  facts?: Catalogue;
  /** True for a ceiling's own condition, which is written at the source and may ask what it closes. */
  atSource?: boolean;
  /** The table of the page's record, in the filters of a record page's sections. */
  record?: Table;
}

/** Reads text and checks it against the catalogue; throws ConditionError with the place of the first fault. */
export function readCondition(source: string, scope: ConditionScope): Condition {
  const { condition, spans } = parseCondition(source);
  const problem = checkCondition(condition, scope)[0];
  if (problem) {
    const span = (problem.operand && spans.get(problem.operand)) ?? { at: 0, end: source.length };
    throw new ConditionError(problem.reason, source, span.at, span.end);
  }
  return condition;
}

/**
 * Everything that keeps a condition from being used on the table: unknown names, values that don't fit. Empty when
 * sound.
 */
export function checkCondition(condition: Condition, scope: ConditionScope): ConditionProblem[] {
  switch (condition.kind) {
    case 'all':
    case 'any':
      return condition.parts.flatMap((part) => checkCondition(part, scope));
    case 'not':
      return checkCondition(condition.part, scope);
    case 'null':
      return checkOperands([condition.left], scope) ?? needColumn([condition.left]);
    case 'has':
      return checkHas(condition, scope);
    case 'exists': {
      const found = resolveMany(scope.catalogue, scope.table, condition.relation);
      if (isPathProblem(found))
        return [
          {
            reason: `there is no ${found.wanted} ${found.part} in ${found.table}${meant(found.part, found.near)}`,
            operand: condition,
          },
        ];
      const closed = scope.atSource
        ? null
        : (closedOnTheWay(scope.table, found.steps, scope.catalogue) ??
          (isClosed(found.table, found.many.column) ? `${found.table.name}.${found.many.column}` : null));
      if (closed) return [{ reason: closedWords(closed), operand: condition }];
      return condition.where ? checkCondition(condition.where, { ...scope, table: found.table }) : [];
    }
    case 'compare': {
      const operands = [condition.left, condition.right];
      const problems = checkOperands(operands, scope) ?? needColumn(operands);
      if (problems.length) return problems;
      const as = comparedAs(operands, scope);
      if (typeof as !== 'string') return [as];
      if (!['=', '<>'].includes(condition.comparison) && hasNoOrder(as, operands, scope)) {
        return [
          { reason: `${printOperand(condition.left)} has no order; compare it with = or <>`, operand: condition.left },
        ];
      }
      return [];
    }
    case 'in':
      return checkTogether([condition.left, ...condition.list], scope);
    case 'between': {
      const problems = checkTogether([condition.left, condition.low, condition.high], scope);
      const operands = [condition.left, condition.low, condition.high];
      const as = problems.length ? null : comparedAs(operands, scope);
      return typeof as === 'string' && hasNoOrder(as, operands, scope)
        ? [{ reason: `${printOperand(condition.left)} has no order; use = or IN`, operand: condition.left }]
        : problems;
    }
    case 'like': {
      const problems = checkOperands([condition.left, condition.pattern], scope) ?? needColumn([condition.left]);
      if (problems.length) return problems;
      const column = columnOf(condition.left, scope);
      if (!column || kindOf(column) !== 'text' || column.equalityOnly) {
        return [
          {
            reason: `LIKE works on text, and ${printOperand(condition.left)} is ${column?.type ?? 'no column'}`,
            operand: condition.left,
          },
        ];
      }
      if (condition.pattern.kind !== 'text')
        return [{ reason: 'the pattern after LIKE must be a text in quotes', operand: condition.pattern }];
      if (/(?:^|[^\\])(?:\\\\)*\\$/.test(condition.pattern.text)) {
        return [
          { reason: 'the pattern ends in a single \\; write \\\\ for the sign itself', operand: condition.pattern },
        ];
      }
      return collationProblem([condition.left], scope);
    }
  }
}

function hasNoOrder(as: ComparedAs, operands: Operand[], scope: ConditionScope): boolean {
  return as === 'choice' || as === 'truth' || operands.some((operand) => columnOf(operand, scope)?.equalityOnly);
}

function checkHas(condition: HasCondition, scope: ConditionScope): ConditionProblem[] {
  const problems = checkOperands([condition.value, condition.column], scope);
  if (problems) return problems;
  const column = columnOf(condition.column, scope)!;
  if (column.type !== 'several choices') {
    return [
      {
        reason:
          `${printOperand(condition.column)} is ${column.type}; a single column after IN must hold several ` +
          'choices',
        operand: condition.column,
      },
    ];
  }
  if (!column.collation || !isComparableCollation(column.collation)) return collationProblem([condition.column], scope);
  const choices = column.choices ?? [];
  if (condition.value.kind === 'text' && !choices.includes(condition.value.text)) {
    return [
      {
        reason:
          `${printOperand(condition.column)} has no choice ` +
          `'${condition.value.text}'${meant(condition.value.text, choices)}`,
        operand: condition.value,
      },
    ];
  }
  const kind = operandKind(condition.value, scope);
  if (kind === 'text' || kind === 'choice') return [];
  return [
    {
      reason:
        `${printOperand(condition.value)} is no text and can't be among the choices of ` +
        `${printOperand(condition.column)}`,
      operand: condition.value,
    },
  ];
}

function checkTogether(operands: Operand[], scope: ConditionScope): ConditionProblem[] {
  const problems = checkOperands(operands, scope) ?? needColumn(operands);
  if (problems.length) return problems;
  const as = comparedAs(operands, scope);
  return typeof as === 'string' ? [] : [as];
}

function needColumn(operands: Operand[]): ConditionProblem[] {
  if (operands.some((operand) => unshifted(operand).kind === 'column')) return [];
  return [{ reason: 'a comparison needs a column of the table', operand: operands[0] }];
}

/** Problems of the names alone; null when all are known. */
function checkOperands(operands: Operand[], scope: ConditionScope): ConditionProblem[] | null {
  const problems = operands.map((operand) => nameProblem(operand, scope)).filter((problem) => problem !== null);
  return problems.length ? problems : null;
}

function nameProblem(operand: Operand, scope: ConditionScope): ConditionProblem | null {
  if (operand.kind === 'column') {
    const found = resolvePath(scope.catalogue, scope.table, operand.path);
    if (!isPathProblem(found)) {
      const closed = scope.atSource
        ? null
        : (closedOnTheWay(scope.table, found.steps, scope.catalogue) ??
          (isClosed(found.table, found.column.name) ? `${found.table.name}.${found.column.name}` : null));
      return closed ? { reason: closedWords(closed), operand } : null;
    }
    return {
      reason: `there is no ${found.wanted} ${found.part} in ${found.table}${meant(found.part, found.near)}`,
      operand,
    };
  }
  if (operand.kind === 'shifted') return nameProblem(operand.of, scope) ?? intervalProblem(operand, scope);
  if (operand.kind === 'record') {
    if (!scope.record)
      return {
        reason: `${printOperand(operand)} can only stand in the filter of a section on a record's page`,
        operand,
      };
    if (findColumn(scope.record, operand.column))
      return isClosed(scope.record, operand.column)
        ? { reason: closedWords(`${scope.record.name}.${operand.column}`), operand }
        : null;
    return {
      reason: `there is no column ${operand.column} in ${scope.record.name}${meant(
        operand.column,
        scope.record.columns.map((c) => c.name),
      )}`,
      operand,
    };
  }
  if (operand.kind !== 'member') return null;
  if (!scope.member) return { reason: `${printOperand(operand)} can't be used here; compare with a value`, operand };
  const [first = '', second] = operand.fact;
  if (second === undefined) {
    return memberFacts.has(first)
      ? null
      : {
          reason:
            `a member has no ${first}${meant(first, [...memberFacts.keys()])}; for a roster's column write ` +
            ':member.<table>.<column>',
          operand,
        };
  }
  const facts = scope.facts ?? scope.catalogue;
  const table = findRosterTable(facts, first);
  if (!table)
    return {
      reason: `there is no table ${first}${meant(
        first,
        facts.tables.map((t) => t.name),
      )}`,
      operand,
    };
  if (findColumn(table, second))
    return isClosed(table, second) ? { reason: closedWords(`${first}.${second}`), operand } : null;
  return {
    reason: `there is no column ${second} in ${first}${meant(
      second,
      table.columns.map((c) => c.name),
    )}`,
    operand,
  };
}

/** The first relation on the way whose own column nobody may read. */
function closedOnTheWay(from: Table, steps: readonly Relation[], catalogue: Catalogue): string | null {
  let at = from;
  for (const step of steps) {
    if (isClosed(at, step.column)) return `${at.name}.${step.column}`;
    at = findTable(catalogue, step.table)!;
  }
  return null;
}

function closedWords(column: string): string {
  return `the ceiling lets nobody read ${column}, so no rule may ask it`;
}

function intervalProblem(operand: ShiftedOperand, scope: ConditionScope): ConditionProblem | null {
  const kind = operandKind(operand.of, scope);
  if (kind !== 'date' && kind !== 'moment')
    return { reason: `${printOperand(operand.of)} is no date, so no interval can be added to it`, operand };
  const small = operand.unit === 'HOUR' || operand.unit === 'MINUTE';
  return small && kind === 'date'
    ? { reason: `${printOperand(operand.of)} is a date without time; move it by days or more`, operand }
    : null;
}

/** The facts that every member has, whatever roster they came from. */
export const memberFacts = new Map<string, ComparedAs>([
  ['id', 'whole'],
  ['email', 'text'],
  ['organisation', 'text'],
]);

/** What the operands are compared as, all together; a problem when they can't be. Names must have been checked. */
export function comparedAs(operands: Operand[], scope: ConditionScope): ComparedAs | ConditionProblem {
  const columns = operands.filter((operand) => unshifted(operand).kind === 'column');
  const anchor = columns[0]!;
  const kinds = operands.map((operand) => operandKind(operand, scope));
  const wanted = kinds[operands.indexOf(anchor)]!;
  if (wanted === 'none') {
    return {
      reason: `${printOperand(anchor)} (${columnOf(anchor, scope)!.type}) can only be tested with IS NULL`,
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
      if (second === undefined) return memberFacts.get(first) ?? 'none';
      const column = findColumn(findRosterTable(scope.facts ?? scope.catalogue, first)!, second)!;
      return kindOf(column);
    }
  }
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
    const choices = columnOf(anchor, scope)?.choices ?? [];
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

function collationProblem(columns: Operand[], scope: ConditionScope): ConditionProblem[] {
  const collations = new Set<string>();
  for (const operand of columns) {
    const collation = columnOf(operand, scope)?.collation;
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

function columnOf(operand: Operand, scope: ConditionScope): Column | null {
  const plain = unshifted(operand);
  if (plain.kind !== 'column') return null;
  const found = resolvePath(scope.catalogue, scope.table, plain.path);
  return isPathProblem(found) ? null : found.column;
}

/** The collation that text operands are compared by: the first column's (the check has seen that all agree). */
export function collationOf(operands: Operand[], scope: ConditionScope): string {
  for (const operand of operands) {
    const collation = columnOf(operand, scope)?.collation;
    if (collation) return collation;
  }
  return 'utf8mb4_bin';
}

/** `; did you mean x?` for the nearest name within two changes, else nothing. */
export function meant(wrong: string, names: string[]): string {
  const ranked = names.map((name) => ({ name, away: editDistance(wrong.toLowerCase(), name.toLowerCase()) }));
  const best = ranked.sort((a, b) => a.away - b.away)[0];
  return best && best.away <= Math.max(1, Math.min(2, Math.floor(wrong.length / 3)))
    ? `; did you mean ${best.name}?`
    : '';
}

/** Levenshtein's distance (V. I. Levenshtein, 1966), by rows. */
function editDistance(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++) {
      next.push(Math.min(next[j - 1]! + 1, row[j]! + 1, row[j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1)));
    }
    row = next;
  }
  return row[b.length]!;
}
