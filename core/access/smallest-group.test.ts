import fc from 'fast-check';
import { expect, test } from 'vitest';
import { mergedGroups } from './smallest-group';

const counts = fc.array(fc.integer({ min: 1, max: 40 }), { maxLength: 9 });
const cases = fc.tuple(counts, fc.integer({ min: 1, max: 25 }));

test('no group under the smallest is shown or told by the rest, and no more is merged than that asks', () => {
  fc.assert(
    fc.property(cases, ([counts, smallest]) => {
      const merged = mergedGroups(counts, smallest);
      const sum = (places: Iterable<number>) => [...places].reduce((all, place) => all + counts[place]!, 0);
      const places = counts.map((_, place) => place);
      // Whoever knows the sum of all would know a single group that was merged: there are none or at least two.
      const isSafe = (of: Set<number>) =>
        places.every((place) => of.has(place) || counts[place]! >= smallest) &&
        of.size !== 1 &&
        (of.size === 0 || sum(of) >= smallest);
      if (merged === null) {
        // Even all together are too few, or there is but one and it is too small.
        expect(places.every((place) => counts[place]! < smallest) && sum(places) < smallest).toBe(true);
        return;
      }
      if (counts.length > 1) expect(isSafe(merged)).toBe(true);
      // The smallest first, and as few as are needed: no smaller set of groups by size is safe.
      const bySize = places.toSorted((a, b) => counts[a]! - counts[b]! || a - b);
      const fewest = places.concat(counts.length).find((size) => isSafe(new Set(bySize.slice(0, size))));
      if (counts.length > 1) expect(merged.size).toBe(fewest);
      else expect([...merged]).toEqual(counts.filter((count) => count < smallest).map(() => 0));
    }),
    { numRuns: 2000 },
  );
});
