import { describe, expect, it } from 'vitest';
import { column } from '../../test/wells';
import { applyMask, maskRank, maskTakes } from './mask';

describe('masks', () => {
  it('keep the last characters behind dots whose number says nothing of the length', () => {
    expect(applyMask({ style: 'keep last', count: 4 }, 'GB29ALDR60161331926819')).toBe('••••••6819');
    expect(applyMask({ style: 'keep last', count: 4 }, '56819')).toBe('••••••6819');
    expect(applyMask({ style: 'keep last', count: 4 }, '6819')).toBe('••••••');
    expect(applyMask({ style: 'keep last', count: 1 }, 'a😀')).toBe('••••••😀');
    expect(applyMask({ style: 'keep last', count: 2 }, null)).toBeNull();
  });

  // 45 CFR 164.514(b)(2)(i)(C): all elements of dates except year, for dates directly related to an individual.
  it('leave the year of a date and nothing else of it', () => {
    for (const date of ['1984-01-01', '1984-06-17', '1984-12-31', '1984-02-29 23:59:59']) expect(applyMask({ style: 'year' }, date)).toBe('1984');
  });

  it('hide everything, even whether there is something', () => {
    expect(applyMask({ style: 'all' }, null)).toBe(applyMask({ style: 'all' }, 'anything'));
  });

  it('rank by how little they reveal', () => {
    const ranks = [maskRank({ style: 'all' }), maskRank({ style: 'keep last', count: 1 }), maskRank({ style: 'keep last', count: 4 }), maskRank({ style: 'year' })];
    expect([...ranks].sort((a, b) => b - a)).toEqual(ranks);
    expect(maskTakes({ style: 'year' }, column('x', 'text'))).toBe(false);
  });
});
