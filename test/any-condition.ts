import fc from 'fast-check';
import type { ColumnOperand, Comparison, Condition, Operand } from '../core/condition/tree';
import { intervalUnits } from '../core/sql/interval-unit';

/**
 * Any tree that can be written: names with odd letters and quotes, values of each kind, groups and negations. For
 * tests.
 */
const anyName = fc.oneof(
  fc.constantFrom('id', 'owner_id', 'état', 'and', 'In', 'true'),
  fc.string({ minLength: 1, maxLength: 8 }).filter((text) => !text.includes('\0')),
);

const anyColumn: fc.Arbitrary<Operand> = fc.record({
  kind: fc.constant('column' as const),
  path: fc.array(anyName, { minLength: 1, maxLength: 3 }),
});

const anyConstant: fc.Arbitrary<Operand> = fc.oneof(
  fc.record({ kind: fc.constant('text' as const), text: fc.string({ maxLength: 12, unit: 'grapheme' }) }),
  fc.record({
    kind: fc.constant('number' as const),
    digits: fc
      .tuple(fc.constantFrom('', '-'), fc.nat(), fc.constantFrom('', '.5', '.050'))
      .map((parts) => parts.join('')),
  }),
  fc.record({ kind: fc.constant('boolean' as const), value: fc.boolean() }),
  fc.record({ kind: fc.constant('clock' as const), what: fc.constantFrom('today' as const, 'now' as const) }),
  fc
    .oneof(fc.constantFrom(['id'], ['email']), fc.tuple(anyName, anyName))
    .map((fact) => ({ kind: 'member' as const, fact: [...fact] as string[] })),
);

const anyFact: fc.Arbitrary<Extract<Operand, { kind: 'member' | 'record' }>> = fc.oneof(
  fc
    .array(anyName, { minLength: 2, maxLength: 4 })
    .map((fact) => ({ kind: 'member' as const, fact: [...fact] as string[] })),
  anyName.map((column) => ({ kind: 'record' as const, column })),
);

const anyShifted: fc.Arbitrary<Operand> = fc.record({
  kind: fc.constant('shifted' as const),
  of: fc.oneof(anyColumn, anyFact, fc.constant({ kind: 'clock' as const, what: 'now' as const })) as fc.Arbitrary<
    Extract<Operand, { kind: 'column' }>
  >,
  count: fc.integer({ min: -99_999, max: 99_999 }).filter((count) => count !== 0),
  unit: fc.constantFrom(...intervalUnits),
});

const anyOperand = fc.oneof(anyColumn, anyConstant, anyFact, anyShifted);
const comparison = fc.constantFrom<Comparison>('=', '<>', '<', '<=', '>', '>=');

export const anyCondition = fc.letrec<{ condition: Condition; leaf: Condition }>((tie) => ({
  leaf: fc.oneof(
    { maxDepth: 5 },
    fc.record({ kind: fc.constant('compare' as const), left: anyOperand, comparison, right: anyOperand }),
    fc.record({
      kind: fc.constant('in' as const),
      left: anyOperand,
      list: fc.array(anyOperand, { minLength: 1, maxLength: 3 }),
    }),
    fc.record({ kind: fc.constant('between' as const), left: anyOperand, low: anyOperand, high: anyOperand }),
    fc.record({ kind: fc.constant('like' as const), left: anyOperand, pattern: anyOperand }),
    fc.record({ kind: fc.constant('null' as const), left: anyOperand }),
    fc.record({
      kind: fc.constant('has' as const),
      value: fc.oneof(
        anyFact,
        anyName.map((text) => ({ kind: 'text' as const, text })),
      ),
      column: anyColumn as fc.Arbitrary<ColumnOperand>,
    }),
    fc.record({
      kind: fc.constant('exists' as const),
      relation: fc.array(anyName, { minLength: 1, maxLength: 2 }),
      where: fc.option(tie('condition')),
    }),
  ),
  condition: fc.oneof(
    { maxDepth: 4 },
    tie('leaf'),
    fc.record({
      kind: fc.constantFrom('all' as const, 'any' as const),
      parts: fc.array(tie('condition'), { minLength: 2, maxLength: 3 }),
    }),
    fc.record({ kind: fc.constant('not' as const), part: tie('condition') }),
  ),
})).condition;
