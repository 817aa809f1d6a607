import { collationOf, comparedAs } from './operand-kind';
import type { ConditionScope } from './scope';
import { printOperand } from './print';
import type { Comparison, Condition, ExistsCondition, Operand } from './tree';

/**
 * A condition turned into plain two-valued logic: SQL's unknown is written out as "one side is NULL", so that what
 * remains is certain to be true or false for every row.
 */
export type Formula = { all: Formula[] } | { any: Formula[] } | Atom;

export type Atom =
  /** Both sides are filled and compare so. */
  | { kind: 'compare'; kindOfValue: string; left: Operand; comparison: Comparison; right: Operand }
  | { kind: 'null'; operand: Operand; is: boolean }
  /** A LIKE or a choice on filled operands; two of the same text are the same question. */
  | { kind: 'opaque'; text: string; operands: Operand[]; holds: boolean }
  | { kind: 'exists'; condition: ExistsCondition; holds: boolean };

/** What of the three outcomes is asked for. */
type Wanted = 'true' | 'false' | 'not true' | 'not false';

const negated: Record<Comparison, Comparison> = { '=': '<>', '<>': '=', '<': '>=', '>=': '<', '>': '<=', '<=': '>' };

const turned: Record<Wanted, Wanted> = {
  true: 'false',
  false: 'true',
  'not true': 'not false',
  'not false': 'not true',
};

export function formulaOf(condition: Condition, wanted: Wanted, scope: ConditionScope): Formula {
  const holds = wanted === 'true' || wanted === 'not false';
  const unknownToo = wanted === 'not true' || wanted === 'not false';
  /** An atom that is unknown when one of its operands is NULL. */
  const orUnknown = (atom: Formula, operands: Operand[]): Formula =>
    unknownToo ? { any: [atom, ...operands.map((operand): Atom => ({ kind: 'null', operand, is: true }))] } : atom;
  const compare = (left: Operand, comparison: Comparison, right: Operand, together: Operand[]): Formula =>
    orUnknown(
      {
        kind: 'compare',
        kindOfValue: kindOfValue(together, scope),
        left,
        comparison: holds ? comparison : negated[comparison],
        right,
      },
      [left, right],
    );

  switch (condition.kind) {
    case 'compare':
      return compare(condition.left, condition.comparison, condition.right, [condition.left, condition.right]);
    case 'in': {
      const together = [condition.left, ...condition.list];
      const parts = condition.list.map((item) => compare(condition.left, '=', item, together));
      return holds ? { any: parts } : { all: parts };
    }
    case 'between': {
      const together = [condition.left, condition.low, condition.high];
      const parts = [
        compare(condition.left, '>=', condition.low, together),
        compare(condition.left, '<=', condition.high, together),
      ];
      return holds ? { all: parts } : { any: parts };
    }
    case 'like':
      return orUnknown(
        {
          kind: 'opaque',
          text: `${printOperand(condition.left)} LIKE ${printOperand(condition.pattern)}`,
          operands: [condition.left],
          holds,
        },
        [condition.left],
      );
    case 'has':
      return orUnknown(
        {
          kind: 'opaque',
          text: `${printOperand(condition.value)} IN ${printOperand(condition.column)}`,
          operands: [condition.value, condition.column],
          holds,
        },
        [condition.value, condition.column],
      );
    case 'null':
      return { kind: 'null', operand: condition.left, is: holds };
    case 'exists':
      return { kind: 'exists', condition, holds };
    case 'all':
    case 'any': {
      const parts = condition.parts.map((part) => formulaOf(part, wanted, scope));
      return (condition.kind === 'all') === holds ? { all: parts } : { any: parts };
    }
    case 'not':
      return formulaOf(condition.part, turned[wanted], scope);
  }
}

/** Values of one kind have one order among them: numbers kept exactly, dates and moments, texts of one collation. */
function kindOfValue(operands: Operand[], scope: ConditionScope): string {
  const as = comparedAs(operands, scope);
  if (typeof as !== 'string') throw new Error(as.reason);
  if (as === 'whole' || as === 'decimal') return 'decimal';
  if (as === 'date' || as === 'moment') return 'moment';
  return as === 'text' || as === 'choice' ? `text ${collationOf(operands, scope)}` : as;
}
