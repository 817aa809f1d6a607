/** Numbers that look like chance and are the same for the same seed, so that a run can be done again as it was. */
export class Chance {
  constructor(private state: number) {}

  /** From 0 up to 1, by the mulberry32 generator (public domain, T. Ettinger). */
  next(): number {
    this.state = (this.state + 0x6d2b79f5) | 0;
    let t = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  }

  /** A whole number from `low` to `high`, both in it. */
  whole(low: number, high: number): number {
    return low + Math.floor(this.next() * (high - low + 1));
  }

  pick<T>(all: readonly T[]): T {
    return all[this.whole(0, all.length - 1)]!;
  }

  /** So many of them at most, in any order, each once. */
  some<T>(all: readonly T[], most: number): T[] {
    const left = [...all];
    return Array.from(
      { length: Math.min(most, left.length) },
      () => left.splice(this.whole(0, left.length - 1), 1)[0]!,
    );
  }
}
