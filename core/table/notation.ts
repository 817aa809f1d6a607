import { isDate, normaliseTimestamp } from './value';

/**
 * Other ways to write dates and numbers than the one that the product keeps (ISO 8601 days, a point before the
 * decimals). `3/4/2026` is a day in April under one and in March under another, so a person says which; none is ever
 * guessed.
 */
export const notations = ['day first', 'month first', 'year first', 'decimal comma', 'decimal point'] as const;
export type Notation = (typeof notations)[number];

export const dateNotations: readonly Notation[] = ['day first', 'month first', 'year first'];
export const numberNotations: readonly Notation[] = ['decimal comma', 'decimal point'];

/** What `3/4/2026` or `1.234,5` shows of a notation, for people to choose by. */
export const notationExamples: Record<Notation, string> = {
  'day first': '24/11/2026 or 24.11.2026',
  'month first': '11/24/2026',
  'year first': '2026/11/24',
  'decimal comma': '1.234,5 or 1 234,5',
  'decimal point': "1,234.5 or 1'234.5",
};

const dayOrMonthFirst = /^(\d{1,2})([./-])(\d{1,2})\2(\d{4})(?:[ T](\d{1,2}:\d\d(?::\d\d)?))?$/;
const yearFirst = /^(\d{4})([./-])(\d{1,2})\2(\d{1,2})(?:[ T](\d{1,2}:\d\d(?::\d\d)?))?$/;
// Thousands stand in threes behind one and the same sign; the minus may be the typographic one.
const withComma = /^([-−+]?)(\d{1,3}(?:([.  '’])\d{3}(?:\3\d{3})*)?|\d+)(?:,(\d+))?$/u;
const withPoint = /^([-−+]?)(\d{1,3}(?:([,  '’])\d{3}(?:\3\d{3})*)?|\d+)(?:\.(\d+))?$/u;

/**
 * The text in our own notation (`2026-11-24`, `2026-11-24 09:30:00`, `-1234.5`); null when it is not written in this
 * one.
 */
export function fromNotation(notation: Notation, text: string): string | null {
  const plain = text.trim();
  switch (notation) {
    case 'day first':
    case 'month first': {
      const parts = dayOrMonthFirst.exec(plain);
      if (!parts) return null;
      const [day, month] = notation === 'day first' ? [parts[1]!, parts[3]!] : [parts[3]!, parts[1]!];
      return dated(parts[4]!, month, day, parts[5]);
    }
    case 'year first': {
      const parts = yearFirst.exec(plain);
      return parts && dated(parts[1]!, parts[3]!, parts[4]!, parts[5]);
    }
    case 'decimal comma':
    case 'decimal point': {
      const parts = (notation === 'decimal comma' ? withComma : withPoint).exec(plain);
      if (!parts) return null;
      const whole = parts[2]!.replaceAll(/\D/g, '');
      const sign = parts[1] === '-' || parts[1] === '−' ? '-' : '';
      return `${sign}${whole}${parts[4] === undefined ? '' : `.${parts[4]}`}`;
    }
  }
}

function dated(year: string, month: string, day: string, time: string | undefined): string | null {
  const date = `${year}-${month.padStart(2, '0')}-${day.padStart(2, '0')}`;
  if (!isDate(date)) return null;
  return time === undefined
    ? date
    : normaliseTimestamp(`${date} ${time.padStart(time.indexOf(':') === 1 ? time.length + 1 : time.length, '0')}`);
}
