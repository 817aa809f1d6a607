import { Router, type RequestHandler } from 'express';
import type { Endpoints } from './endpoint';

/** Endpoints of one subject, and the address under which they stand. */
export interface Mount {
  under: string;
  /** The subject, as the API's document calls it. */
  subject: string;
  endpoints: Endpoints;
}

/**
 * The router of all endpoints, each under its address; of two that fit, the one that was named first answers. A router
 * looks at one address after the other, and there are hundreds: so those of one method that begin with the same word
 * and have as many parts have a router of their own. Throws where an address doesn't begin with a word.
 */
export function routerOf(mounts: readonly Mount[]): RequestHandler {
  const whole = Router();
  const alike = new Map<string, Router>();
  for (const { under, endpoints } of mounts)
    for (const { method, path, handle } of Object.values(endpoints)) {
      const address = under + path;
      if (!/^\/[a-z]/.test(address) || /[*{]/.test(address)) throw new Error(`${address} can't be found by its parts`);
      const key = keyOf(method, address);
      const own = alike.get(key) ?? Router();
      alike.set(key, own);
      for (const router of [whole, own])
        router[method.toLowerCase() as 'get' | 'post' | 'put' | 'patch' | 'delete'](address, handle);
    }
  // An address is asked what may be done there (OPTIONS) whatever the method.
  return (req, res, next) => (alike.get(keyOf(req.method, req.path)) ?? whole)(req, res, next);
}

/** What is the same of an address and what fits it: a router takes letters of any case, and a slash at the end. */
function keyOf(method: string, address: string): string {
  const parts = (address.endsWith('/') ? address.slice(0, -1) : address).split('/');
  return `${method === 'HEAD' ? 'GET' : method} ${parts.length} ${parts[1]?.toLowerCase()}`;
}
