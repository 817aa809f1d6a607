import fc from 'fast-check';
import { checkCondition } from '../../core/condition/check';
import type { ConditionScope } from '../../core/condition/scope';
import type { Comparison, Condition, Operand } from '../../core/condition/tree';
import { intervalUnits } from '../../core/sql/interval-unit';

export const texts = [
  '',
  'a',
  'A',
  'ä',
  'a ',
  'Straße',
  'STRASSE',
  "o'clock",
  '50%',
  'a_b',
  'a\\b',
  '"',
  '😀',
  'ß',
  's',
  '\t',
  'İ',
  'x;--',
  '\u00a0',
  'ﬁ',
];

export const row = fc.record(
  {
    small: fc.option(fc.integer({ min: -3, max: 3 })),
    big: fc.option(fc.constantFrom('9223372036854775807', '9007199254740993', '9007199254740992', '-1', '0')),
    exact: fc.option(
      fc.constantFrom(
        '0.10',
        '0.1',
        '-0.50',
        '12345678901234567890.12',
        '12345678901234567890.13',
        '7.00',
        '249.99',
        '250.00',
        '-250.01',
      ),
    ),
    rough: fc.option(fc.constantFrom(0.1, 0.5, -2, 1e15, 0.30000000000000004)),
    single: fc.option(fc.constantFrom(0.1, 0.5, 16777217)),
    yes: fc.option(fc.constantFrom(0, 1, 2)),
    day: fc.option(fc.constantFrom('2026-11-23', '2024-02-29', '1999-12-31', '1936-11-23', '1936-11-24')),
    moment: fc.option(fc.constantFrom('2026-11-23 00:00:00', '2026-11-23 10:00:00.5', '2024-02-29 23:59:59')),
    loose: fc.option(fc.constantFrom(...texts)),
    strict: fc.option(fc.constantFrom(...texts)),
    state: fc.option(fc.constantFrom('asked', 'planned', 'at lab')),
    other_id: fc.option(fc.integer({ min: 1, max: 4 })),
    kinds: fc.option(fc.subarray(['UV', 'softener', 'iron filter']).map((chosen) => chosen.join(','))),
    odd: fc.option(
      fc.constantFrom(
        'rowan@example.org',
        'a@b@example.org',
        '@x',
        'none',
        ' Rowan  Tarn ',
        'Åse\tÖ',
        '4111 1111 1111 1111',
        '378282246310005',
        '123',
        'AF1 4QT',
        '90210-1234',
        '03601',
        '01632 960 417',
        '',
      ),
    ),
  },
  { noNullPrototype: true },
);

export const children: [number, number | null, number | null, string | null][] = [
  [1, 1, 1, 'a'],
  [2, 1, null, null],
  [3, 2, 3, 'B'],
  [4, null, 1, 'a'],
  [5, 60, 2, 'b'],
  [6, 5, 1, 'A '],
];

export const others: [number, string | null, number | null][] = [
  [1, 'a', null],
  [2, null, 1],
  [3, 'Ä', 2],
  [4, 'b', 3],
];

export const context = {
  facts: {
    id: 2,
    email: 'A',
    organisation: null,
    'thing.small': 1,
    'thing.loose': 'ä',
    'thing.day': '2024-02-29',
    'thing.exact': '0.10',
    'thing.big': 9007199254740993n,
    'other.word': 'uv',
  },
  today: '2026-11-23',
  now: '2026-11-23 10:00:00',
};

export const columns = [
  'small',
  'big',
  'exact',
  'rough',
  'single',
  'yes',
  'day',
  'moment',
  'loose',
  'strict',
  'state',
  'other.word',
  'other.far.word',
  'other.id',
];

const pathOperand = (paths: string[]) =>
  fc
    .constantFrom(...paths)
    .map((path): Extract<Operand, { kind: 'column' }> => ({ kind: 'column', path: path.split('.') }));

const anyConstant: fc.Arbitrary<Operand> = fc.oneof(
  {
    weight: 2,
    arbitrary: fc
      .constantFrom(...texts, '2026-11-23', '2024-02-29', '2026-11-23 10:00:00.5', 'asked', 'planned')
      .map((text): Operand => ({ kind: 'text', text })),
  },
  {
    weight: 2,
    arbitrary: fc
      .constantFrom(
        '0',
        '1',
        '-2',
        '0.1',
        '0.10',
        '7',
        '0.5',
        '9007199254740993',
        '9223372036854775808',
        '12345678901234567890.12',
        '16777217',
      )
      .map((digits): Operand => ({ kind: 'number', digits })),
  },
  fc.boolean().map((value): Operand => ({ kind: 'boolean', value })),
  fc.constantFrom('today' as const, 'now' as const).map((what): Operand => ({ kind: 'clock', what })),
  {
    weight: 2,
    arbitrary: fc
      .constantFrom(
        ['id'],
        ['email'],
        ['organisation'],
        ['thing', 'small'],
        ['thing', 'loose'],
        ['thing', 'day'],
        ['thing', 'exact'],
        ['thing', 'big'],
        ['other', 'word'],
      )
      .map((fact): Operand => ({ kind: 'member', fact: [...fact] })),
  },
);

const anyShifted = (dates: string[]): fc.Arbitrary<Operand> =>
  fc.record({
    kind: fc.constant('shifted' as const),
    of: fc.oneof(
      pathOperand(dates),
      fc.constantFrom('today' as const, 'now' as const).map((what) => ({ kind: 'clock' as const, what })),
    ) as fc.Arbitrary<Extract<Operand, { kind: 'clock' }>>,
    count: fc.constantFrom(-400, -30, -1, 1, 2, 1000),
    unit: fc.constantFrom(...intervalUnits),
  });

const anyPattern = fc
  .array(fc.constantFrom('%', '_', 'a', 'S', '\\%', '\\_', '\\\\', 'ß', '😀', ' '), { maxLength: 5 })
  .map((parts): Operand => ({ kind: 'text', text: parts.join('') }));

export const anyLeaf = (paths: string[], dates: string[], scope: ConditionScope): fc.Arbitrary<Condition> => {
  const anyOperand = fc.oneof(
    { weight: 5, arbitrary: pathOperand(paths) },
    { weight: 5, arbitrary: anyConstant },
    ...(dates.length ? [{ weight: 1, arbitrary: anyShifted(dates) }] : []),
  );
  return fc
    .oneof(
      {
        weight: 3,
        arbitrary: fc.record({
          kind: fc.constant('compare' as const),
          left: anyOperand,
          comparison: fc.constantFrom<Comparison>('=', '<>', '<', '<=', '>', '>='),
          right: anyOperand,
        }),
      },
      fc.record({
        kind: fc.constant('in' as const),
        left: anyOperand,
        list: fc.array(anyOperand, { minLength: 1, maxLength: 3 }),
      }),
      fc.record({ kind: fc.constant('between' as const), left: anyOperand, low: anyOperand, high: anyOperand }),
      fc.record({ kind: fc.constant('like' as const), left: anyOperand, pattern: anyPattern }),
      fc.record({ kind: fc.constant('null' as const), left: anyOperand }),
      fc.record({
        kind: fc.constant('has' as const),
        value: fc.oneof(
          fc.constantFrom('UV', 'softener').map((text) => ({ kind: 'text' as const, text })),
          fc
            .constantFrom(['other', 'word'], ['organisation'])
            .map((fact) => ({ kind: 'member' as const, fact: [...fact] })),
        ),
        column: pathOperand(['kinds']),
      }),
    )
    .filter((leaf) => checkCondition(leaf, scope).length === 0);
};

/** Groups and negations over leaves, and EXISTS over conditions of the related table. */
export function anyCondition(
  leaf: fc.Arbitrary<Condition>,
  related: fc.Arbitrary<Condition> | null,
): fc.Arbitrary<Condition> {
  return fc.letrec<{ condition: Condition }>((tie) => ({
    condition: fc.oneof(
      { maxDepth: 3 },
      { weight: 6, arbitrary: leaf },
      {
        weight: 4,
        arbitrary: fc.record({
          kind: fc.constantFrom('all' as const, 'any' as const),
          parts: fc.array(tie('condition'), { minLength: 2, maxLength: 3 }),
        }),
      },
      { weight: 2, arbitrary: fc.record({ kind: fc.constant('not' as const), part: tie('condition') }) },
      ...(related
        ? [
            {
              weight: 1,
              arbitrary: fc.record({
                kind: fc.constant('exists' as const),
                relation: fc.constant(['child'] as string[]),
                where: fc.option(related),
              }),
            },
          ]
        : []),
    ),
  })).condition;
}
