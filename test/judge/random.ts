import { Random as Seeded } from '../../core/proof/random';

/** Chance for the judge's cases, which can all be played again from their seed. */
export class Random extends Seeded {
  /** From 0 up to, not including, the limit. */
  below(limit: number): number {
    return this.int(0, limit - 1);
  }
  some<T>(items: readonly T[], share = 0.5): T[] {
    return items.filter(() => this.chance(share));
  }
}
