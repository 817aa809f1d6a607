import { join } from 'node:path';
import express, { type Express } from 'express';
import sirv from 'sirv';
import { apiOf } from './api';
import { exactJson } from './http/exact-json';
import { wholeFiles } from './http/whole-files';
import { inOrder } from './http/in-order';
import { requestLog } from './http/log';
import './http/json';
import { routerOf } from './http/mounts';
import { openApiDocument } from './http/open-api';
import { problemHandler, unknownAddress } from './http/problems';
import { dataHeaders, pageHeaders, sameOriginOnly } from './http/security';
import type { Services } from './portals/services';
import { refuseNested } from './http/nested';
import { shares } from './http/shares';
import { healthRoutes } from './health/health';
import { Metrics } from './health/metrics';
import { ownAddresses } from './face/own-addresses';
import { portalIcon, portalManifest, portalPage, portalStylesheet } from './face/portal-page';

/** The whole HTTP application over its services. */
export function createApp(services: Services): Express {
  const app = express();
  app.disable('x-powered-by');
  app.set('etag', false);
  app.set('query parser', 'simple');
  // One proxy in front, no more: an address that the sender wrote is not believed.
  app.set('trust proxy', services.trustProxy ? 1 : false);
  app.use(requestLog(services.log));
  app.use('/health', healthRoutes(services));
  if (services.metricsToken !== undefined) {
    const metrics = new Metrics(services);
    app.use(metrics.watch);
    app.get('/metrics', metrics.tell(services.metricsToken));
  }
  app.use(ownAddresses());

  const api = express.Router();
  // Answers hold people's records: no cache keeps them.
  api.use(inOrder(dataHeaders, sameOriginOnly, shares(), ...exactJson('5mb'), refuseNested));
  const mounts = apiOf(services);
  let document: string | null = null;
  api.use(routerOf(mounts));
  api.get('/openapi.json', (_req, res) => {
    document ??= JSON.stringify(openApiDocument(mounts));
    res.type('json').send(document);
  });
  api.use(unknownAddress);
  app.use('/api', api);
  app.use(pageHeaders);

  if (services.webFolder) serveWeb(app, services, services.webFolder);
  app.use(unknownAddress);
  app.use(problemHandler(services.log));
  return app;
}

/** The two entries of the web: members get the portal's, everyone else the builder's. */
function serveWeb(app: Express, services: Services, folder: string): void {
  // Packed once when they were built, not at every visit.
  const assets = join(folder, 'assets');
  app.use(
    '/assets',
    wholeFiles,
    sirv(assets, { immutable: true, maxAge: 31_536_000, brotli: true, gzip: true, extensions: [] }),
    // What was built anew since this server began is not among what it found packed.
    express.static(assets, { immutable: true, maxAge: '1y', index: false }),
    unknownAddress,
  );
  const page =
    (file: string): express.RequestHandler =>
    (_req, res) => {
      res.set('Cache-Control', 'no-cache').sendFile(join(folder, file));
    };
  app.get('/favicon.svg', page('favicon.svg'));
  app.get('/p/:slug/~style.css', portalStylesheet(services));
  app.get('/p/:slug/~manifest.webmanifest', portalManifest(services));
  app.get('/p/:slug/~icon.png', portalIcon(services));
  app.get(['/p/:slug', '/p/:slug/*rest'], portalPage(services, join(folder, 'portal.html')));
  app.get(
    ['/', '/sign-in', '/join', '/own', '/colleagues', '/colleagues/*rest', '/build/:slug', '/build/:slug/*rest'],
    page('builder.html'),
  );
}
