import type { CoreServices } from '../definitions/portal-services';
import { asBuilder } from '../visits/builder-visit';
import { seenBy } from '../visits/seen-by';
import type { PortalVisit } from '../visits/member-visit';
import { at, count, why, whyChange, whyCreate, whyRemove, NotFound } from '../gate/gate';
import { Router, type Request } from 'express';
import Joi from 'joi';
import { valid } from '../http/problems';
import { recordRoutes } from '../records/record-routes';
import type { Bench } from '../bench/bench';

const text = (max: number) => Joi.string().max(max);

/** The portal as somebody else gets it, and why: what is looked at, and as whom, is written in the log. */
export function seenByRoutes(services: CoreServices, bench: Bench): Router {
  const router = Router({ mergeParams: true });
  const asMember = async (req: Request<object>): Promise<PortalVisit> => {
    const { member } = req.params as { member: string };
    return seenBy(await bench.draftOf(req as Request), member, bench.signed(req.res!));
  };
  router.get('/table/:table', async (req, res) => {
    const visit = await at(await asMember(req), req.params.table);
    const total = await count(visit.source, asBuilder(visit), req.params.table);
    const seen = await count(visit.source, visit, req.params.table).catch((error: unknown) => {
      if (error instanceof NotFound) return 0;
      throw error;
    });
    res.json({ seen, total });
  });
  router.get('/why/:table/:id', async (req, res) => {
    const visit = await at(await asMember(req), req.params.table);
    const { column } = valid(
      Joi.object<{ column: string | null }>({ column: text(64).default(null) }),
      req.query,
      'query',
    );
    res.json(await why(visit.source, visit, req.params.table, req.params.id, column));
  });
  const valuesBody = Joi.object<{ values: Record<string, unknown> }>({
    values: Joi.object().pattern(Joi.string().max(64), Joi.any()).min(1).max(300).required(),
  });
  router.post('/why-delete/:table/:id', async (req, res) => {
    const visit = await at(await asMember(req), req.params.table);
    res.json(await whyRemove(visit.source, visit, req.params.table, req.params.id));
  });
  router.post('/why/:table', async (req, res) => {
    const visit = await at(await asMember(req), req.params.table);
    res.json(await whyCreate(visit.source, visit, req.params.table, valid(valuesBody, req.body).values));
  });
  router.post('/why/:table/:id', async (req, res) => {
    const visit = await at(await asMember(req), req.params.table);
    res.json(await whyChange(visit.source, visit, req.params.table, req.params.id, valid(valuesBody, req.body).values));
  });
  router.use(recordRoutes(services.store.sequelize, asMember));
  return router;
}
