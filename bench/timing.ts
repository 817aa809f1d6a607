/**
 * Milliseconds of each of several ways of doing a thing, `times` each and in turns, so that a slow spell of the machine
 * meets all alike.
 */
export async function inTurns<N extends string>(
  ways: Record<N, (i: number) => Promise<unknown>>,
  times: number,
  warmUp = 20,
): Promise<Record<N, number[]>> {
  const names = Object.keys(ways) as N[];
  const taken = Object.fromEntries(names.map((name) => [name, [] as number[]])) as Record<N, number[]>;
  for (let i = 0; i < times + warmUp; i++) {
    for (const name of i % 2 ? names : names.toReversed()) {
      const from = performance.now();
      await ways[name](i);
      if (i >= warmUp) taken[name].push(performance.now() - from);
    }
  }
  return taken;
}
