import { Router } from 'express';
import { admitSources } from '../connections/admit-sources';
import { connectionRoutes } from '../connections/connection-routes';
import { furtherSourceRoutes } from '../connections/further-sources';
import { draftRoutes } from '../drafts/draft-routes';
import { fileRoutes } from '../imports/file-routes';
import { peopleRoutes } from '../people/people-routes';
import { recordRoutes } from '../records/record-routes';
import { accessRoutes } from '../review/access-routes';
import { seenByRoutes } from '../review/seen-by-routes';
import { buildersOnly } from '../sessions/builder-routes';
import { shapeRoutes } from '../shaping/shape-routes';
import { sourceRoutes } from '../shaping/source-routes';
import { tableRoutes } from '../shaping/table-routes';
import { versionRoutes } from '../versions/version-routes';
import { Bench } from '../bench/bench';
import { builderAtRecords } from '../visits/builder-visit';
import { portalRoutes } from './portal-routes';
import type { Services } from './services';

/** The workplace's API, a subject after the other. For signed-in builders only. */
export function workplaceRoutes(services: Services): Router {
  const router = Router();
  const bench = new Bench(services);
  router.use(buildersOnly, async (_req, _res, next) => {
    await services.followRights();
    next();
  });
  router.use(connectionRoutes(services), portalRoutes(services, bench));
  router.use(
    '/portals/:slug',
    draftRoutes(services, bench, (builderId) => admitSources(services, builderId)),
    tableRoutes(services, bench),
    fileRoutes(services, bench),
    shapeRoutes(services, bench),
    sourceRoutes(services, bench),
    furtherSourceRoutes(services, bench),
    peopleRoutes(services, bench),
    accessRoutes(services, bench),
    versionRoutes(services, bench),
  );
  // The builder's own grid: the same ways as members have, under the builder's grant.
  router.use(
    '/portals/:slug/all',
    recordRoutes(
      services.store.sequelize,
      async (req, res) => builderAtRecords(await bench.draftOf(req), bench.builder(res).name),
      async (req, res, order) => {
        const portal = await bench.portalOf(req);
        res.status(202).json(await services.jobs.start('export', portal.id, bench.builder(res).id, order));
      },
    ),
  );
  router.use('/portals/:slug/as/:member', seenByRoutes(services, bench));
  return router;
}
