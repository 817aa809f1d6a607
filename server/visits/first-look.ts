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

/**
 * Does work for a request once, however often that is looked at, and gives what came of it again; `of` is what it was
 * done for, and for another it is done anew.
 */
export function onceForEach<T>(): (req: Request, of: object, work: () => Promise<T>) => Promise<T> {
  const done = new WeakMap<Request, { of: string; came: Promise<T> }>();
  return (req, of, work) => {
    const name = JSON.stringify(of);
    const known = done.get(req);
    if (known?.of === name) return known.came;
    const came = work();
    done.set(req, { of: name, came });
    return came;
  };
}
