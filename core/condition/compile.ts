import { isPathProblem, resolveMany, resolvePath } from '../table/catalogue';
import type { Value } from '../table/value';
import { collationOf, operandKind } from './operand-kind';
import { comparedInPairs } from './pairs';
import type { ConditionScope } from './scope';
import type { ComparedAs } from '../sql/compared-as';
import { compareText } from './collation';
import type { Dialect } from '../dialect/dialect';
import { dialectOf } from '../dialect/of';
import { constantValue, isConstant, type Constant, type ConditionContext } from './operand-value';
import { and, bound, comma, joined, or, sql, type Sql } from '../sql/sql';
import type { Comparison, Condition, HasCondition, Operand } from './tree';

/**
 * Gives the SQL of a record's columns: of the raw table for the policy, of the person's view for what they ask
 * themselves.
 */
export interface RecordSql {
  column(path: readonly string[]): Sql;
  /** `EXISTS (SELECT …)` over the records that the relation leads to; `where` is compiled for each of them. */
  exists(relation: readonly string[], where: (related: RecordSql) => Sql): Sql;
}

/**
 * Gives the SQL of a fact where it is no bound constant: a comparison of many persons at once has their facts in
 * columns.
 */
export type FactSql = (operand: Constant) => Sql | null;

/** Everything that a condition is compiled with. */
export interface Compiling {
  scope: ConditionScope;
  context: ConditionContext;
  /** That of the scope's catalogue when absent. */
  dialect?: Dialect;
  fact?: FactSql;
}

const comparisons: Record<Comparison, Sql> = {
  '=': sql`=`,
  '<>': sql`<>`,
  '<': sql`<`,
  '<=': sql`<=`,
  '>': sql`>`,
  '>=': sql`>=`,
};

/**
 * Compiles a checked condition. Every value is bound, converted to what the operands are compared as, so that the
 * database compares exactly as `evaluate` does in memory.
 */
export function compileCondition(condition: Condition, record: RecordSql, compiling: Compiling): Sql {
  const { scope, dialect = dialectOf(compiling.scope.catalogue) } = compiling;
  const together = (as: ComparedAs, operands: Operand[], ordered: boolean): Sql[] => {
    const collation = compiling.fact && (as === 'text' || as === 'choice') ? collationOf(operands, scope) : null;
    return operands.map((operand) => compileOperand(operand, as, ordered, record, compiling, collation));
  };
  const compare = (as: ComparedAs, left: Operand, comparison: Comparison, right: Operand): Sql => {
    const [a, b] = together(as, [left, right], !['=', '<>'].includes(comparison)) as [Sql, Sql];
    return sql`(${a} ${comparisons[comparison]} ${b})`;
  };
  const part = (inner: Condition): Sql => compileCondition(inner, record, compiling);

  switch (condition.kind) {
    case 'compare': {
      const [as] = comparedInPairs(condition.left, [condition.right], scope);
      return compare(as!, condition.left, condition.comparison, condition.right);
    }
    case 'in': {
      const pairs = comparedInPairs(condition.left, condition.list, scope);
      if (new Set(pairs).size > 1)
        return sql`(${joined(
          condition.list.map((each, i) => compare(pairs[i]!, condition.left, '=', each)),
          or,
        )})`;
      const [left, ...list] = together(pairs[0]!, [condition.left, ...condition.list], false) as [Sql, ...Sql[]];
      return sql`(${left} IN (${joined(list, comma)}))`;
    }
    case 'between': {
      const [low, high] = comparedInPairs(condition.left, [condition.low, condition.high], scope);
      if (low !== high)
        return sql`(${joined(
          [compare(low!, condition.left, '>=', condition.low), compare(high!, condition.left, '<=', condition.high)],
          and,
        )})`;
      const parts = together(low!, [condition.left, condition.low, condition.high], true) as [Sql, Sql, Sql];
      return sql`(${parts[0]} BETWEEN ${parts[1]} AND ${parts[2]})`;
    }
    case 'like': {
      if (condition.left.kind !== 'column' || condition.pattern.kind !== 'text')
        throw new Error('LIKE stands between a column and a text in quotes');
      return dialect.like(record.column(condition.left.path), bound(condition.pattern.text));
    }
    case 'null': {
      const raw = { ...compiling, dialect: { ...dialect, column: (column: Sql) => column } };
      return sql`(${compileOperand(condition.left, 'text', false, record, raw)} IS NULL)`;
    }
    case 'has':
      return compileHas(condition, record, compiling);
    case 'exists': {
      const found = resolveMany(scope.catalogue, scope.table, condition.relation);
      if (isPathProblem(found)) throw new Error(`there is no ${found.wanted} ${found.part} in ${found.table}`);
      return record.exists(condition.relation, (related) =>
        condition.where
          ? compileCondition(condition.where, related, { ...compiling, scope: { ...scope, table: found.table } })
          : sql`TRUE`,
      );
    }
    case 'all':
      return sql`(${joined(condition.parts.map(part), and)})`;
    case 'any':
      return sql`(${joined(condition.parts.map(part), or)})`;
    case 'not':
      return sql`(NOT ${part(condition.part)})`;
  }
}

function compileOperand(
  operand: Operand,
  as: ComparedAs,
  ordered: boolean,
  record: RecordSql,
  compiling: Compiling,
  collation: string | null = null,
): Sql {
  const dialect = compiling.dialect ?? dialectOf(compiling.scope.catalogue);
  if (operand.kind === 'column') return dialect.column(record.column(operand.path), as, ordered);
  if (operand.kind !== 'shifted' || (isConstant(operand) && !compiling.fact)) {
    const fact = compiling.fact?.(operand);
    if (fact) return dialect.column(collation === null ? fact : dialect.collated(fact, collation), as, ordered);
    return compileConstant(constantValue(operand as Constant, compiling.context), as, dialect);
  }
  const plain = operandKind(operand.of, compiling.scope);
  const of = compileOperand(operand.of, as, ordered, record, compiling);
  return dialect.moved(of, operand.count, operand.unit, plain === 'date' ? 'date' : 'moment');
}

function compileConstant(value: Value, as: ComparedAs, dialect: Dialect): Sql {
  return value === null ? sql`NULL` : dialect.constant(String(value), as);
}

/** Tests choices by their places and compares no text of the record, so that no collation can come between. */
function compileHas(
  condition: HasCondition,
  record: RecordSql,
  { scope, context, dialect = dialectOf(scope.catalogue), fact }: Compiling,
): Sql {
  const found = resolvePath(scope.catalogue, scope.table, condition.column.path);
  if (isPathProblem(found)) return sql`NULL`;
  const { choices = [], collation = 'utf8mb4_bin' } = found.column;
  const set = record.column(condition.column.path);
  const asColumn = fact?.(condition.value);
  if (asColumn) {
    const each = choices.map(
      (choice, i) => sql`(${asColumn} = ${dialect.text(choice)} AND ${dialect.holds(set, found.column, [i])})`,
    );
    return sql`CASE WHEN ${asColumn} IS NULL OR ${set} IS NULL THEN NULL
      ELSE (${joined(each.length ? each : [sql`FALSE`], or)}) END`;
  }
  const value = constantValue(condition.value, context);
  if (value === null) return sql`NULL`;
  const places = choices.flatMap((choice, i) => (compareText(collation, choice, String(value)) === 0 ? [i] : []));
  return places.length
    ? dialect.holds(set, found.column, places)
    : sql`CASE WHEN ${set} IS NULL THEN NULL ELSE FALSE END`;
}
