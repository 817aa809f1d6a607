import type { Assumed } from '../gate/gate';

/** So often at most it isn't tried again after it did not hold, as with a list that is always empty. */
const longestPause = 64;

interface Said<Line> {
  line: Line;
  /** What was last assumed by it. */
  tried: Assumed | null;
  /** How often one after the other it did not hold. */
  misses: number;
  pause: number;
}

/**
 * What our own tables last said of those who come, by what they come with: assumed for the next time. A bounded number;
 * those who came longest ago go first.
 */
export class LastSaid<Line> {
  private readonly said = new Map<string, Said<Line>>();

  constructor(private readonly most: number) {}

  note(by: string, line: Line): void {
    const before = this.said.get(by);
    this.said.delete(by);
    this.said.set(by, { tried: null, misses: 0, pause: 0, ...before, line });
    if (this.said.size > this.most) this.said.delete(this.said.keys().next().value!);
  }

  forget(by: string): void {
    this.said.delete(by);
  }

  /** What can be assumed of whoever comes by this, as `assume` makes it; null where nothing is to be. */
  assume<T extends { assumed: Assumed }>(by: string, assume: (line: Line) => T | null): T | null {
    const said = this.said.get(by);
    if (!said) return null;
    const { tried } = said;
    if (tried?.failed) {
      said.misses++;
      said.pause = Math.min(longestPause, 2 ** said.misses);
    } else if (tried?.holds) said.misses = 0;
    said.tried = null;
    if (said.pause > 0) {
      said.pause--;
      return null;
    }
    const made = assume(said.line);
    said.tried = made?.assumed ?? null;
    return made;
  }
}
