import fc from 'fast-check';
import type { Comparison, Condition, Operand } from '../core/condition/tree';

/** Any tree that can be written: names with odd letters and quotes, values of each kind, groups and negations. For tests. */
const anyName = fc.oneof(fc.constantFrom('id', 'owner_id', 'état', 'and', 'In', 'true'), fc.string({ minLength: 1, maxLength: 8 }).filter((text) => !text.includes('\0')));
const anyColumn: fc.Arbitrary<Operand> = fc.record({ kind: fc.constant('column' as const), path: fc.array(anyName, { minLength: 1, maxLength: 3 }) });
const anyConstant: fc.Arbitrary<Operand> = fc.oneof(
  fc.record({ kind: fc.constant('text' as const), text: fc.string({ maxLength: 12, unit: 'grapheme' }) }),
  fc.record({ kind: fc.constant('number' as const), digits: fc.tuple(fc.constantFrom('', '-'), fc.nat(), fc.constantFrom('', '.5', '.050')).map((parts) => parts.join('')) }),
  fc.record({ kind: fc.constant('boolean' as const), value: fc.boolean() }),
  fc.record({ kind: fc.constant('clock' as const), what: fc.constantFrom('today' as const, 'now' as const) }),
  fc.oneof(fc.constantFrom(['id'], ['email']), fc.tuple(anyName, anyName)).map((fact) => ({ kind: 'member' as const, fact: [...fact] as string[] })),
);
const anyOperand = fc.oneof(anyColumn, anyConstant);
const comparison = fc.constantFrom<Comparison>('=', '<>', '<', '<=', '>', '>=');

export const anyCondition = fc.letrec<{ condition: Condition; leaf: Condition }>((tie) => ({
  leaf: fc.oneof(
    fc.record({ kind: fc.constant('compare' as const), left: anyOperand, comparison, right: anyOperand }),
    fc.record({ kind: fc.constant('in' as const), left: anyOperand, list: fc.array(anyOperand, { minLength: 1, maxLength: 3 }) }),
    fc.record({ kind: fc.constant('between' as const), left: anyOperand, low: anyOperand, high: anyOperand }),
    fc.record({ kind: fc.constant('like' as const), left: anyOperand, pattern: anyOperand }),
    fc.record({ kind: fc.constant('null' as const), left: anyOperand }),
  ),
  condition: fc.oneof(
    { maxDepth: 4 },
    tie('leaf'),
    fc.record({ kind: fc.constantFrom('all' as const, 'any' as const), parts: fc.array(tie('condition'), { minLength: 2, maxLength: 3 }) }),
    fc.record({ kind: fc.constant('not' as const), part: tie('condition') }),
  ),
})).condition;
