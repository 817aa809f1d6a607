import { readFile } from 'node:fs/promises';
import type { Request, RequestHandler, Response } from 'express';
import type { Sharp } from 'sharp';
import { heldStylesheet } from '../../core/face/stylesheet';
import { lookOf } from '../../core/face/look';
import type { PortalDefinition } from '../../core/definition/definition';
import { Problem } from '../../core/refusals/problem';
import type { CoreServices } from '../definitions/portal-services';
import { portalPageHeaders } from '../http/security';
import { escapeHtml } from '../mail/written-mail';
import { publishedPortal, type PublishedPortal } from '../sign-in/portal-doorway';
import { framedOrigins } from '../../core/definition/section';
import { sectionSpecs } from '../../sections/specs';

/** How long a browser keeps what belongs to a portal's face, in seconds: its address changes with each version. */
const kept = 24 * 3600;
const iconSizes = [32, 180, 192, 512];

/** What is made of a definition, once: anybody may ask for it, as often as they like. */
const made = new WeakMap<PortalDefinition, Map<string, Promise<unknown>>>();
function ofDefinition<T>(definition: PortalDefinition, what: string, make: () => Promise<T>): Promise<T> {
  const known = made.get(definition) ?? new Map<string, Promise<unknown>>();
  made.set(definition, known);
  const one = known.get(what) ?? make();
  known.set(what, one);
  return one as Promise<T>;
}

const published = (services: CoreServices, req: Request): Promise<PublishedPortal | null> =>
  publishedPortal(services, String(req.params.slug)).catch((error: unknown) => {
    if (error instanceof Problem && error.status === 404) return null;
    throw error;
  });

/**
 * The page of a published portal: called and coloured as it is before any script runs, with its icon, its manifest and
 * its own stylesheet; held by the browser to the frames that it shows, and to those that may show it.
 */
export function portalPage(services: CoreServices, file: string): RequestHandler {
  return async (req, res) => {
    const found = await published(services, req);
    res.set('Cache-Control', 'no-cache').type('html');
    const page = await readFile(file, 'utf8');
    if (!found) return void res.send(page);
    const { definition, portal } = found;
    portalPageHeaders(req, res, framedOrigins(definition, sectionSpecs), definition.portal.embeddedIn ?? []);
    const { name, face } = definition.portal;
    const [base, version] = [`/p/${portal.slug}`, portal.publishedVersion];
    const icon = (size: number) => `${base}/~icon.png?size=${size}&amp;version=${version}`;
    const head = [
      `<link rel="icon" type="image/png" href="${icon(32)}" />`,
      `<link rel="apple-touch-icon" href="${icon(180)}" />`,
      `<link rel="manifest" href="${base}/~manifest.webmanifest" />`,
      `<meta name="theme-color" content="${lookOf(definition.portal).style['--top']}" />`,
      `<title>${escapeHtml(name)}</title>`,
    ];
    const own = face?.stylesheet ? `<link rel="stylesheet" href="${base}/~style.css?version=${version}" />` : '';
    res.send(
      page
        .replace(/<link rel="icon"[^>]*>|<title>[^<]*<\/title>/g, '')
        .replace('<meta name="viewport"', () => `${head.join('\n    ')}\n    <meta name="viewport"`)
        // Last, so that it holds over ours.
        .replace('</head>', () => `${own}</head>`),
    );
  };
}

/** The own stylesheet of a published portal. */
export const portalStylesheet = (services: CoreServices): RequestHandler =>
  filed(services, async ({ definition }, _req, res) => {
    const { stylesheet = '' } = definition.portal.face ?? {};
    res.type('css').send(await ofDefinition(definition, 'style', () => Promise.resolve(heldStylesheet(stylesheet))));
  });

/** How the portal is put on a home screen (W3C Web Application Manifest). */
export const portalManifest = (services: CoreServices): RequestHandler =>
  filed(services, ({ definition, portal }, _req, res) => {
    const { name, face } = definition.portal;
    const { style } = lookOf(definition.portal);
    const base = `/p/${portal.slug}`;
    res.type('application/manifest+json').send(
      JSON.stringify({
        id: base,
        name,
        short_name: face?.homeName ?? name,
        start_url: base,
        scope: base,
        display: 'standalone',
        theme_color: style['--top'],
        background_color: face?.ground ?? '#f5f2ec',
        icons: [192, 512].map((size) => ({
          src: `${base}/~icon.png?size=${size}&version=${portal.publishedVersion}`,
          sizes: `${size}x${size}`,
          type: 'image/png',
        })),
      }),
    );
    return Promise.resolve();
  });

/** The portal's picture for tabs and home screens: its logo on white, else the porch in the colour of its top. */
export const portalIcon = (services: CoreServices): RequestHandler =>
  filed(services, async ({ definition }, req, res) => {
    const size = iconSizes.find((each) => String(each) === req.query.size) ?? 192;
    res.type('png').send(await ofDefinition(definition, `icon ${size}`, () => iconOf(definition, size)));
  });

async function iconOf({ portal }: PortalDefinition, size: number): Promise<Buffer> {
  const { logo } = portal.face ?? {};
  const { default: sharp } = await import('sharp');
  const own = sharp(Buffer.from(porch(lookOf(portal).style['--top']!)), { density: 300 });
  if (!logo) return onWhite(own, size);
  // Of a logo only the beginning was looked at: one that is damaged behind it is no picture.
  const bytes = Buffer.from(logo.slice(logo.indexOf(',') + 1), 'base64');
  return onWhite(sharp(bytes), size).catch(() => onWhite(own, size));
}

async function onWhite(picture: Sharp, size: number): Promise<Buffer> {
  const edge = Math.round(size / 8);
  const within = size - 2 * edge;
  const inner = await picture.resize(within, within, { fit: 'contain', background: '#ffffff00' }).png().toBuffer();
  const { default: sharp } = await import('sharp');
  return sharp({ create: { width: size, height: size, channels: 4, background: '#ffffff' } })
    .composite([{ input: inner, top: edge, left: edge }])
    .png()
    .toBuffer();
}

const porch = (colour: string): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 32 32"><path fill="${colour}" d="M3 28V17h7v11z` +
  'M22 28V17h7v11z' +
  'M3 16a13 13 0 0 1 4-8l5 5a6 6 0 0 0-2 3zM29 16a13 13 0 0 0-4-8l-5 5a6 6 0 0 1 2 3zM8 7a13 13 0 0 1 16 0' +
  'l-4.500 5.400a6 6 0 0 0-7 0z"/></svg>';

/** What belongs to a published portal's face and anybody may have, kept by the browser for a while. */
const filed =
  (
    services: CoreServices,
    answer: (found: PublishedPortal, req: Request, res: Response) => Promise<void>,
  ): RequestHandler =>
  async (req, res, next) => {
    const found = await published(services, req);
    if (!found) return next();
    res.set('Cache-Control', `public, max-age=${req.query.version === undefined ? 60 : kept}`);
    await answer(found, req, res);
  };
