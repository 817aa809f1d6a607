import {
  at,
  count,
  compareDefinitions,
  suggestClasses,
  suggestCrossings,
  suggestRelations,
  why,
  whyChange,
  whyCreate,
  whyRemove,
  type Visit,
  tryKey,
  NotFound,
} from '../gate/gate';
import { Router, type Request, type Response } from 'express';
import Joi from 'joi';
import type { Operation } from 'fast-json-patch';
import { builderPerson, servicePerson, visitorPerson, type Person } from '../../core/access/person';
import { emptyDefinition, type PortalDefinition } from '../../core/definition/definition';
import { readDefinition, writeDefinition } from '../../core/definition/read';
import { sourceName } from '../../core/definition/sources';
import { findTable } from '../../core/table/catalogue';
import { readAudit, writeAudit, writeReadAs } from '../audit/audit';
import { reasonOf } from '../connections/away';
import { Problem } from '../../core/refusals/problem';
import { valid } from '../http/problems';
import { fileRoutes } from '../imports/file-routes';
import type { Services } from './services';
import { everyone } from '../people/everyone';
import { findMembers, knownMember, memberPerson, refreshMembers } from '../people/members';
import { buildersOnly } from '../sessions/builder-routes';
import { filesOf } from '../files/column-files';
import { hashPassword } from '../sessions/passwords';
import { readDefinitionAside } from '../threads/aside';
import { Builder, Member, Portal, Session, Version } from '../store/models';
import { accessRoutes } from '../review/access-routes';
import { admitSources } from '../connections/admit-sources';
import type { Opened } from '../definitions/definitions';
import { connectionRoutes } from '../connections/connection-routes';
import { changeDraft, editsSince, readDraft, stepDraft } from '../drafts/draft';
import { recordRoutes } from '../records/record-routes';
import { listSchemas, makeSchema, unmakeSchema } from '../connections/schemas';
import { furtherSourceRoutes } from '../connections/further-sources';
import { shapeRoutes } from '../shaping/shape-routes';
import { sourceRoutes } from '../shaping/source-routes';
import { standInKey } from '../visits/stand-in';
import { versionRoutes } from '../versions/version-routes';
import type { PortalVisit } from '../visits/visit';

const text = (max: number) => Joi.string().max(max);

const patchBody = Joi.object<{ revision: number; label: string; patch: Operation[] }>({
  revision: Joi.number().integer().required(),
  label: text(200).required(),
  patch: Joi.array()
    .items(
      Joi.object({
        op: Joi.valid('add', 'remove', 'replace', 'move', 'copy', 'test').required(),
        path: text(2000).allow('').required(),
        from: text(2000),
        value: Joi.any(),
      }),
    )
    .min(1)
    .max(2000)
    .required(),
});

/** The workplace's API: portals, their drafts, people, checks and versions. For signed-in builders only. */
export function builderPortalRoutes(services: Services): Router {
  const router = Router();
  const { sequelize } = services.store;
  router.use(buildersOnly, async (_req, _res, next) => {
    await services.followRights();
    next();
  });
  router.use(connectionRoutes(services));
  router.get('/builders', async (_req, res) => {
    res.json({
      builders: (await Builder.findAll({ order: [['name', 'ASC']] })).map(({ id, name, email }) => ({
        id,
        name,
        email,
      })),
    });
  });

  const portalOf = async (req: Request): Promise<Portal> => {
    const portal = await Portal.findOne({ where: { slug: String(req.params.slug) } });
    if (!portal) throw new Problem(404, 'not-found', 'There is no such portal.');
    await services.connections.refuseOthersPortal(portal.id, (req.res!.locals.builder as Builder).id);
    return portal;
  };
  const admit = (req: Request) => admitSources(services, (req.res!.locals.builder as Builder).id);
  const draftOf = async (req: Request) => {
    const portal = await portalOf(req);
    const definition = await services.definitions.draft(portal);
    return { portal, definition, ...(await services.sources.of(definition)) };
  };
  /** The draft, and the source that holds a table. */
  const draftAt = async (req: Request, table: string) => {
    const draft = await draftOf(req);
    return draft.elsewhere ? { ...draft, ...(await draft.elsewhere(sourceName(draft.definition, table))) } : draft;
  };
  const builderVisit = (definition: PortalDefinition, catalogue: Visit['catalogue']): Visit => ({
    definition,
    catalogue,
    person: builderPerson,
    moment: new Date(),
  });
  /**
   * Somebody before the draft: a member by number, `visitor`, or `service.` and a role. Reading as them is written in
   * the log.
   */
  const asMember = async (req: Request): Promise<PortalVisit> => {
    const { portal, ...opened } = await draftOf(req);
    const { person, name, about } = await personOfVisit(portal.id, opened, String(req.params.member));
    await writeReadAs(portal.id, signed(req.res!), about);
    return {
      ...opened,
      person,
      moment: new Date(),
      name,
      seenBy: true,
      standIn: await standInKey(portal.id),
      portalId: portal.id,
    };
  };

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
    await services.connections.refuseOthers([body.connection || undefined], (res.locals.builder as Builder).id);
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
    if (!body.makeSchema) await admit(req)([definition.source]);
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
    const { portal, definition } = await draftOf(req);
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
    const { revision, publishedVersion } = await portalOf(req);
    res.json({ revision, publishedVersion });
  });
  router.patch('/portals/:slug/draft', async (req, res) => {
    const { revision, label, patch } = valid(patchBody, req.body);
    const portal = await portalOf(req);
    res.json(
      await changeDraft(sequelize, portal.id, (res.locals.builder as Builder).id, revision, label, patch, 'no change'),
    );
  });
  for (const step of ['undo', 'redo'] as const) {
    router.post(`/portals/:slug/draft/${step}`, async (req, res) => {
      res.json(await stepDraft(sequelize, (await portalOf(req)).id, step, admit(req)));
    });
  }
  router.get('/portals/:slug/definition', async (req, res) => {
    const { portal, definition } = await draftOf(req);
    res.attachment(`${portal.slug}.portal.json`).type('json').send(writeDefinition(definition));
  });
  router.put('/portals/:slug/definition', async (req, res) => {
    const portal = await portalOf(req);
    // Without a revision it is meant whatever the draft is by now, as from a command line.
    const { revision } = valid(
      Joi.object<{ revision: number }>({ revision: Joi.number().integer().min(0).default(portal.revision) }),
      req.query,
      'query',
    );
    const definition = await readDefinitionAside(req.body);
    const state = await changeDraft(
      sequelize,
      portal.id,
      (res.locals.builder as Builder).id,
      revision,
      'Apply a definition',
      [{ op: 'replace', path: '', value: definition }],
      admit(req),
    );
    await writeAudit(
      portal.id,
      signed(res),
      'applied a definition',
      `to the draft, which has the revision ${state.revision} now`,
    );
    res.json(state);
  });

  router.get('/portals/:slug/data', async (req, res) => {
    const { definition } = await draftOf(req);
    await Promise.all((await services.sources.all(definition)).parts.map(({ source }) => source.catalogue(true)));
    const { parts } = await services.sources.all(definition);
    const counted = await Promise.all(
      parts.flatMap(({ source, catalogue }) =>
        catalogue.tables.map(async ({ name }) => ({
          name,
          rows: await count(source, builderVisit(definition, catalogue), name),
        })),
      ),
    );
    res.json({ tables: counted });
  });
  router.use('/portals/:slug', fileRoutes(services, portalOf));
  router.use('/portals/:slug', shapeRoutes(services, draftOf, signed));
  router.use('/portals/:slug', sourceRoutes(services, draftAt, signed));
  router.use('/portals/:slug', furtherSourceRoutes(services, portalOf, signed));
  // The builder's own grid: the same ways as members have, under the builder's grant.
  const asBuilder = async (req: Request, res: Response): Promise<PortalVisit> => {
    const { portal, ...opened } = await draftOf(req);
    return {
      ...builderVisit(opened.definition, opened.catalogue),
      ...opened,
      name: (res.locals.builder as Builder).name,
      seenBy: false,
      standIn: await standInKey(portal.id),
      portalId: portal.id,
      files: filesOf(portal.id, builderPerson),
    };
  };
  router.use(
    '/portals/:slug/all',
    recordRoutes(sequelize, asBuilder, async (req, res, order) => {
      res
        .status(202)
        .json(await services.jobs.start('export', (await portalOf(req)).id, (res.locals.builder as Builder).id, order));
    }),
  );
  router.get('/portals/:slug/data/:table/suggestions', async (req, res) => {
    const { definition, source, catalogue } = await draftAt(req, req.params.table);
    const table = findTable(catalogue, req.params.table);
    if (!table) throw new NotFound('table');
    const others = definition.sources
      ? (await services.sources.all(definition)).parts.filter((part) => part.source !== source)
      : [];
    res.json({
      suggestions: await suggestClasses(source, catalogue, table),
      relations: [
        ...(await suggestRelations(source, catalogue, table)),
        ...(await suggestCrossings({ source, catalogue }, others, table)),
      ],
    });
  });

  router.post('/portals/:slug/data/:table/key', async (req, res) => {
    const { key } = valid(
      Joi.object<{ key: string[] }>({ key: Joi.array().items(text(64).required()).unique().min(1).max(8).required() }),
      req.body,
    );
    const { definition, source, catalogue } = await draftAt(req, req.params.table);
    const table = findTable(catalogue, req.params.table);
    if (!table) throw new NotFound('table');
    await tryKey(source, catalogue, definition, table, key);
    res.status(204).end();
  });

  router.get('/portals/:slug/members', async (req, res) => {
    const query = valid(
      Joi.object<{ search: string; roster: string | null; offset: number; size: number }>({
        search: text(200).allow('').default(''),
        roster: text(64).default(null),
        offset: Joi.number().integer().min(0).max(1e7).default(0),
        size: Joi.number().integer().min(1).max(200).default(50),
      }),
      req.query,
      'query',
    );
    const { portal, definition, source, catalogue } = await draftOf(req);
    res.json(
      await findMembers(source, catalogue, definition, portal.id, query.search, query.roster, query.offset, query.size),
    );
  });
  router.post('/portals/:slug/members/refresh', async (req, res) => {
    const { portal, definition, source, catalogue } = await draftOf(req);
    const outcome = await refreshMembers(sequelize, source, catalogue, definition, portal.id);
    await writeAudit(
      portal.id,
      signed(res),
      'refreshed the members',
      `${outcome.added} came, ${outcome.updated} changed, ${outcome.suspended} went`,
    );
    res.json(outcome);
  });
  router.put('/portals/:slug/members/:member/password', async (req, res) => {
    const { password } = valid(
      Joi.object<{ password: string }>({ password: Joi.string().min(10).max(1000).required() }),
      req.body,
    );
    const portal = await portalOf(req);
    const [changed] = await Member.update(
      { passwordHash: await hashPassword(password) },
      { where: { portalId: portal.id, id: Number(req.params.member) || 0 } },
    );
    if (changed !== 1) throw new NotFound('member');
    // Whoever was signed in with the old one is not any more.
    const ended = await Session.destroy({ where: { memberId: Number(req.params.member) } });
    const member = await Member.findByPk(Number(req.params.member), { rejectOnEmpty: true });
    await writeAudit(
      portal.id,
      signed(res),
      'set a password',
      `of ${member.name} ` +
        `<${member.email}>` +
        (ended === 0 ? '' : `, who was signed in ${ended === 1 ? 'once' : `${ended} times`} and is not any more`),
    );
    res.status(204).end();
  });

  router.use('/portals/:slug', accessRoutes(services, draftAt, personOfVisit, signed));

  router.get('/portals/:slug/change-report', async (req, res) => {
    const { portal, definition, source, catalogue } = await draftOf(req);
    if (portal.publishedVersion === null)
      throw new Problem(404, 'not-found', 'This portal was never published, so there is nothing to compare with.');
    const published = await services.definitions.version(portal.id, portal.publishedVersion);
    const people = await everyone(source, catalogue, [published, definition], portal.id);
    const [{ parts }, before] = await Promise.all([services.sources.all(definition), services.sources.all(published)]);
    parts.push(...before.parts.filter((part) => !parts.some(({ source: known }) => known === part.source)));
    const groups = await Promise.all(
      parts.map((part) => compareDefinitions(part.source, part.catalogue, published, definition, people, new Date())),
    );
    res.json({ groups: groups.flat() });
  });
  router.get('/portals/:slug/log', async (req, res) => {
    res.json({ entries: await readAudit((await portalOf(req)).id, 300) });
  });

  router.use('/portals/:slug', versionRoutes(services, portalOf, signed));

  router.get('/portals/:slug/as/:member/table/:table', async (req, res) => {
    const visit = await at(await asMember(req), req.params.table);
    const total = await count(visit.source, builderVisit(visit.definition, visit.catalogue), req.params.table);
    const seen = await count(visit.source, visit, req.params.table).catch((error: unknown) => {
      if (error instanceof NotFound) return 0;
      throw error;
    });
    res.json({ seen, total });
  });
  router.get('/portals/:slug/as/:member/why/:table/:id', async (req, res) => {
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
  router.post('/portals/:slug/as/:member/why-delete/:table/:id', async (req, res) => {
    const visit = await at(await asMember(req), req.params.table);
    res.json(await whyRemove(visit.source, visit, req.params.table, req.params.id));
  });
  router.post('/portals/:slug/as/:member/why/:table', async (req, res) => {
    const visit = await at(await asMember(req), req.params.table);
    res.json(await whyCreate(visit.source, visit, req.params.table, valid(valuesBody, req.body).values));
  });
  router.post('/portals/:slug/as/:member/why/:table/:id', async (req, res) => {
    const visit = await at(await asMember(req), req.params.table);
    res.json(await whyChange(visit.source, visit, req.params.table, req.params.id, valid(valuesBody, req.body).values));
  });
  router.use(
    '/portals/:slug/as/:member',
    recordRoutes(sequelize, (req: Request, _res: Response) => asMember(req)),
  );
  return router;
}

/** A builder as the audit log names them. */
function signed(res: Response): string {
  const { name, email } = res.locals.builder as Builder;
  return `${name} <${email}>`;
}

/** Whom a builder looks as. */
async function personOfVisit(
  portalId: number,
  { definition, source, catalogue }: Opened & { definition: PortalDefinition },
  who: string,
): Promise<{ person: Person; name: string; about: string }> {
  if (who === 'visitor') return { person: visitorPerson(definition), name: 'a visitor', about: 'a visitor' };
  const service = who.startsWith('service.')
    ? definition.roles.find((role) => role.id === who.slice('service.'.length) && role.for === 'services')
    : undefined;
  if (service)
    return {
      person: servicePerson(definition, [service.id]),
      name: `the service ${service.name}`,
      about: `the service ${service.name}`,
    };
  const id = Number(who);
  const member = Number.isSafeInteger(id) ? await knownMember(portalId, id) : null;
  if (!member) throw new NotFound('member');
  // Two members may have one name; the log tells them apart.
  return {
    person: await memberPerson(source, catalogue, definition, member),
    name: member.name,
    about: `${member.name} <${member.email}>`,
  };
}
