/**
 * Which groups of a figure are merged into "others" so that no group under the smallest size is shown. If the others
 * would be one group alone, or would still be too few, the next smallest joins them. Gives the places of the merged
 * groups; null when even all together are too few, so that nothing may be shown.
 */
export function mergedGroups(counts: readonly number[], smallest: number): Set<number> | null {
  const bySize = counts
    .map((count, place) => ({ count, place }))
    .toSorted((a, b) => a.count - b.count || a.place - b.place);
  const merged = new Set<number>();
  let total = 0;
  for (const { count, place } of bySize) {
    const enough = merged.size !== 1 && total >= smallest;
    if (count >= smallest && (merged.size === 0 || enough)) break;
    merged.add(place);
    total += count;
  }
  return total < smallest && merged.size > 0 ? null : merged;
}
