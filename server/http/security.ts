import type { CookieOptions, Request, RequestHandler, Response } from 'express';
import { parseCookie } from 'cookie';
import helmet from 'helmet';
import { Problem } from '../../core/refusals/problem';

/** Headers of the API's answers: data, never a page, whatever a browser is led to believe. */
export const dataHeaders: RequestHandler = (_req, res, next) => {
  res.setHeader('Cache-Control', 'no-store');
  res.setHeader('Content-Security-Policy', "default-src 'none'; frame-ancestors 'none'");
  res.setHeader('Cross-Origin-Resource-Policy', 'same-origin');
  res.setHeader('X-Content-Type-Options', 'nosniff');
  next();
};

/** What pages may load, as the browser is to hold them to it; a portal may show frames, and be shown in them. */
const pagePolicy = (frames: string[], embeddedIn: string[]) => ({
  useDefaults: false,
  directives: {
    defaultSrc: ["'self'"],
    scriptSrc: ["'self'"],
    styleSrc: ["'self'", "'unsafe-inline'"],
    // Columns may hold addresses of pictures; nothing of the page goes along with asking for one.
    imgSrc: ["'self'", 'data:', 'https:'],
    fontSrc: ["'self'"],
    connectSrc: ["'self'"],
    // Pages of others stand in frames that may do nothing to ours; never a page of our own.
    frameSrc: frames.length > 0 ? frames : ["'none'"],
    objectSrc: ["'none'"],
    baseUri: ["'none'"],
    formAction: ["'self'"],
    frameAncestors: embeddedIn.length > 0 ? embeddedIn : ["'none'"],
  },
});

/**
 * Headers of every page and file. Scripts only from our own files; styles also inline, since positioned layers set
 * them.
 */
export const pageHeaders = helmet({
  // The bench shows pages of others as they are chosen.
  contentSecurityPolicy: pagePolicy(['https:'], []),
  referrerPolicy: { policy: 'same-origin' },
  // Only meaningful, and only safe, once the site is on TLS; the proxy in front decides that.
  strictTransportSecurity: false,
});

/** Headers of a portal's page: as of every page, with the frames that it shows and the sites that may show it. */
export function portalPageHeaders(req: Request, res: Response, frames: string[], embeddedIn: string[]): void {
  helmet.contentSecurityPolicy(pagePolicy(frames, embeddedIn))(req, res, () => undefined);
  // Older browsers know one site or none.
  if (embeddedIn.length > 0) res.removeHeader('X-Frame-Options');
}

/**
 * Defence against forged requests: cookies are SameSite, and whatever changes something must come from a page of ours,
 * as the browser itself says (Fetch Metadata, Origin), and carry a header that no plain form of another site can send.
 */
export const sameOriginOnly: RequestHandler = (req, _res, next) => {
  if (req.method === 'GET' || req.method === 'HEAD' || req.method === 'OPTIONS') return next();
  // Programs come with a key, and no cookie is looked at there.
  if (req.path.startsWith('/v1/')) return next();
  const site = req.get('sec-fetch-site');
  const origin = req.get('origin');
  const foreign =
    (site !== undefined && site !== 'same-origin') || (origin !== undefined && originHost(origin) !== req.get('host'));
  if (foreign || req.get('x-stone-porch') === undefined) {
    throw new Problem(
      403,
      'foreign-request',
      'This request did not come from a page of this site. Open the page again and repeat it.',
    );
  }
  next();
};

function originHost(origin: string): string | null {
  try {
    return new URL(origin).host;
  } catch {
    return null;
  }
}

function cookieOptions(req: Request, path: string): CookieOptions {
  return { httpOnly: true, sameSite: 'lax', secure: req.secure, path };
}

export function setCookie(req: Request, res: Response, name: string, token: string, path: string): void {
  res.cookie(name, token, { ...cookieOptions(req, path), maxAge: 7 * 24 * 3_600_000 });
}

export function clearCookie(req: Request, res: Response, name: string, path: string): void {
  res.clearCookie(name, cookieOptions(req, path));
}

export function readCookie(req: Request, name: string): string | null {
  return parseCookie(req.headers.cookie ?? '')[name] ?? null;
}
