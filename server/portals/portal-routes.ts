import type { ConnectionServices } from '../connections/connections';
import { Router } from 'express';
import Joi from 'joi';
import { emptyDefinition, type PortalDefinition } from '../../core/definition/definition';
import { readDefinition } from '../../core/definition/read';
import { reasonOf } from '../connections/away';
import { Problem } from '../../core/refusals/problem';
import { valid } from '../http/problems';
import { Builder, Portal, Version } from '../store/models';
import { admitSources } from '../connections/admit-sources';
import { editsSince, readDraft } from '../drafts/draft';
import { listSchemas, makeSchema, unmakeSchema } from '../connections/schemas';
import type { Bench } from '../bench/bench';

const text = (max: number) => Joi.string().max(max);

/** Portals: which there are, a new one, and where one stands. */
export function portalRoutes(services: ConnectionServices, bench: Bench): Router {
  const router = Router();
  const { sequelize } = services.store;
  router.get('/builders', async (_req, res) => {
    res.json({
      builders: (await Builder.findAll({ order: [['name', 'ASC']] })).map(({ id, name, email }) => ({
        id,
        name,
        email,
      })),
    });
  });

  router.get('/portals', async (_req, res) => {
    const portals = await Portal.findAll({ order: [['slug', 'ASC']] });
    res.json({
      portals: portals.map((portal) => ({
        slug: portal.slug,
        name: (JSON.parse(portal.draft) as PortalDefinition).portal.name,
        publishedVersion: portal.publishedVersion,
      })),
    });
  });
  router.get('/schemas', async (_req, res) => {
    res.json({ schemas: await listSchemas(sequelize, services.ownSchema) });
  });
  router.post('/portals', async (req, res) => {
    const body = valid(
      Joi.object<{
        slug: string;
        name: string;
        connection: string;
        schema: string;
        timeZone: string;
        makeSchema: boolean;
      }>({
        slug: text(40).required(),
        name: text(120).required(),
        connection: text(40).allow('').default(''),
        schema: text(64).required(),
        timeZone: text(60).required(),
        makeSchema: Joi.boolean().strict().default(false),
      }),
      req.body,
    );
    const face = { slug: body.slug, name: body.name, timeZone: body.timeZone, colour: '#1f5f85' };
    await services.connections.refuseOthers([body.connection || undefined], bench.builder(res).id);
    const known = body.connection === '' ? null : await services.connections.find(body.connection);
    const definition = readDefinition(
      emptyDefinition(
        face,
        known ? { kind: known.known.kind, connection: body.connection, schema: body.schema } : body.schema,
      ),
    );
    if (body.connection !== '' && !known)
      throw new Problem(422, 'invalid-values', 'There is no such connection.', {
        fields: { connection: 'There is no such connection. Choose another.' },
      });
    if (!body.makeSchema) await admitSources(services, bench.builder(res).id)([definition.source]);
    if (await Portal.findOne({ where: { slug: body.slug } }))
      throw new Problem(422, 'invalid-values', 'There is a portal at this address already.', {
        fields: { slug: 'This address is already taken. Choose another.' },
      });
    if (body.makeSchema) {
      if (known)
        throw new Problem(422, 'invalid-values', "A new schema is made in Stone Porch's own database alone.", {
          fields: { schema: 'Choose one that is there: a connected database is not changed.' },
        });
      await makeSchema(sequelize, body.schema);
    }
    await Portal.create({
      slug: body.slug,
      draft: JSON.stringify(definition),
      revision: 1,
      publishedVersion: null,
    }).catch(async (error: unknown) => {
      if (body.makeSchema) await unmakeSchema(sequelize, body.schema);
      throw error;
    });
    res.status(201).json({ slug: body.slug });
  });

  router.get('/portals/:slug', async (req, res) => {
    const { portal, definition } = await bench.draftOf(req);
    const { catalogue, away } = await services.sources.all(definition);
    const published =
      portal.publishedVersion === null
        ? null
        : await Version.findOne({ where: { portalId: portal.id, number: portal.publishedVersion } });
    const newest = await Version.findOne({ where: { portalId: portal.id }, order: [['number', 'DESC']] });
    res.json({
      ...(await readDraft(sequelize, portal.id)),
      catalogue,
      away: away.map(({ name, error }) => ({ name, reason: reasonOf(error) })),
      publishedVersion: portal.publishedVersion,
      newestVersion: newest?.number ?? null,
      publishedAt: published?.publishedAt ?? null,
      changes: await editsSince(portal.id, newest?.publishedAt ?? null),
    });
  });
  // Small, for open benches ask it every few seconds: whether somebody else has changed the draft or published.
  router.get('/portals/:slug/revision', async (req, res) => {
    const { revision, publishedVersion } = await bench.portalOf(req);
    res.json({ revision, publishedVersion });
  });
  return router;
}
