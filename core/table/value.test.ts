import { describe, expect, it } from 'vitest';
import { column } from '../../test/wells';
import { isDate, normaliseTimestamp, parseValue, sameValue } from './value';

const value = (type: Parameters<typeof column>[1], input: unknown, more: Parameters<typeof column>[2] = {}) => {
  const parsed = parseValue(column('x', type, more), input);
  return parsed.ok ? parsed.value : `! ${parsed.problem}`;
};

describe('values that people type', () => {
  it("are read by the column's type, exactly", () => {
    expect(value('decimal', '42,5', { precision: 5, scale: 2 })).toBe('42.50');
    expect(value('whole number', '9007199254740993')).toBe(9007199254740993n);
    expect(value('date and time', '2026-11-24T09:30')).toBe('2026-11-24 09:30:00');
    expect(value('several choices', ['b', 'a'], { choices: ['a', 'b'] })).toEqual(['a', 'b']);
    expect(value('yes/no', 'false')).toBe(false);
    expect(value('text', '')).toBe(null);
    expect(value('text', '', { nullable: false })).toBe('');
  });

  it.each([
    ['whole number', '1.5', {}, 'whole number'],
    ['whole number', '256', { min: '0', max: '255' }, 'between 0 and 255'],
    ['decimal', '1.234', { precision: 5, scale: 2 }, '2 digits after'],
    ['decimal', '1234', { precision: 5, scale: 2 }, '3 digits before'],
    ['date', '2026-02-29', {}, 'not a date'],
    ['date', '24.11.2026', {}, 'not a date'],
    ['date and time', '2026-11-24 25:00', {}, 'not a date and time'],
    ['text', 'abcd', { maxLength: 3 }, '4 characters; 3 fit'],
    ['text', 'a\0b', {}, "can't be kept"],
    ['text', 7, {}, 'must be text'],
    ['one choice', 'c', { choices: ['a', 'b'] }, 'Choose one of: a, b'],
    ['several choices', 'a,c', { choices: ['a', 'b'] }, '"c" is not among'],
    ['whole number', '', { nullable: false }, 'needs a value'],
    ['other', 'x', {}, "can't be changed"],
    ['number', 'NaN', {}, 'not a number'],
  ] as [Parameters<typeof column>[1], unknown, Parameters<typeof column>[2], string][])(
    'refuses %s %s',
    (type, input, more, words) => {
      expect(value(type, input, more)).toContain(words);
    },
  );

  it('knows the calendar', () => {
    expect(['2024-02-29', '2000-02-29', '1900-02-29', '2026-04-31', '0999-01-01'].map(isDate)).toEqual([
      true,
      true,
      false,
      false,
      false,
    ]);
    expect(normaliseTimestamp('2026-11-24 09:30:00.500000')).toBe('2026-11-24 09:30:00.5');
    expect(sameValue(['a'], ['a']) && !sameValue('a', 'A') && sameValue(9007199254740993n, '9007199254740993')).toBe(
      true,
    );
  });
});
