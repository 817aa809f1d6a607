import type { RequestHandler } from 'express';

/**
 * Handlers as one, each called when the one before lets the request through. A router looks for the next that fits one
 * by one, which is work for each request; what stands before every address needs no looking for.
 */
export function inOrder(...handlers: readonly RequestHandler[]): RequestHandler {
  return (req, res, next) => {
    let at = 0;
    const go = (error?: unknown): void => {
      const handler = error === undefined || error === null ? handlers[at++] : undefined;
      if (!handler) return next(error);
      try {
        const done: unknown = handler(req, res, go);
        if (done instanceof Promise) done.catch((failed: unknown) => next(failed ?? new Error('rejected')));
      } catch (failed) {
        next(failed);
      }
    };
    go();
  };
}
