import { Router, type Response } from 'express';
import Joi from 'joi';
import { valid } from '../http/problems';
import type { Builder } from '../store/models';
import { databaseKinds, tlsModes, type ConnectionForm, type ConnectionServices } from './connections';

const text = (max: number) => Joi.string().trim().max(max);

const form = Joi.object<ConnectionForm>({
  name: Joi.string()
    .pattern(/^[a-z][a-z0-9_-]{0,39}$/, 'lower-case letters, digits, - and _')
    .required(),
  kind: Joi.valid(...databaseKinds).required(),
  host: Joi.string().hostname().max(255).required(),
  port: Joi.number().port().required(),
  database: Joi.when('kind', { is: 'postgresql', then: text(64).required(), otherwise: text(64).allow('').required() }),
  user: text(128).required(),
  password: Joi.string().max(1000).allow('').required(),
  tls: Joi.valid(...tlsModes).required(),
  builders: Joi.array().items(Joi.number().integer()).unique().min(1).max(1000).allow(null).default(null),
});

/** Databases that portals may have their records in. For signed-in builders. */
export function connectionRoutes({ connections }: Pick<ConnectionServices, 'connections'>): Router {
  const router = Router();
  const me = (res: Response) => (res.locals.builder as Builder).id;
  router.get('/connections', async (_req, res) => {
    res.json({ connections: await connections.list(me(res)) });
  });
  router.post('/connections/try', async (req, res) => {
    const tried = valid(form, req.body);
    await connections.refuseOthers([tried.name], me(res));
    res.json(await connections.try(tried));
  });
  router.put('/connections', async (req, res) => {
    res.json(await connections.save(valid(form, req.body), me(res)));
  });
  router.get('/connections/:name/schemas', async (req, res) => {
    await connections.refuseOthers([req.params.name], me(res));
    res.json({ schemas: await connections.schemas(req.params.name) });
  });
  router.delete('/connections/:name', async (req, res) => {
    await connections.refuseOthers([req.params.name], me(res));
    await connections.remove(req.params.name);
    res.status(204).end();
  });
  return router;
}
