import fc from 'fast-check';
import { expect, test } from 'vitest';
import { fromPlain, plainText } from './plain-text';
import { splitChoices } from './split-choices';
import { readDay, readMoment } from './typed-day';
import { parseValue, sameValue, type Value } from './value';
import type { Column } from './catalogue';

const day = fc
  .date({ min: new Date('1000-01-01'), max: new Date('9999-12-31'), noInvalidDate: true })
  .map((date) => date.toISOString().slice(0, 10));

test('a day is read back from how Intl writes it, whatever the order and the signs between', () => {
  // ECMA-402 writes the days; nothing here knows how a locale does it but the order that its parts come in.
  const locales = { 'de-DE': 'dmy', 'en-GB': 'dmy', 'en-US': 'mdy', 'nl-NL': 'dmy', 'sv-SE': 'ymd', 'cs-CZ': 'dmy' };
  fc.assert(
    fc.property(day, fc.constantFrom(...Object.entries(locales)), (iso, [locale, order]) => {
      const written = new Intl.DateTimeFormat(locale, {
        day: 'numeric',
        month: 'numeric',
        year: 'numeric',
        timeZone: 'UTC',
      }).format(new Date(`${iso}T00:00:00Z`));
      expect(readDay(written, order as 'dmy')).toBe(iso);
      expect(readDay(iso, order as 'dmy')).toBe(iso);
      expect(readMoment(`${written}, 9:05`, order as 'dmy')).toBe(`${iso} 09:05:00`);
    }),
  );
});

test('what is no day is not guessed', () => {
  expect([
    readDay('31.02.2026', 'dmy'),
    readDay('24.11.26', 'dmy'),
    readDay('11/24/2026', 'dmy'),
    readDay('24', 'dmy'),
  ]).toEqual([null, null, null, null]);
  expect(readMoment('24.11.2026 25:00', 'dmy')).toBeNull();
  expect(readMoment('2026-11-24T09:30', 'mdy')).toBe('2026-11-24 09:30:00');
});

test('what is shown as text to be changed is read back as the same value', () => {
  const column = (part: Partial<Column>): Column => ({
    name: 'c',
    type: 'text',
    nativeType: '',
    nullable: true,
    hasDefault: false,
    automatic: false,
    unique: false,
    ...part,
  });
  const choices = ['new', 'new, but late', 'late', 'x,y'];
  const cases: fc.Arbitrary<[Column, Value]> = fc.oneof(
    fc.tuple(fc.constant(column({ type: 'date' })), day),
    fc.tuple(fc.constant(column({ type: 'yes/no' })), fc.boolean()),
    fc.tuple(fc.constant(column({ type: 'whole number' })), fc.maxSafeInteger()),
    fc.tuple(
      fc.constant(column({ type: 'text' })),
      fc.string().filter((text) => text !== '' && text.isWellFormed() && !text.includes('\0')),
    ),
    fc.tuple(fc.constant(column({ type: 'one choice', choices })), fc.constantFrom(...choices)),
    fc.tuple(fc.constant(column({ type: 'several choices', choices })), fc.subarray(choices, { minLength: 1 })),
    fc.tuple(fc.constant(column({ type: 'several choices', choices, nullable: false })), fc.subarray(choices)),
    fc.tuple(fc.constant(column({ type: 'date' })), fc.constant(null)),
  );
  fc.assert(
    fc.property(cases, ([of, value]) => {
      const read = parseValue(of, fromPlain(of, plainText(value)));
      expect(read.ok && sameValue(read.value, value)).toBe(true);
    }),
  );
  expect(splitChoices('late , nobody,,new', choices)).toEqual(['late', 'nobody', 'new']);
});
