/** Whoever waits for an answer: when they go, what is only read for them is stopped. */
export class Asker {
  private readonly running = new Set<() => void>();
  private gone = false;

  get isGone(): boolean {
    return this.gone;
  }

  leave(): void {
    this.gone = true;
    for (const stop of this.running) stop();
  }

  /** Has `stop` called when they go, until what is given back is called. */
  whenGone(stop: () => void): () => void {
    this.running.add(stop);
    return () => this.running.delete(stop);
  }
}

/** By the request. */
const askers = new WeakMap<object, Asker>();

/** Notes who waits for what a request only reads. */
export function askedFor(request: object, asker: Asker): void {
  askers.set(request, asker);
}

/** Who waits for a request; nobody where it is brought to its end whoever goes. */
export const askerOf = (request: object): Asker | undefined => askers.get(request);

/** Whoever asked is gone, so the statement was stopped. There is nobody to tell. */
export class AskerGone extends Error {
  constructor() {
    super('whoever asked is gone');
  }
}

/**
 * Runs statements on a connection and has them stopped when the asker goes. `stop` tells the database to end what runs
 * there; it is waited for before the connection is anybody else's, so that it never ends another's statement.
 */
export async function whileAsked<T>(
  asker: Asker | undefined,
  stop: () => Promise<void>,
  use: () => Promise<T>,
): Promise<T> {
  if (!asker) return use();
  if (asker.isGone) throw new AskerGone();
  let stopping: Promise<void> | null = null;
  const over = asker.whenGone(() => {
    stopping = stop().catch(() => undefined);
  });
  try {
    return await use();
  } catch (error) {
    throw asker.isGone ? new AskerGone() : error;
  } finally {
    over();
    await stopping;
  }
}
