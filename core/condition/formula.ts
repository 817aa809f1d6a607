import { collationOf } from './operand-kind';
import { comparedInPairs } from './pairs';
import type { ComparedAs } from '../sql/compared-as';
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
  const compared = (left: Operand, pairs: [Comparison, Operand][]): Formula[] => {
    const others = pairs.map(([, right]) => right);
    const kinds = comparedInPairs(left, others, scope).map((as) => kindOfValue(as, [left, ...others], scope));
    return pairs.map(([comparison, right], i) =>
      orUnknown(
        {
          kind: 'compare',
          kindOfValue: kinds[i]!,
          left,
          comparison: holds ? comparison : negated[comparison],
          right,
        },
        [left, right],
      ),
    );
  };

  switch (condition.kind) {
    case 'compare':
      return compared(condition.left, [[condition.comparison, condition.right]])[0]!;
    case 'in': {
      const parts = compared(
        condition.left,
        condition.list.map((item) => ['=', item]),
      );
      return holds ? { any: parts } : { all: parts };
    }
    case 'between': {
      const parts = compared(condition.left, [
        ['>=', condition.low],
        ['<=', condition.high],
      ]);
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
function kindOfValue(as: ComparedAs, operands: Operand[], scope: ConditionScope): string {
  if (as === 'whole' || as === 'decimal') return 'decimal';
  if (as === 'date' || as === 'moment') return 'moment';
  return as === 'text' || as === 'choice' ? `text ${collationOf(operands, scope)}` : as;
}
