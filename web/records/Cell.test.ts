import { describe, expect, it } from 'vitest';
import { cellText } from './Cell';

/**
 * What people read in a cell, with the signs that the locale of whoever runs this has between groups and before
 * decimals (ECMA-402, formatToParts).
 */
const sign = (type: string) =>
  new Intl.NumberFormat().formatToParts(1_234_567.5).find((part) => part.type === type)!.value;
const here = (text: string) => text.replaceAll(/[,.]/g, (each) => (each === ',' ? sign('group') : sign('decimal')));

describe('a cell', () => {
  it('writes amounts with their groups and every digit, and what identifies as it is', () => {
    expect([615_598, 1998, 12, -45_000].map((value) => cellText('whole number', value))).toEqual(
      ['615,598', '1998', '12', '-45,000'].map(here),
    );
    expect(cellText('whole number', 18_446_744_073_709_551_615n)).toBe(here('18,446,744,073,709,551,615'));
    expect(cellText('whole number', 615_598, true)).toBe('615598');
    expect([
      cellText('decimal', '153784133.79'),
      cellText('decimal', '0.50'),
      cellText('decimal', '12345678901234567890.0123456789'),
    ]).toEqual(['153,784,133.79', '0.50', '12,345,678,901,234,567,890.0123456789'].map(here));
    expect([53.41, 0.1, 12_345.25, 0, 1e-7, 1e21].map((value) => cellText('number', value))).toEqual(
      ['53.41', '0.1', '12,345.25', '0', '1e-7', '1e+21'].map(here),
    );
  });

  it('writes what is no number as it was typed, as long as it is on its way', () => {
    expect([
      cellText('decimal', '12,5'),
      cellText('decimal', 'a lot'),
      cellText('whole number', '7 or 8'),
      cellText('number', '1e'),
    ]).toEqual(['12,5', 'a lot', '7 or 8', '1e']);
  });

  it('writes the rest as people read it', () => {
    expect([
      cellText('yes/no', true),
      cellText('several choices', ['a', 'b']),
      cellText('date', null),
      cellText('other', '3 mons'),
    ]).toEqual(['Yes', 'a, b', '', '3 mons']);
    expect(cellText('date', '2026-11-24')).toMatch(/24.*2026|2026.*24/);
  });
});
