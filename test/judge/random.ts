/** A small seeded source of chance (mulberry32, public domain), so that every case can be played again from its seed. */
export class Random {
  constructor(private state: number) {}

  next(): number {
    this.state = (this.state + 0x6d2b79f5) | 0;
    let t = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  }
  below(limit: number): number {
    return Math.floor(this.next() * limit);
  }
  chance(share: number): boolean {
    return this.next() < share;
  }
  pick<T>(items: readonly T[]): T {
    return items[this.below(items.length)]!;
  }
  some<T>(items: readonly T[], share = 0.5): T[] {
    return items.filter(() => this.chance(share));
  }
}
