import { createHmac } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { column } from '../../test/wells';
import type { ColumnType } from '../table/catalogue';
import type { Value } from '../table/value';
import { applyMask, maskRank, maskTakes, type Mask, type MaskContext } from './mask';
import { isIban, passesLuhn } from './recognise';

const key = new Uint8Array(20).fill(0x0b);
const context: MaskContext = {
  today: '2026-11-23',
  standIn: { key, hmac: (text) => createHmac('sha256', key).update(text, 'utf8').digest('hex') },
};
const masked = (mask: Mask, value: Value, type: ColumnType = 'text') =>
  applyMask(mask, value, column('x', type), context);

describe('masks of text', () => {
  it('keep ends behind dots whose number says nothing of the length', () => {
    expect(masked({ style: 'keep last', count: 4 }, 'GB29ALDR60161331926819')).toBe('••••••6819');
    expect(masked({ style: 'keep last', count: 4 }, '56819')).toBe('••••••6819');
    expect(masked({ style: 'keep last', count: 4 }, '6819')).toBe('••••••');
    expect(masked({ style: 'keep last', count: 1 }, 'a😀')).toBe('••••••😀');
    expect(masked({ style: 'keep first', count: 2 }, 'AF-0231')).toBe('AF••••••');
    expect(masked({ style: 'keep both ends', first: 2, last: 2 }, 'AF-0231')).toBe('AF••••••31');
    expect(masked({ style: 'keep both ends', first: 4, last: 3 }, 'AF-0231')).toBe('••••••');
    expect(masked({ style: 'keep last', count: 3, separators: true }, '01632 960 417')).toBe('••••• ••• 417');
    expect(masked({ style: 'keep last', count: 2 }, null)).toBeNull();
  });

  // PCI DSS v4.0.1, requirement 3.4.1: the BIN and the last four digits are the most that may be displayed.
  it('show at most the first six and the last four of a card number', () => {
    expect(masked({ style: 'card', first: 6, last: 4 }, '4111 1111 1111 1111')).toBe('411111••••••1111');
    expect(masked({ style: 'card', first: 0, last: 4 }, '378282246310005')).toBe('••••••0005');
    for (const digits of ['4111111111', '123456789012', '12345678901234567890', 'none'])
      expect(masked({ style: 'card', first: 6, last: 4 }, digits)).toBe('••••••');
  });

  it('show of an address its domain, of a name its initials, of a postcode its start', () => {
    expect(masked({ style: 'e-mail', show: 'first letter' }, 'rowan@example.org')).toBe('r•••@example.org');
    expect(masked({ style: 'e-mail', show: 'domain' }, '"a@b"@example.org')).toBe('•••@example.org');
    for (const none of ['rowan', '@example.org', ''])
      expect(masked({ style: 'e-mail', show: 'domain' }, none)).toBe('••••');
    expect(masked({ style: 'initials' }, ' Rowan  Tarn ')).toBe('R. T.');
    expect(masked({ style: 'area', count: 3 }, 'AF1 4QT')).toBe('AF1');
    expect(masked({ style: 'area', count: 3 }, 'AF1')).toBe('••••');
  });

  // 45 CFR 164.514(b)(2)(i)(B): the first three digits of a ZIP code, and 000 where 20,000 people or fewer live.
  it('show three digits of a ZIP code, and 000 for small areas', () => {
    for (const [code, shown] of [
      ['90210', '902'],
      ['90210-1234', '902'],
      ['03601', '000'],
      ['89399', '000'],
      ['902', '000'],
      ['AB123', '000'],
    ])
      expect(masked({ style: 'ZIP area' }, code!)).toBe(shown);
    expect(masked({ style: 'ZIP area', small: ['902'] }, '90210')).toBe('000');
  });
});

describe('masks of dates', () => {
  // 45 CFR 164.514(b)(2)(i)(C): all elements of dates except year, and all ages over 89 as one category of 90 or older.
  it('leave the year, the month or the age', () => {
    for (const date of ['1984-01-01', '1984-06-17', '1984-12-31', '1984-02-29 23:59:59'])
      expect(masked({ style: 'year' }, date, 'date')).toBe('1984');
    expect(masked({ style: 'month' }, '1984-06-17', 'date')).toBe('1984-06');
    for (const [birth, age] of [
      ['1985-11-23', '41'],
      ['1985-11-24', '40'],
      ['1937-11-23', '89'],
      ['1936-11-24', '89'],
      ['1936-11-23', '90+'],
      ['1900-01-01', '90+'],
      ['2030-01-01', '0'],
    ])
      expect(masked({ style: 'age' }, birth!, 'date')).toBe(age);
  });
});

describe('masks of amounts', () => {
  it('show the step or the rounded amount, exactly', () => {
    expect(masked({ style: 'step', size: '250' }, '250.00', 'decimal')).toBe('250–500');
    expect(masked({ style: 'step', size: '250' }, '249.999999999999999999', 'decimal')).toBe('0–250');
    expect(masked({ style: 'step', size: '0.5' }, '-0.10', 'decimal')).toBe('-0.5–0.0');
    expect(
      ['5', '10', '99', '100'].map((value) => masked({ style: 'step', edges: ['10', '100'] }, value, 'decimal')),
    ).toEqual(['<10', '10–100', '10–100', '≥100']);
    expect(masked({ style: 'round', digits: 2 }, '53.405', 'decimal')).toBe('53.41');
    expect(masked({ style: 'round', digits: 2 }, '-0.001', 'decimal')).toBe('0.00');
    expect(masked({ style: 'round', digits: -2 }, 1250, 'whole number')).toBe('1300');
  });
});

describe('stand-ins', () => {
  // RFC 4231 section 4.2: HMAC-SHA-256 of "Hi There" under twenty bytes 0x0b begins with b0344c61d8.
  it("are the start of the HMAC, and nothing without the portal's key", () => {
    expect(masked({ style: 'stand-in' }, 'Hi There')).toBe('#b0344c61d8');
    expect(applyMask({ style: 'stand-in' }, 'Hi There', column('x', 'text'), { ...context, standIn: null })).toBe(
      '••••',
    );
  });
});

describe('every mask', () => {
  it('with nothing to show hides even whether there is something', () => {
    expect(masked({ style: 'all' }, null)).toBe(masked({ style: 'all' }, 'anything'));
  });

  it('ranks by how little it reveals', () => {
    const families: Mask[][] = [
      [
        { style: 'all' },
        { style: 'stand-in' },
        { style: 'e-mail', show: 'domain' },
        { style: 'keep last', count: 1 },
        { style: 'keep last', count: 1, separators: true },
        { style: 'keep last', count: 4 },
      ],
      [{ style: 'all' }, { style: 'age' }, { style: 'year' }, { style: 'month' }],
      [
        { style: 'all' },
        { style: 'step', size: '1000' },
        { style: 'step', size: '10' },
        { style: 'round', digits: -2 },
        { style: 'round', digits: 2 },
      ],
      [
        { style: 'keep both ends', first: 1, last: 2 },
        { style: 'keep last', count: 4 },
        { style: 'card', first: 0, last: 4 },
        { style: 'card', first: 6, last: 4 },
      ],
    ];
    for (const family of families) expect(family.map(maskRank)).toEqual(family.map(maskRank).toSorted((a, b) => b - a));
    expect(maskTakes({ style: 'year' }, column('x', 'text'))).toBe(false);
  });
});

describe('numbers with a check', () => {
  // ISO/IEC 7812-1 annex B and the examples of the IBAN registry for ISO 13616, as commonly quoted; written here from
  // memory.
  it('are recognised, and with any one digit changed are not', () => {
    for (const number of ['49927398716', '4111 1111 1111 1111', '378282246310005', '5500-0000-0000-0004']) {
      expect(passesLuhn(number)).toBe(true);
      const digits = number.replaceAll(/[ -]/g, '');
      for (let i = 0; i < digits.length; i++)
        expect(passesLuhn(digits.slice(0, i) + ((Number(digits[i]) + 1) % 10) + digits.slice(i + 1))).toBe(false);
    }
    for (const iban of [
      'GB29 NWBK 6016 1331 9268 19',
      'DE89370400440532013000',
      'FR1420041010050500013M02606',
      'NO9386011117947',
    ]) {
      expect(isIban(iban)).toBe(true);
      expect(isIban(iban.replace(/\d$/, (digit) => String((Number(digit) + 1) % 10)))).toBe(false);
    }
    for (const text of ['', 'GB29', '0', 'x1234567890123', '4992739871x'])
      expect([isIban(text), passesLuhn(text)]).toEqual([false, false]);
  });
});
