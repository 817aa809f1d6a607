import { setTimeout as sleep } from 'node:timers/promises';

/** What is asked of the product again and again, by somebody who remembers what they were told. */
export interface Stream {
  name: string;
  /** Whether each turn is one request, so that how long nothing was acknowledged says how long people waited. */
  isSteady: boolean;
  /** Once more; it says false where nothing was told, so that one waits a little before the next. */
  turn(): Promise<boolean>;
  /** What stands in the end that was not told, or was told and doesn't stand, as sentences. */
  judge(): Promise<string[]>;
  /** How much of what it did. */
  counts(): Record<string, number>;
}

/** Runs streams side by side, notes what is wrong while they run, and how long nothing was acknowledged. */
export class Streams {
  private stopped = false;
  private readonly wrong = new Map<string, number>();
  /** When each stream was last told that something is done, and the longest times between since the last look. */
  private readonly beats = new Map<string, { last: number; longest: number }>();
  private going: Promise<unknown> = Promise.resolve();

  constructor(private readonly all: readonly Stream[]) {}

  start(): void {
    this.going = Promise.all(this.all.map((stream) => this.run(stream)));
  }

  async stop(): Promise<void> {
    this.stopped = true;
    await this.going;
  }

  private async run(stream: Stream): Promise<void> {
    const beat = { last: performance.now(), longest: 0 };
    this.beats.set(stream.name, beat);
    while (!this.stopped) {
      try {
        if (await stream.turn()) {
          const now = performance.now();
          beat.longest = Math.max(beat.longest, now - beat.last);
          beat.last = now;
        } else await sleep(20);
      } catch (error) {
        if (!(error instanceof Wrong)) throw error;
        const sentence = `${stream.name}: ${error.message}`;
        this.wrong.set(sentence, (this.wrong.get(sentence) ?? 0) + 1);
      }
    }
  }

  /** The longest time, in milliseconds, that each steady stream waited since this was asked the last time. */
  pauses(): { name: string; longest: number }[] {
    return this.all.flatMap(({ name, isSteady }) => {
      const beat = this.beats.get(name)!;
      const longest = Math.max(beat.longest, performance.now() - beat.last);
      beat.longest = 0;
      return isSteady ? [{ name, longest }] : [];
    });
  }

  /** How much was found wrong while they ran. */
  get noted(): number {
    return this.wrong.size;
  }

  /** All that is wrong, once nothing goes on any more. */
  async judge(): Promise<string[]> {
    const sentences = [...this.wrong].map(([what, times]) => (times === 1 ? what : `${what} (${times} times)`));
    for (const stream of this.all) sentences.push(...(await stream.judge()).map((each) => `${stream.name}: ${each}`));
    return sentences;
  }

  counts(): Record<string, Record<string, number>> {
    return Object.fromEntries(this.all.map((stream) => [stream.name, stream.counts()]));
  }
}

/** An answer that must not have been given. */
export class Wrong extends Error {}
