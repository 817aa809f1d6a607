import {
  findColumn,
  findRosterTable,
  findTable,
  isClosed,
  isPathProblem,
  resolveMany,
  resolvePath,
  type Catalogue,
  type Relation,
  type Table,
} from '../table/catalogue';
import { isComparableCollation } from './collation';
import { ConditionError } from './tokens';
import { parseCondition } from './parse';
import { printOperand } from './print';
import { unshifted, type Condition, type HasCondition, type Operand, type ShiftedOperand } from './tree';
import type { ComparedAs } from '../sql/compared-as';
import { meant } from './near-name';
import type { ConditionScope, ConditionProblem } from './scope';
import { comparedAs, columnOf, kindOf, collationProblem, operandKind, memberFacts } from './operand-kind';

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
      return (
        checkOperands([condition.left], scope) ??
        (scope.lacks && condition.left.kind === 'member' ? [] : needColumn([condition.left], scope))
      );
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
      const problems = checkOperands(operands, scope) ?? needColumn(operands, scope);
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
      const problems = checkOperands([condition.left, condition.pattern], scope) ?? needColumn([condition.left], scope);
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
  const problems = checkOperands(operands, scope) ?? needColumn(operands, scope);
  if (problems.length) return problems;
  const as = comparedAs(operands, scope);
  return typeof as === 'string' ? [] : [as];
}

function needColumn(operands: Operand[], { memberAlone }: ConditionScope): ConditionProblem[] {
  if (memberAlone) {
    if (operands.some((operand) => unshifted(operand).kind === 'member')) return [];
    return [{ reason: 'a comparison needs something that is known of the member', operand: operands[0] }];
  }
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
  const isOwn = scope.ownFacts?.some(
    (fact) => fact.length === operand.fact.length && fact.every((part, i) => part === operand.fact[i]),
  );
  if (!scope.member && !isOwn)
    return { reason: `${printOperand(operand)} can't be used here; compare with a value`, operand };
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
  const found = resolvePath(facts, table, operand.fact.slice(1));
  if (isPathProblem(found))
    return {
      reason: `there is no ${found.wanted} ${found.part} in ${found.table}${meant(found.part, found.near)}`,
      operand,
    };
  const closed =
    closedOnTheWay(table, found.steps, facts) ??
    (isClosed(found.table, found.column.name) ? `${found.table.name}.${found.column.name}` : null);
  return closed ? { reason: closedWords(closed), operand } : null;
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
