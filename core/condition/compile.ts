import { digitsOf, normaliseTimestamp, wholeNumber } from '../table/value';
import { comparedAs, type ComparedAs, type ConditionScope } from './check';
import { constantValue, type ConditionContext } from './operand-value';
import { and, bound, comma, joined, or, sql, type Sql } from './sql';
import type { Comparison, Condition, Operand } from './tree';

/** Gives the SQL of a column path: of the raw table for the policy, of the person's view for what they ask themselves. */
export type ColumnSql = (path: readonly string[]) => Sql;

const comparisons: Record<Comparison, Sql> = { '=': sql`=`, '<>': sql`<>`, '<': sql`<`, '<=': sql`<=`, '>': sql`>`, '>=': sql`>=` };

/**
 * Compiles a checked condition for MariaDB. Every value is bound, converted to what the operands are compared as, so that
 * the database compares exactly as `evaluate` does in memory.
 */
export function compileCondition(condition: Condition, scope: ConditionScope, column: ColumnSql, context: ConditionContext): Sql {
  const together = (operands: Operand[]): Sql[] => {
    const as = comparedAs(operands, scope);
    if (typeof as !== 'string') throw new Error(as.reason);
    return operands.map((operand) => compileOperand(operand, as, column, context));
  };
  const part = (inner: Condition): Sql => compileCondition(inner, scope, column, context);

  switch (condition.kind) {
    case 'compare': {
      const [left, right] = together([condition.left, condition.right]) as [Sql, Sql];
      return sql`(${left} ${comparisons[condition.comparison]} ${right})`;
    }
    case 'in': {
      const [left, ...list] = together([condition.left, ...condition.list]) as [Sql, ...Sql[]];
      return sql`(${left} IN (${joined(list, comma)}))`;
    }
    case 'between': {
      const [left, low, high] = together([condition.left, condition.low, condition.high]) as [Sql, Sql, Sql];
      return sql`(${left} BETWEEN ${low} AND ${high})`;
    }
    case 'like': {
      if (condition.pattern.kind !== 'text') throw new Error('the pattern after LIKE must be a text in quotes');
      return sql`(${rawOperand(condition.left, column)} LIKE ${bound(condition.pattern.text)})`;
    }
    case 'null':
      return sql`(${rawOperand(condition.left, column)} IS NULL)`;
    case 'all':
      return sql`(${joined(condition.parts.map(part), and)})`;
    case 'any':
      return sql`(${joined(condition.parts.map(part), or)})`;
    case 'not':
      return sql`(NOT ${part(condition.part)})`;
  }
}

function rawOperand(operand: Operand, column: ColumnSql): Sql {
  if (operand.kind !== 'column') throw new Error('a comparison needs a column of the table');
  return column(operand.path);
}

function compileOperand(operand: Operand, as: ComparedAs, column: ColumnSql, context: ConditionContext): Sql {
  if (operand.kind !== 'column') {
    const value = constantValue(operand, context);
    return value === null ? sql`NULL` : compileValue(String(value), as);
  }
  // A yes/no column may hold any small number: everything but 0 is yes.
  return as === 'truth' ? sql`(${column(operand.path)} <> 0)` : column(operand.path);
}

/** A constant bound so that the database reads it as what it is compared as. */
export function compileValue(text: string, as: ComparedAs): Sql {
  switch (as) {
    case 'text':
    case 'choice':
      return bound(text);
    case 'whole':
      return fitsSigned64(BigInt(text)) ? bound(wholeNumber(text)) : castDecimal(text);
    case 'decimal':
      return castDecimal(text);
    case 'double':
      return bound(Number(text));
    case 'truth':
      return text === 'true' || text === '1' ? sql`TRUE` : sql`FALSE`;
    case 'date':
      return sql`CAST(${bound(text)} AS DATE)`;
    case 'moment':
      return sql`CAST(${bound(normaliseTimestamp(text) ?? text)} AS DATETIME(6))`;
  }
}

function fitsSigned64(number: bigint): boolean {
  return BigInt.asIntN(64, number) === number;
}

/** DECIMAL wide enough for the digits written: exact, and still usable for an index. The type's numbers are computed, not taken from input. */
function castDecimal(text: string): Sql {
  const { before, after } = digitsOf(text);
  const type: Sql = { text: `DECIMAL(${Math.max(before + after, 1)},${after})`, params: [] };
  return sql`CAST(${bound(text)} AS ${type})`;
}
