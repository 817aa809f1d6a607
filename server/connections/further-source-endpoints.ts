import { makesOf } from '../../core/definition/action';
import { askedByPage } from '../../core/definition/section';
import { sectionSpecs } from '../../sections/specs';
import { shortName } from '../../core/definition/definition-schema';
import { usesOf } from '../../sections/definition';
import { NotFound } from '../gate/gate';
import Joi from 'joi';
import type { PortalDefinition, PortalSource } from '../../core/definition/definition';
import { sourceName } from '../../core/definition/sources';
import { writeAudit } from '../audit/audit';
import { atPortal } from '../bench/bench';
import { Problem } from '../../core/refusals/problem';
import { form, listOf, said } from '../http/answers';
import { endpoint } from '../http/endpoint';
import type { ConnectionServices } from './connections';
import { admitSources } from './admit-sources';
import { changeDraft, readDraft } from '../drafts/draft';
import { draftAnswer } from '../drafts/draft-answers';

const sourceBody = Joi.object<{ name: string; connection: string; schema: string }>({
  name: shortName.required(),
  connection: Joi.string().max(40).allow('').default(''),
  schema: Joi.string().max(64).required(),
});

const sourceOf = Joi.string().max(40).allow(null).default(null);

const taken = (field: string, words: string) =>
  new Problem(422, 'invalid-values', words, { fields: { [field]: words } });

/** Further sources of a portal beside its own: given a short name, and taken out again when nothing speaks of them. */
export function furtherSourceEndpoints(services: ConnectionServices) {
  const { sequelize } = services.store;
  const entry = atPortal(services);
  return {
    addSource: endpoint({
      method: 'POST',
      path: '/sources',
      says: 'Gives the draft a further source, by a short name.',
      entry,
      body: sourceBody,
      answers: { 201: draftAnswer },
      does: async ({ portal, builder, signed, body: { name, connection, schema } }) => {
        await services.connections.refuseOthers([connection || undefined], builder.id);
        const known = connection === '' ? null : await services.connections.find(connection);
        if (connection !== '' && !known)
          throw new Problem(422, 'invalid-values', 'There is no such connection.', {
            fields: { connection: 'There is no such connection. Choose another.' },
          });
        const source: PortalSource = known
          ? { kind: known.known.kind, connection, schema }
          : { kind: 'mariadb', schema };
        const admit = admitSources(services, builder.id);
        await admit([source]);
        const draft = JSON.parse(portal.draft) as PortalDefinition;
        if (draft.sources && Object.hasOwn(draft.sources, name))
          throw taken('name', `There is a source ${name} already. Choose another name.`);
        if (
          [draft.source, ...Object.values(draft.sources ?? {})].some(
            (each) => each.schema === schema && each.connection === source.connection,
          )
        )
          throw taken('schema', 'The portal has this source already.');
        const patch = draft.sources
          ? [{ op: 'add' as const, path: `/sources/${name}`, value: source }]
          : [{ op: 'add' as const, path: '/sources', value: { [name]: source } }];
        const label = `Add the source ${name}`;
        const state = await changeDraft(sequelize, portal.id, builder.id, portal.revision, label, patch, admit);
        await writeAudit(
          portal.id,
          signed,
          'changed where records are',
          `added ${name}: ${connection === '' ? '' : `${connection}/`}${schema}`,
        );
        return state;
      },
    }),
    sourceTables: endpoint({
      method: 'GET',
      path: '/sources/tables',
      says: 'The tables of a source as its database has them, and which of them the portal uses: null for all.',
      entry,
      query: Joi.object<{ name: string | null }>({ name: sourceOf }),
      answers: {
        200: form<{ tables: string[]; chosen: string[] | null }>({
          tables: listOf(said),
          chosen: listOf(said).allow(null),
        }),
      },
      does: async ({ portal, query: { name } }) => {
        const source = sourceIn(JSON.parse(portal.draft) as PortalDefinition, name);
        const catalogue = await (await services.sources.at(source)).catalogue(true);
        return { tables: catalogue.tables.map((table) => table.name), chosen: source.tables ?? null };
      },
    }),
    chooseTables: endpoint({
      method: 'PUT',
      path: '/sources/tables',
      says: 'Chooses the tables that the portal uses of a source; null for all.',
      entry,
      body: Joi.object<{ name: string | null; tables: string[] | null }>({
        name: sourceOf,
        tables: Joi.array().items(Joi.string().max(64)).unique().min(1).max(5000).allow(null).required(),
      }),
      answers: { 200: draftAnswer },
      does: async ({ portal, builder, body: { name, tables } }) => {
        const draft = JSON.parse(portal.draft) as PortalDefinition;
        const source = sourceIn(draft, name);
        const path = name === null ? '/source/tables' : `/sources/${name}/tables`;
        const known = await services.sources.all(draft);
        const out = tables
          ? known.catalogue.tables.filter(
              (table) => sourceName(draft, table.name) === name && !tables.includes(table.stored ?? table.name),
            )
          : [];
        const used = out.flatMap((table) =>
          usesOf(draft, known.catalogue, table.name).map((use) => `${table.name} in ${use}`),
        );
        if (used.length > 0)
          throw new Problem(
            422,
            'in-use',
            'The draft still uses ' +
              `${used.slice(0, 5).join(', ')}${used.length > 5 ? ` and in ${used.length - 5} more places` : ''}. ` +
              'Take that out first.',
          );
        if (tables === null && !source.tables) return readDraft(sequelize, portal.id);
        return changeDraft(
          sequelize,
          portal.id,
          builder.id,
          portal.revision,
          `Choose the tables of ${name ?? 'the source'}`,
          [tables ? { op: 'add', path, value: tables } : { op: 'remove', path }],
          admitSources(services, builder.id),
        );
      },
    }),
    removeSource: endpoint({
      method: 'DELETE',
      path: '/sources/:name',
      says: 'Takes a further source out of the draft, when nothing there speaks of it.',
      entry,
      answers: { 200: draftAnswer },
      does: async ({ portal, builder, signed, params: { name } }) => {
        const draft = JSON.parse(portal.draft) as PortalDefinition;
        if (!draft.sources || !Object.hasOwn(draft.sources, name)) throw new NotFound('source');
        const used = usesOfSource(draft, name);
        if (used.length > 0)
          throw new Problem(
            422,
            'in-use',
            `The draft still speaks of ${name}: ${used.join(', ')}. Take that out first.`,
          );
        const isLast = Object.keys(draft.sources).length === 1;
        const state = await changeDraft(
          sequelize,
          portal.id,
          builder.id,
          portal.revision,
          `Take out the source ${name}`,
          [{ op: 'remove', path: isLast ? '/sources' : `/sources/${name}` }],
          admitSources(services, builder.id),
        );
        await writeAudit(portal.id, signed, 'changed where records are', `took out ${name}`);
        return state;
      },
    }),
  };
}

/** A source of a draft by its name, null for its own; a Problem where its tables can't be chosen. */
function sourceIn(draft: PortalDefinition, name: string | null): PortalSource {
  const source =
    name === null
      ? draft.source
      : draft.sources && Object.hasOwn(draft.sources, name)
        ? draft.sources[name]
        : undefined;
  if (!source) throw new NotFound('source');
  // What is made here must appear here.
  if (name === null && source.connection === undefined)
    throw new Problem(422, 'source', "Of the portal's own schema here all tables can be used.");
  return source;
}

/** Where a draft uses tables of one of its sources, in words. */
function usesOfSource(draft: PortalDefinition, name: string): string[] {
  const isThere = (table: string) => sourceName(draft, table) === name;
  const uses: string[] = [];
  for (const [table, notes] of Object.entries(draft.tables)) {
    if (isThere(table)) uses.push(`notes on ${table}`);
    else
      uses.push(
        ...(notes.relations ?? [])
          .filter((relation) => isThere(relation.table))
          .map((relation) => `the relation ${table}.${relation.name}`),
      );
  }
  for (const [table, grants] of Object.entries(draft.access))
    if (isThere(table) && Object.keys(grants).length > 0) uses.push(`access to ${table}`);
  for (const page of draft.pages)
    if (askedByPage(page, draft, sectionSpecs).some(({ asked }) => isThere(asked.table)))
      uses.push(`the page ${page.title}`);
  const ruled: { table: string }[] = [
    ...draft.masks.flatMap((rule) => ('table' in rule ? [rule] : [])),
    ...(draft.fences ?? []),
    ...(draft.stamps ?? []),
    ...(draft.lifecycles ?? []),
    ...(draft.actions ?? []),
    ...(draft.forms ?? []),
    ...(draft.actions ?? []).flatMap(makesOf),
    ...(draft.promises ?? []),
  ];
  for (const table of new Set(ruled.map((rule) => rule.table).filter(isThere))) uses.push(`rules of ${table}`);
  return uses;
}
