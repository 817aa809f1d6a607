import { readDefinition } from '../../sections/definition';
import { writeAudit } from '../audit/audit';
import type { ConnectionServices } from '../connections/connections';
import Joi from 'joi';
import { emptyDefinition, type PortalDefinition } from '../../core/definition/definition';
import { toldOf } from '../../core/definition/definition-told';
import type { Catalogue } from '../../core/table/catalogue';
import { reasonOf } from '../connections/away';
import { Problem } from '../../core/refusals/problem';
import { atPortal, openDraft } from '../bench/bench';
import { form, listOf, moment, said, whole, wholeOrNull } from '../http/answers';
import { endpoint } from '../http/endpoint';
import { Builder, Portal, Version } from '../store/models';
import { admitSources, schemasOpenTo } from '../connections/admit-sources';
import { editsSince, readDraft, type DraftState } from '../drafts/draft';
import { draftKeys } from '../drafts/draft-answers';
import { listSchemas, makeSchema, unmakeSchema } from '../connections/schemas';
import { definitionTold } from '../drafts/definition-told';
import { readDefinitionAside } from '../threads/aside';
import { asBuilder, mayBuild } from '../sessions/as-builder';
import { catalogueAnswer } from '../shaping/catalogue-answers';

const text = (max: number) => Joi.string().max(max);

/** A builder as others are shown them. */
interface Colleague {
  id: number;
  name: string;
  email: string;
}

interface PortalLine {
  slug: string;
  name: string;
  publishedVersion: number | null;
}

/** Where a portal stands: its draft, the tables that it is about, and what is published of it. */
export interface PortalState extends DraftState {
  catalogue: Catalogue;
  /** Sources that can't be read at the moment. */
  away: { name: string; reason: string }[];
  publishedVersion: number | null;
  newestVersion: number | null;
  publishedAt: string | null;
  /** Edits since the newest version. */
  changes: number;
}

const newPortal = Joi.object<{
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
});

/** Portals: which there are, and a new one. */
export function portalsEndpoints(services: ConnectionServices) {
  const { sequelize } = services.store;
  const entry = asBuilder(services);
  return {
    builders: endpoint({
      method: 'GET',
      path: '/builders',
      says: 'Everyone who builds here.',
      entry,
      answers: {
        200: form<{ builders: Colleague[] }>({
          builders: listOf(form<Colleague>({ id: whole, name: said, email: said })),
        }),
      },
      does: async () => ({
        builders: (await Builder.findAll({ order: [['name', 'ASC']] })).map(({ id, name, email }) => ({
          id,
          name,
          email,
        })),
      }),
    }),
    portals: endpoint({
      method: 'GET',
      path: '/portals',
      says: 'Every portal that is built here.',
      entry,
      answers: {
        200: form<{ portals: PortalLine[] }>({
          portals: listOf(form<PortalLine>({ slug: said, name: said, publishedVersion: wholeOrNull })),
        }),
      },
      does: async ({ builder }) => {
        const portals = await Portal.findAll({ order: [['slug', 'ASC']] });
        return {
          portals: portals
            .filter(({ id }) => mayBuild(builder, id))
            .map(({ slug, draft, publishedVersion }) => ({
              slug,
              name: (JSON.parse(draft) as PortalDefinition).portal.name,
              publishedVersion,
            })),
        };
      },
    }),
    ownSchemas: endpoint({
      method: 'GET',
      path: '/schemas',
      says: "The schemas of Stone Porch's own database that a portal may have its records in.",
      entry,
      answers: { 200: form<{ schemas: string[] }>({ schemas: listOf(said) }) },
      does: async ({ builder }) => {
        const [all, open] = [await listSchemas(sequelize, services.ownSchema), await schemasOpenTo(builder)];
        return { schemas: open ? all.filter((schema) => open.has(schema)) : all };
      },
    }),
    makePortal: endpoint({
      method: 'POST',
      path: '/portals',
      says: 'Makes a portal over a schema, which is made too where that is asked for.',
      entry,
      body: newPortal,
      answers: { 201: form<{ slug: string }>({ slug: said }) },
      does: async ({ builder, body }) => {
        const face = { slug: body.slug, name: body.name, timeZone: body.timeZone, colour: '#1f5f85' };
        await services.connections.refuseOthers([body.connection || undefined], builder.id);
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
        if (!body.makeSchema) await admitSources(services, builder.id)([definition.source]);
        await refuseTaken(body.slug);
        if (body.makeSchema) {
          if (known)
            throw new Problem(422, 'invalid-values', "A new schema is made in Stone Porch's own database alone.", {
              fields: { schema: 'Choose one that is there: a connected database is not changed.' },
            });
          await makeSchema(sequelize, body.schema);
        }
        await addPortal(builder, definition).catch(async (error: unknown) => {
          if (body.makeSchema) await unmakeSchema(sequelize, body.schema);
          throw error;
        });
        return { slug: body.slug };
      },
    }),
    lookAtDefinition: endpoint({
      method: 'POST',
      reads: true,
      path: '/definitions/look',
      says: 'Reads a definition and tells what it is of, and where it has its records; changes nothing.',
      entry,
      body: Joi.any<unknown>(),
      answers: { 200: definitionTold },
      does: async ({ body }) => toldOf(await readDefinitionAside(body)),
    }),
    makePortalFrom: endpoint({
      method: 'POST',
      path: '/portals/from-definition',
      says: 'Makes a portal of a definition, at the address and over the sources that it names.',
      entry,
      body: Joi.any<unknown>(),
      answers: { 201: form<{ slug: string }>({ slug: said }) },
      does: async ({ builder, body }) => {
        const definition = await readDefinitionAside(body);
        const { source, sources = {}, portal } = definition;
        await admitSources(services, builder.id)([source, ...Object.values(sources)]);
        await refuseTaken(portal.slug);
        const made = await addPortal(builder, definition);
        await writeAudit(made.id, `${builder.name} <${builder.email}>`, 'made a portal of a definition', portal.name);
        return { slug: portal.slug };
      },
    }),
  };
}

async function refuseTaken(slug: string): Promise<void> {
  if (await Portal.findOne({ where: { slug } }))
    throw new Problem(422, 'invalid-values', 'There is a portal at this address already.', {
      fields: { slug: 'This address is already taken. Choose another.' },
    });
}

async function addPortal(builder: Builder, definition: PortalDefinition): Promise<Portal> {
  const portal = await Portal.create({
    slug: definition.portal.slug,
    draft: JSON.stringify(definition),
    revision: 1,
    publishedVersion: null,
  });
  // Whoever may work at some portals only makes their own.
  if (builder.portals !== null)
    await builder.update({ portals: JSON.stringify([...(JSON.parse(builder.portals) as number[]), portal.id]) });
  return portal;
}

/** One portal: where it stands. */
export function portalEndpoints(services: ConnectionServices) {
  const standing = { revision: whole, publishedVersion: wholeOrNull };
  return {
    portal: endpoint({
      method: 'GET',
      path: '',
      says: 'A portal: its draft, the tables that it is about, and what is published of it.',
      entry: openDraft(services),
      answers: {
        200: form<PortalState>({
          ...draftKeys,
          catalogue: catalogueAnswer,
          away: listOf(form<PortalState['away'][number]>({ name: said, reason: said })),
          publishedVersion: wholeOrNull,
          newestVersion: wholeOrNull,
          publishedAt: moment.allow(null),
          changes: whole,
        }),
      },
      does: async ({ portal, draft: { definition } }) => {
        const { catalogue, away } = await services.sources.all(definition);
        const published =
          portal.publishedVersion === null
            ? null
            : await Version.findOne({ where: { portalId: portal.id, number: portal.publishedVersion } });
        const newest = await Version.findOne({ where: { portalId: portal.id }, order: [['number', 'DESC']] });
        return {
          ...(await readDraft(services.store.sequelize, portal.id)),
          catalogue,
          away: away.map(({ name, error }) => ({ name, reason: reasonOf(error) })),
          publishedVersion: portal.publishedVersion,
          newestVersion: newest?.number ?? null,
          publishedAt: published?.publishedAt?.toISOString() ?? null,
          changes: await editsSince(portal.id, newest?.publishedAt ?? null),
        };
      },
    }),
    // Small, for open benches ask it every few seconds: whether somebody else has changed the draft or published.
    revision: endpoint({
      method: 'GET',
      path: '/revision',
      says: 'Whether somebody else has changed the draft or published.',
      entry: atPortal(services),
      answers: { 200: form<Pick<PortalState, 'revision' | 'publishedVersion'>>(standing) },
      does: ({ portal: { revision, publishedVersion } }) => Promise.resolve({ revision, publishedVersion }),
    }),
  };
}
