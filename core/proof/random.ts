/** A small seeded generator (mulberry32 by Tommy Ettinger, public domain): the same seed gives the same numbers. */
export class Random {
  constructor(private state: number) {}

  /** From 0 up to, not including, 1. */
  next(): number {
    this.state = (this.state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4294967296;
  }
  /** A whole number from `low` to `high`, both included. */
  int(low: number, high: number): number {
    return low + Math.floor(this.next() * (high - low + 1));
  }
  pick<T>(from: readonly T[]): T {
    return from[this.int(0, from.length - 1)]!;
  }
  chance(share: number): boolean {
    return this.next() < share;
  }
  digits(count: number): string {
    return Array.from({ length: count }, () => this.int(0, 9)).join('');
  }
  /** So many of them at most, in any order, each once. */
  sample<T>(from: readonly T[], most: number): T[] {
    const left = [...from];
    return Array.from({ length: Math.min(most, left.length) }, () => left.splice(this.int(0, left.length - 1), 1)[0]!);
  }
}
