import { AsyncLocalStorage } from 'node:async_hooks';

/**
 * Who waits for the statements that are run: when they go, what is only read for them is stopped. Empty in jobs and at
 * the start.
 */
export const asker = new AsyncLocalStorage<AbortSignal>();

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
export async function whileAsked<T>(stop: () => Promise<void>, use: () => Promise<T>): Promise<T> {
  const signal = asker.getStore();
  if (!signal) return use();
  if (signal.aborted) throw new AskerGone();
  let stopping: Promise<void> | null = null;
  const onGone = () => {
    stopping = stop().catch(() => undefined);
  };
  signal.addEventListener('abort', onGone, { once: true });
  try {
    return await use();
  } catch (error) {
    throw signal.aborted ? new AskerGone() : error;
  } finally {
    signal.removeEventListener('abort', onGone);
    await stopping;
  }
}
