import type { Outcome } from './caller';

/** What one person changes again and again, and what may have held at a moment, by what they were told. */
export class Changing<T> {
  private readonly turns: { value: T; sent: number; known: number }[];

  constructor(first: T) {
    this.turns = [{ value: first, sent: -Infinity, known: -Infinity }];
  }

  /** Makes a change: what it is, and what was told of it. */
  async to(value: T, change: () => Promise<Outcome>): Promise<Outcome> {
    const turn = { value, sent: performance.now(), known: Infinity };
    this.turns.push(turn);
    const outcome = await change();
    if (outcome === 'done') turn.known = performance.now();
    if (outcome === 'denied') this.turns.splice(this.turns.indexOf(turn), 1);
    return outcome;
  }

  /** What was acknowledged last. */
  get last(): T {
    return this.turns.findLast(({ known }) => known < Infinity)!.value;
  }

  /** What may have held from one moment to another: nothing that was surely over before, or surely not begun. */
  possible(from: number, to: number): T[] {
    const certain = this.turns.findLastIndex(({ known }) => known <= from);
    return this.turns.slice(certain).flatMap(({ value, sent }) => (sent <= to ? [value] : []));
  }
}
