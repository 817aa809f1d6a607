import { Router } from 'express';
import type { Endpoints } from './endpoint';

/** Endpoints of one subject, and the address under which they stand. */
export interface Mount {
  under: string;
  /** The subject, as the API's document calls it. */
  subject: string;
  endpoints: Endpoints;
}

/** The router of all endpoints, each under its address; of two that fit, the one that was named first answers. */
export function routerOf(mounts: readonly Mount[]): Router {
  const router = Router();
  for (const { under, endpoints } of mounts)
    for (const { method, path, handle } of Object.values(endpoints))
      router[method.toLowerCase() as 'get' | 'post' | 'put' | 'patch' | 'delete'](under + path, handle);
  return router;
}
