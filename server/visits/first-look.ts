import type { Request } from 'express';

/** Tells whether a request is looked at for the first time: one that was assumed may be looked at again. */
export function firstLook(): (req: Request) => boolean {
  const seen = new WeakSet<Request>();
  return (req) => {
    const isFirst = !seen.has(req);
    seen.add(req);
    return isFirst;
  };
}
