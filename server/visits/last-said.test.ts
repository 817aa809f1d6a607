import { describe, expect, it } from 'vitest';
import { sql } from '../../core/sql/sql';
import { Assumed } from '../gate/gate';
import { LastSaid } from './last-said';

describe('what was last said', () => {
  const of = (rows: number | null): Assumed => {
    const assumed = Assumed.of('print', sql`1`);
    if (rows === null) return assumed;
    try {
      assumed.settle(rows);
    } catch {
      // That it didn't hold is what is wanted.
    }
    return assumed;
  };
  /** How often of so many requests it was assumed, when each time that came of it. */
  const assumedOf = (said: LastSaid<string>, times: number, rows: number | null) => {
    let assumed = 0;
    for (let i = 0; i < times; i++) {
      if (said.assume('a', () => ({ assumed: of(rows) }))) assumed++;
      said.note('a', 'line');
    }
    return assumed;
  };

  it('is tried less and less where it never holds, and again where it does', () => {
    const said = new LastSaid<string>(10);
    said.note('a', 'line');
    expect(assumedOf(said, 100, 1)).toBe(100);
    // Of an open one nothing is known.
    expect(assumedOf(said, 100, null)).toBe(100);
    expect(assumedOf(said, 1000, 0)).toBeLessThan(25);
    expect(assumedOf(said, 1000, 1)).toBeGreaterThan(900);
  });

  it('is kept of so many, the latest', () => {
    const said = new LastSaid<string>(2);
    for (const by of ['a', 'b', 'a', 'c']) said.note(by, by);
    const known = ['a', 'b', 'c'].map((by) => said.assume(by, (line) => ({ line, assumed: of(null) }))?.line);
    expect(known).toEqual(['a', undefined, 'c']);
  });
});
