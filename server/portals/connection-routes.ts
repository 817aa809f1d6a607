import { Router } from 'express';
import Joi from 'joi';
import { valid } from '../http/problems';
import type { Services } from '../http/services';

import { databaseKinds, tlsModes, type ConnectionForm } from './connections';

const text = (max: number) => Joi.string().trim().max(max);
const form = Joi.object<ConnectionForm>({
  name: Joi.string().pattern(/^[a-z][a-z0-9_-]{0,39}$/, 'lower-case letters, digits, - and _').required(),
  kind: Joi.valid(...databaseKinds).required(),
  host: Joi.string().hostname().max(255).required(),
  port: Joi.number().port().required(),
  database: Joi.when('kind', { is: 'postgresql', then: text(64).required(), otherwise: text(64).allow('').required() }),
  user: text(128).required(),
  password: Joi.string().max(1000).allow('').required(),
  tls: Joi.valid(...tlsModes).required(),
});

/** Databases that portals may have their records in. For signed-in builders. */
export function connectionRoutes({ connections }: Services): Router {
  const router = Router();
  router.get('/connections', async (_req, res) => { res.json({ connections: await connections.list() }); });
  router.post('/connections/try', async (req, res) => { res.json(await connections.try(valid(form, req.body))); });
  router.put('/connections', async (req, res) => { res.json(await connections.save(valid(form, req.body))); });
  router.get('/connections/:name/schemas', async (req, res) => { res.json({ schemas: await connections.schemas(req.params.name) }); });
  router.delete('/connections/:name', async (req, res) => {
    await connections.remove(req.params.name);
    res.status(204).end();
  });
  return router;
}
