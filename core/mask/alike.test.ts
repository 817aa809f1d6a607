import fc from 'fast-check';
import { expect, test } from 'vitest';
import { column } from '../../test/wells';
import {
  applyMask,
  maskAsked,
  maskedColumn,
  maskLabel,
  maskRank,
  maskSigns,
  maskTakes,
  type Mask,
  type MaskContext,
} from './mask';
import { isIban, passesLuhn } from './recognise';

const context: MaskContext = { today: '2026-11-26', standIn: null };
const text = column('c', 'text');
const date = column('c', 'date');
const sign = fc.option(fc.constantFrom(...maskSigns), { nil: undefined });
const count = fc.integer({ min: 1, max: 6 });
const letters = fc.string({ unit: fc.constantFrom(...'abXY12é水'), maxLength: 14 });

/** Two values that are the same in all that a mask lets through, and the mask. */
type Alike = [Mask, typeof text, string, string];
const middle = fc.tuple(letters, letters).filter(([a, b]) => a !== '' && b !== '');

const ends = fc
  .tuple(
    count,
    count,
    letters.filter((each) => each.length >= 1),
    middle,
    sign,
    fc.constantFrom('first', 'last', 'both'),
  )
  .map(([first, last, kept, [a, b], by, which]): Alike => {
    const start = kept.padEnd(first, 'q').slice(0, first);
    const end = kept.padStart(last, 'z').slice(-last);
    const more = by === undefined ? {} : { sign: by };
    if (which === 'first') return [{ style: 'keep first', count: first, ...more }, text, start + a, start + b];
    if (which === 'last') return [{ style: 'keep last', count: last, ...more }, text, a + end, b + end];
    return [{ style: 'keep both ends', first, last, ...more }, text, start + a + end, start + b + end];
  });
const digits = (length: number) => fc.stringMatching(new RegExp(`^[0-9]{${length}}$`));
const cards = fc
  .tuple(digits(6), digits(4), digits(3), digits(6), sign)
  .map(([start, end, a, b, by]): Alike => [
    { style: 'card', first: 6, last: 4, ...(by ? { sign: by } : {}) },
    text,
    `${start} ${a} ${end}`,
    `${start}${b}${end}`,
  ]);
const mails = fc
  .tuple(
    letters,
    letters,
    fc.constantFrom('example.org', 'x.example'),
    fc.constantFrom('domain' as const, 'first letter' as const),
  )
  .map(([a, b, domain, show]): Alike => [{ style: 'e-mail', show }, text, `q${a}@${domain}`, `q${b}@${domain}`]);
const days = fc
  .tuple(fc.integer({ min: 1000, max: 9999 }), digits(2), digits(2), fc.constantFrom('year' as const, 'month' as const))
  .map(([year, a, b, style]): Alike => {
    const day = (of: string) => String((Number(of) % 28) + 1).padStart(2, '0');
    const month = (of: string) => String((Number(of) % 12) + 1).padStart(2, '0');
    return style === 'year'
      ? [{ style }, date, `${year}-${month(a)}-${day(a)}`, `${year}-${month(b)}-${day(b)}`]
      : [{ style }, date, `${year}-${month(a)}-${day(a)}`, `${year}-${month(a)}-${day(b)}`];
  });
const areas = fc.tuple(count, letters, middle, sign).map(([size, start, [a, b], by]): Alike => {
  const kept = start.padEnd(size, 'q').slice(0, size);
  return [{ style: 'area', count: size, ...(by ? { sign: by } : {}) }, text, kept + a, kept + b];
});
const nothing = fc
  .tuple(letters, letters, sign)
  .map(([a, b, by]): Alike => [{ style: 'all', ...(by ? { sign: by } : {}) }, text, a, b]);

test('two values that differ only in what is hidden look the same: neither its signs nor its length come out', () => {
  fc.assert(
    fc.property(fc.oneof(ends, cards, mails, days, areas, nothing), ([mask, of, one, other]) => {
      expect(maskTakes(mask, of)).toBe(true);
      const seen = [one, other].map((value) => applyMask(mask, value, of, context));
      expect(seen[0]).toBe(seen[1]);
      // What is hidden whole leaves no character of it but by chance of the sign itself.
      if (mask.style === 'all') expect(new Set(seen[0])).toEqual(new Set([mask.sign ?? '•']));
    }),
    { numRuns: 1500 },
  );
});

test('what would be shown whole by its kept ends is hidden, and nothing at all stays nothing', () => {
  fc.assert(
    fc.property(count, count, letters, sign, (first, last, value, by) => {
      const more = by ? { sign: by } : {};
      for (const mask of [
        { style: 'keep first', count: first, ...more },
        { style: 'keep last', count: first, ...more },
        { style: 'keep both ends', first, last, ...more },
        { style: 'area', count: first, ...more },
      ] satisfies Mask[]) {
        const kept = mask.style === 'keep both ends' ? first + last : first;
        const seen = applyMask(mask, value, text, context)!;
        if ([...value].length <= kept) expect(new Set(seen)).toEqual(new Set([by ?? '•']));
        else expect(seen).not.toBe(value);
        expect(applyMask(mask, null, text, context)).toBeNull();
      }
    }),
  );
});

test('signs between letters and digits stay where that is wanted, and are all that stays of the middle', () => {
  fc.assert(
    fc.property(
      fc.string({ unit: fc.constantFrom(...'a7 .-/+():'), minLength: 3, maxLength: 20 }),
      sign,
      (value, by) => {
        const mask: Mask = { style: 'keep last', count: 2, separators: true, ...(by ? { sign: by } : {}) };
        const seen = [...applyMask(mask, value, text, context)!];
        expect(seen.slice(0, -2)).toEqual(
          [...value].slice(0, -2).map((each) => (/[a7]/.test(each) ? (by ?? '•') : each)),
        );
        expect(seen.slice(-2)).toEqual([...value].slice(-2));
      },
    ),
  );
});

test('of two masks of one style the one that reveals more ranks lower, and each says what it shows', () => {
  const pairs: [Mask, Mask][] = [
    [
      { style: 'card', first: 2, last: 4 },
      { style: 'card', first: 3, last: 4 },
    ],
    [
      { style: 'card', first: 2, last: 3 },
      { style: 'card', first: 2, last: 4 },
    ],
    [
      { style: 'e-mail', show: 'domain' },
      { style: 'e-mail', show: 'first letter' },
    ],
    [
      { style: 'keep first', count: 2 },
      { style: 'keep first', count: 3 },
    ],
    [
      { style: 'area', count: 2 },
      { style: 'area', count: 3 },
    ],
    [
      { style: 'step', edges: ['1', '2'] },
      { style: 'step', edges: ['1', '2', '3'] },
    ],
    [
      { style: 'step', size: '1000' },
      { style: 'step', size: '100' },
    ],
    [
      { style: 'round', digits: -1 },
      { style: 'round', digits: 1 },
    ],
  ];
  for (const [less, more] of pairs) {
    expect([less.style, maskRank(less) > maskRank(more)]).toEqual([less.style, true]);
    expect(maskLabel(less)).not.toBe(maskLabel(more));
    expect(maskLabel(more)).toMatch(/shown|rounded/);
  }
  // Whatever is hidden altogether ranks above all that shows a part.
  expect(pairs.flat().every((mask) => maskRank(mask) < maskRank({ style: 'all' }))).toBe(true);
  expect(maskLabel({ style: 'all' })).toBe('nothing shown');
});

test('a step is told by its edges, the lower one in it', () => {
  const edges = ['-5', '0', '2.5', '100'];
  const names = ['<-5', '-5–0', '0–2.5', '2.5–100', '≥100'];
  fc.assert(
    fc.property(
      fc.integer({ min: -2000, max: 20_000 }).map((tenths) => tenths / 10),
      (value) => {
        const below = edges.filter((edge) => Number(edge) <= value).length;
        expect(applyMask({ style: 'step', edges }, value, column('c', 'decimal'), context)).toBe(names[below]);
      },
    ),
  );
  expect(applyMask({ style: 'step', edges: [] }, 3, column('c', 'decimal'), context)).toBe('');
});

test('what may still be asked of a masked column is a column of what is shown, collated where it is text', () => {
  const collated = column('c', 'text', { collation: 'utf8mb4_bin', maxLength: 9 });
  const asked = (mask: Mask, of = collated) => maskedColumn(of, maskAsked(mask)!);
  expect(asked({ style: 'area', count: 2 })).toMatchObject({ type: 'text', collation: 'utf8mb4_bin' });
  expect(asked({ style: 'area', count: 2 }).maxLength).toBeUndefined();
  const { collation: _none, ...plain } = collated;
  expect(asked({ style: 'area', count: 2 }, plain).collation).toBe('utf8mb4_general_ci');
  expect(asked({ style: 'year' }, column('c', 'date'))).toMatchObject({ type: 'whole number', collation: undefined });
  expect(maskAsked({ style: 'all' })).toBeNull();
});

test('only whole numbers with their check are recognised: nothing before them and nothing after', () => {
  for (const text of ['x49927398716', '49927398716x', '0'.repeat(20), '49927398716\n1'])
    expect([text, passesLuhn(text)]).toEqual([text, false]);
  const iban = 'DE89370400440532013000';
  for (const text of [`x${iban}`, `1${iban}`, `${iban}!`, iban.replace('89', '8'), 'D189370400440532013000'])
    expect([text, isIban(text)]).toEqual([text, false]);
  expect(applyMask({ style: 'card', first: 6, last: 4 }, '1234567890123456789', text, context)).toBe(
    '123456••••••6789',
  );
  expect(applyMask({ style: 'card', first: 6, last: 4 }, '12345678901234567890', text, context)).toBe('••••••');
});

test('masks say what they show in words, and show nothing of what is not of their kind', () => {
  const words = (mask: Mask) => maskLabel(mask);
  expect([
    words({ style: 'round', digits: 2 }),
    words({ style: 'round', digits: 0 }),
    words({ style: 'round', digits: -3 }),
    words({ style: 'step', edges: ['1', '2'] }),
    words({ style: 'e-mail', show: 'domain' }),
    words({ style: 'e-mail', show: 'first letter' }),
  ]).toEqual([
    '2 decimals shown',
    'rounded to 1',
    'rounded to 1000',
    'one of 3 steps shown',
    'domain shown',
    'first letter and domain shown',
  ]);
  // Five digits further on make no ZIP code of a text.
  expect(applyMask({ style: 'ZIP area' }, 'AB12345', text, context)).toBe('000');
  expect(applyMask({ style: 'initials' }, '   Ada   Lovelace   ', text, context)).toBe('A. L.');
});
