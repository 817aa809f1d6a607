import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { collationKey, compareText, isComparableCollation, likeText } from './collation';

/** Few signs, so that texts meet often: of one, two and four bytes, letters that general_ci holds equal, blanks. */
const text = fc.array(fc.constantFrom('a', 'A', 'á', 'b', ' ', '\t', 'ß', '\uffff', '😀', '𝄞'), { maxLength: 6 });
const known = ['utf8mb4_general_ci', 'utf8mb4_bin', 'utf8mb3_general_ci', 'utf8mb3_bin', 'C'];

describe('texts', () => {
  it('are compared by the collations that are known, and by no other', () => {
    expect(known.map(isComparableCollation)).toEqual(known.map(() => true));
    for (const other of ['utf8mb4_swedish_ci', 'latin1_bin', 'POSIX', ''])
      expect([
        isComparableCollation(other),
        ...[() => compareText(other, 'a', 'b'), () => collationKey(other, 'a'), () => likeText(other, 'a', 'a')].map(
          (ask) => {
            try {
              return ask();
            } catch (error) {
              return (error as Error).message;
            }
          },
        ),
      ]).toEqual([false, ...Array.from({ length: 3 }, () => `the collation ${other} is not known in memory`)]);
  });

  it('are in the order of their bytes in C, as PostgreSQL documents it; in …_bin as if they ended in blanks', () => {
    fc.assert(
      fc.property(text, text, (one, other) => {
        const [a, b] = [one.join(''), other.join('')];
        expect(Math.sign(compareText('C', a, b))).toBe(Buffer.compare(Buffer.from(a), Buffer.from(b)));
        const padded = (each: string[], length: number) =>
          Buffer.from([...each, ...Array.from({ length: length - each.length }, () => ' ')].join(''));
        const length = Math.max(one.length, other.length);
        const byBytes = Buffer.compare(padded(one, length), padded(other, length));
        expect(Math.sign(compareText('utf8mb4_bin', a, b))).toBe(byBytes);
      }),
      { numRuns: 1000 },
    );
  });

  it('have one key where they are equal, and only there', () => {
    fc.assert(
      fc.property(text, text, fc.constantFrom(...known), (one, other, collation) => {
        const [a, b] = [one.join(''), other.join('')];
        expect(collationKey(collation, a) === collationKey(collation, b)).toBe(compareText(collation, a, b) === 0);
        expect(Math.sign(compareText(collation, a, b))).toBe(-Math.sign(compareText(collation, b, a)) + 0);
      }),
      { numRuns: 1000 },
    );
    // Beyond the first plane general_ci holds all signs equal (MariaDB's WEIGHT_STRING says so too).
    expect(compareText('utf8mb4_general_ci', '😀', '𝄞')).toBe(0);
    expect(compareText('utf8mb4_general_ci', '😀b', '𝄞a')).toBeGreaterThan(0);
    expect(compareText('utf8mb4_general_ci', '\uffff', '😀')).not.toBe(0);
  });

  it('are like a pattern as a regular expression says', () => {
    const part = fc.constantFrom('a', 'b', 'A', '%', '_', '\\%', '\\_', '\\\\', '\\a', '😀', ' ');
    const subject = fc.array(fc.constantFrom('a', 'b', 'A', '%', '_', '\\', '😀', ' '), { maxLength: 7 });
    fc.assert(
      fc.property(subject, fc.array(part, { maxLength: 6 }), fc.boolean(), (signs, parts, isBinary) => {
        const expression = parts
          .map((each) =>
            each === '%'
              ? '[^]*'
              : each === '_'
                ? '[^]'
                : each.slice(each.length > 1 && each.startsWith('\\') ? 1 : 0).replace(/[\\%_]/, '\\$&'),
          )
          .join('')
          .replaceAll(/\\([%_])/g, '$1');
        const wanted = new RegExp(`^${expression}$`, isBinary ? 'u' : 'ui').test(signs.join(''));
        const collation = isBinary ? 'utf8mb4_bin' : 'utf8mb4_general_ci';
        expect([signs, parts, likeText(collation, signs.join(''), parts.join(''))]).toEqual([signs, parts, wanted]);
      }),
      { numRuns: 3000 },
    );
    // A single \ at the end is itself.
    expect([likeText('C', 'a\\', 'a\\'), likeText('C', 'a', 'a\\'), likeText('C', 'ab', 'a')]).toEqual([
      true,
      false,
      false,
    ]);
  });
});
