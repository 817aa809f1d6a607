import type { Comparison, Condition, Operand } from '../../../core/condition/tree';

export type Shape = Comparison | 'one of' | 'none of' | 'from to' | 'like' | 'not like' | 'empty' | 'filled';

export const shapeWords: Record<Shape, string> = {
  '=': 'is',
  '<>': 'is not',
  '<': 'is less than',
  '<=': 'is at most',
  '>': 'is more than',
  '>=': 'is at least',
  'one of': 'is one of',
  'none of': 'is none of',
  'from to': 'is from … to',
  like: 'looks like',
  'not like': 'does not look like',
  empty: 'is empty',
  filled: 'is filled',
};

/** Shapes that ask for an order or for parts, which some types have not. */
export const ordered = new Set<Shape>(['<', '<=', '>', '>=', 'from to', 'like', 'not like']);

/** The shape of a condition that one line can show; null for others, which are shown as text. */
export function shapeOf(condition: Condition): Shape | null {
  switch (condition.kind) {
    case 'compare':
      return condition.left.kind === 'column' ? condition.comparison : null;
    case 'in':
      return 'one of';
    case 'between':
      return 'from to';
    case 'like':
      return 'like';
    case 'null':
      return 'empty';
    case 'not':
      return condition.part.kind === 'null'
        ? 'filled'
        : condition.part.kind === 'in'
          ? 'none of'
          : condition.part.kind === 'like'
            ? 'not like'
            : null;
    default:
      return null;
  }
}

/** The condition with the values that there are; `constant` stands in for those that are not. */
export function build(path: string[], shape: Shape, constant: Operand, values: Operand[]): Condition {
  const left: Operand = { kind: 'column', path };
  const first = values[0] ?? constant;
  const not = (part: Condition): Condition => ({ kind: 'not', part });
  switch (shape) {
    case 'empty':
      return { kind: 'null', left };
    case 'filled':
      return not({ kind: 'null', left });
    case 'one of':
      return { kind: 'in', left, list: values.length ? values : [constant] };
    case 'none of':
      return not({ kind: 'in', left, list: values.length ? values : [constant] });
    case 'from to':
      return { kind: 'between', left, low: first, high: values[1] ?? first };
    case 'like':
    case 'not like': {
      const like: Condition = {
        kind: 'like',
        left,
        pattern: first.kind === 'text' ? first : { kind: 'text', text: '%' },
      };
      return shape === 'like' ? like : not(like);
    }
    default:
      return { kind: 'compare', left, comparison: shape, right: first };
  }
}
