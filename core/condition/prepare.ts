import { isPathProblem, resolveMany, resolvePath } from '../table/catalogue';
import type { Value } from '../table/value';
import { collationOf } from './operand-kind';
import { comparedInPairs } from './pairs';
import type { ConditionScope } from './scope';
import type { ComparedAs } from '../sql/compared-as';
import { compareText, likeText } from './collation';
import { moveBy } from './interval';
import { compareValues, constantValue, isConstant, type ConditionContext } from './operand-value';
import type { Comparison, Condition, ExistsCondition, Operand, Truth } from './tree';

/** A record in memory, relations followed. */
export interface RecordReader {
  /** The value of a column path. */
  value(path: readonly string[]): Value;
  /** Whether a record related by the EXISTS passes; `holds` decides of each. */
  exists(condition: ExistsCondition, holds: (related: RecordReader) => Truth): boolean;
}

/** A condition made ready for many rows: what can be known from the catalogue is worked out once. */
export type Prepared =
  | {
      kind: 'leaf';
      condition: Condition;
      values(record: RecordReader, context: ConditionContext): Value[];
      outcome(values: Value[]): Truth;
    }
  | { kind: 'exists'; condition: ExistsCondition; where: Prepared | null }
  | { kind: 'all' | 'any' | 'not'; condition: Condition; parts: Prepared[] };

const known = new WeakMap<Condition, { scope: ConditionScope; prepared: Prepared }>();

/** Prepares a checked condition; the same condition on the same table of the same catalogue only once. */
export function prepare(condition: Condition, scope: ConditionScope): Prepared {
  const found = known.get(condition);
  if (
    found &&
    found.scope.catalogue === scope.catalogue &&
    found.scope.table === scope.table &&
    found.scope.record === scope.record
  )
    return found.prepared;
  const prepared = build(condition, scope);
  known.set(condition, { scope, prepared });
  return prepared;
}

function build(condition: Condition, scope: ConditionScope): Prepared {
  const leaf = (operands: Operand[], outcome: (values: Value[]) => Truth): Prepared => {
    const read = operands.map(readerOf);
    return { kind: 'leaf', condition, values: (record, context) => read.map((each) => each(record, context)), outcome };
  };
  const compared = (
    left: Operand,
    others: Operand[],
    outcome: (compare: (comparison: Comparison, other: number) => Truth) => Truth,
  ): Prepared => {
    const collation = collationOf([left, ...others], scope);
    const pairs = comparedInPairs(left, others, scope).map((as) => comparer(as, collation));
    return leaf([left, ...others], (values) =>
      outcome((comparison, other) => pairs[other]!(values[0]!, comparison, values[other + 1]!)),
    );
  };

  switch (condition.kind) {
    case 'compare':
      return compared(condition.left, [condition.right], (compare) => compare(condition.comparison, 0));
    case 'in':
      return compared(condition.left, condition.list, (compare) =>
        anyOf(condition.list.map((_, i) => compare('=', i))),
      );
    case 'between':
      return compared(condition.left, [condition.low, condition.high], (compare) =>
        allOf([compare('>=', 0), compare('<=', 1)]),
      );
    case 'like': {
      const collation = collationOf([condition.left], scope);
      return leaf([condition.left, condition.pattern], ([text, pattern]) =>
        text === null || pattern === null ? null : likeText(collation, String(text), String(pattern)),
      );
    }
    case 'null':
      return leaf([condition.left], ([value]) => value === null);
    case 'has': {
      const found = resolvePath(scope.catalogue, scope.table, condition.column.path);
      const collation = isPathProblem(found) ? 'utf8mb4_bin' : (found.column.collation ?? 'utf8mb4_bin');
      return leaf([condition.value, condition.column], ([value, set]) =>
        value === null || set === null
          ? null
          : (set as string[]).some((choice) => compareText(collation, choice, String(value)) === 0),
      );
    }
    case 'exists': {
      const found = resolveMany(scope.catalogue, scope.table, condition.relation);
      if (isPathProblem(found)) throw new Error(`there is no ${found.wanted} ${found.part} in ${found.table}`);
      return {
        kind: 'exists',
        condition,
        where: condition.where && build(condition.where, { ...scope, table: found.table }),
      };
    }
    case 'all':
    case 'any':
      return { kind: condition.kind, condition, parts: condition.parts.map((part) => build(part, scope)) };
    case 'not':
      return { kind: 'not', condition, parts: [build(condition.part, scope)] };
  }
}

type ReadOperand = (record: RecordReader, context: ConditionContext) => Value;

function readerOf(operand: Operand): ReadOperand {
  if (operand.kind === 'column') return (record) => record.value(operand.path);
  if (isConstant(operand)) return (_, context) => constantValue(operand, context);
  const of = readerOf(operand.of);
  return (record, context) => {
    const from = of(record, context);
    return from === null ? null : moveBy(String(from), operand.count, operand.unit);
  };
}

/** Whether a record passes, by SQL's three-valued logic. */
export function test(prepared: Prepared, record: RecordReader, context: ConditionContext): Truth {
  switch (prepared.kind) {
    case 'leaf':
      return prepared.outcome(prepared.values(record, context));
    case 'exists':
      return record.exists(prepared.condition, (related) =>
        prepared.where ? test(prepared.where, related, context) : true,
      );
    case 'not': {
      const outcome = test(prepared.parts[0]!, record, context);
      return outcome === null ? null : !outcome;
    }
    case 'all':
    case 'any': {
      const decisive = prepared.kind === 'any';
      let unknown = false;
      for (const part of prepared.parts) {
        const outcome = test(part, record, context);
        if (outcome === decisive) return decisive;
        if (outcome === null) unknown = true;
      }
      return unknown ? null : !decisive;
    }
  }
}

type Compare = (a: Value, comparison: Comparison, b: Value) => Truth;

function comparer(as: ComparedAs, collation: string): Compare {
  return (a, comparison, b) => {
    if (a === null || b === null) return null;
    const sign = compareValues(as, a, b, collation);
    switch (comparison) {
      case '=':
        return sign === 0;
      case '<>':
        return sign !== 0;
      case '<':
        return sign < 0;
      case '<=':
        return sign <= 0;
      case '>':
        return sign > 0;
      case '>=':
        return sign >= 0;
    }
  };
}

export function allOf(outcomes: Truth[]): Truth {
  return outcomes.includes(false) ? false : outcomes.includes(null) ? null : true;
}

export function anyOf(outcomes: Truth[]): Truth {
  return outcomes.includes(true) ? true : outcomes.includes(null) ? null : false;
}
