import { Router, type Request, type Response } from 'express';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { apiOf } from '../api';
import type { Services } from '../portals/services';
import { routerOf } from './mounts';

/** Every endpoint of the product, which says its own name and no more. */
const told: string[] = [];
const mounts = apiOf({ store: {} } as Services).map((mount) => ({
  ...mount,
  endpoints: Object.fromEntries(
    Object.entries(mount.endpoints).map(([name, each]) => [
      name,
      { ...each, handle: () => Promise.resolve(void told.push(`${each.method} ${mount.under}${each.path}`)) },
    ]),
  ),
}));
const addresses = mounts.flatMap(({ under, endpoints }) =>
  Object.values(endpoints).map(({ method, path }) => ({ method, path: under + path })),
);

/** Express's own router, which looks at every address. */
const plain = Router();
for (const { under, endpoints } of mounts)
  for (const { method, path, handle } of Object.values(endpoints))
    plain[method.toLowerCase() as 'get' | 'post' | 'put' | 'patch' | 'delete'](under + path, handle);

function answeredBy(router: (...args: Parameters<typeof plain>) => unknown, method: string, path: string): string[] {
  told.length = 0;
  router({ method, url: path, path } as Request, {} as Response, () => told.push('nobody'));
  return [...told];
}

const value = fc.constantFrom('x', '1', 'wells', 'a%2Fb', 'public', 'records', 'A.b');
const asked = fc
  .tuple(
    fc.constantFrom(...addresses),
    fc.array(value, { minLength: 8, maxLength: 8 }),
    fc.constantFrom('', '', '', '/', '//', '/more'),
    fc.constantFrom('as it is', 'as it is', 'in capitals', 'with another word', 'twice a slash'),
    fc.constantFrom('its own', 'its own', 'HEAD', 'POST', 'DELETE'),
  )
  .map(([{ method, path }, values, end, how, by]) => {
    let place = 0;
    const filled = path.replaceAll(/:\w+/g, () => values[place++ % values.length]!) + end;
    const changed = {
      'as it is': filled,
      'in capitals': filled.toUpperCase(),
      'with another word': filled.replace(/^\/\w+/, '/other'),
      'twice a slash': filled.replace(/^(\/\w+)\//, '$1//'),
    }[how]!;
    return { method: by === 'its own' ? method : by, path: changed };
  });

it('answers by the same endpoint as a router that looks at every address', () => {
  const ours = routerOf(mounts);
  let answered = 0;
  fc.assert(
    fc.property(asked, ({ method, path }) => {
      const found = answeredBy(ours, method, path);
      expect(found).toEqual(answeredBy(plain, method, path));
      if (found[0] !== 'nobody') answered++;
    }),
    { numRuns: 1500, seed: 20261130 },
  );
  expect(answered).toBeGreaterThan(300);
  // Each is found at its own address, or whoever was named before it.
  for (const { method, path } of addresses)
    expect(answeredBy(ours, method, path)).toEqual(answeredBy(plain, method, path));
});
