import type { RequestHandler } from 'express';
import { Op } from 'sequelize';
import { unknownAddress } from '../http/problems';
import { Portal } from '../store/models';

/** So long what was read of the portals' own addresses is gone by, in ms. */
const fresh = 2000;

/** What is asked for at a portal's own address, beside the portal itself. */
const shared = [/^\/assets\//, /^\/favicon\.svg$/];

/**
 * Portals at addresses of their own: such an address leads to its portal and to nothing else of the installation, and
 * the portal's pages at the installation's address lead there.
 */
export function ownAddresses(): RequestHandler {
  let last: Awaited<ReturnType<typeof withAddress>> = [];
  let read: { at: number; portals: Promise<typeof last> } | null = null;
  const portals = () => {
    // While our database is away, what was known last holds: what needs it says so by itself.
    if (!read || Date.now() - read.at > fresh)
      read = {
        at: Date.now(),
        portals: withAddress().then(
          (found) => (last = found),
          () => last,
        ),
      };
    return read.portals;
  };
  return async (req, res, next) => {
    const known = await portals();
    if (known.length === 0) return next();
    const here = known.find(({ host }) => host === req.host.toLowerCase());
    if (here) {
      const isOf = (base: string) => req.path === base || req.path.startsWith(`${base}/`);
      if (req.path === '/') return res.redirect(302, `/p/${here.slug}`);
      const isHere =
        isOf(`/p/${here.slug}`) || isOf(`/api/portals/${here.slug}`) || shared.some((each) => each.test(req.path));
      return isHere ? next() : unknownAddress(req, res, next);
    }
    const slug = /^\/p\/([a-z0-9-]+)(?:\/|$)/.exec(req.path)?.[1];
    const moved = slug === undefined ? undefined : known.find((each) => each.slug === slug);
    if (moved) return res.redirect(302, `${moved.address}${req.originalUrl}`);
    next();
  };
}

async function withAddress() {
  const found = await Portal.findAll({
    attributes: ['slug', 'address'],
    // Of one that isn't published nothing is found there, and nothing else either.
    where: { address: { [Op.ne]: null } },
  });
  return found.map(({ slug, address }) => ({ slug, address: address!, host: new URL(address!).host }));
}
