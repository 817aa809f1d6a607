import type { Bench } from '../bench/bench';
import { NotFound } from '../gate/gate';
import { Router } from 'express';
import Joi from 'joi';
import type { PortalDefinition, PortalSource } from '../../core/definition/definition';
import { sourceName } from '../../core/definition/sources';
import { shortName } from '../../core/definition/read';
import { usesOf } from '../../core/definition/translate';
import { writeAudit } from '../audit/audit';
import { Problem } from '../../core/refusals/problem';
import { valid } from '../http/problems';
import type { ConnectionServices } from './connections';
import { admitSources } from './admit-sources';
import { changeDraft } from '../drafts/draft';

/** Further sources of a portal beside its own: given a short name, and taken out again when nothing speaks of them. */
export function furtherSourceRoutes(services: ConnectionServices, bench: Bench): Router {
  const router = Router({ mergeParams: true });
  const { sequelize } = services.store;
  const body = Joi.object<{ name: string; connection: string; schema: string }>({
    name: shortName.required(),
    connection: Joi.string().max(40).allow('').default(''),
    schema: Joi.string().max(64).required(),
  });

  router.post('/sources', async (req, res) => {
    const { name, connection, schema } = valid(body, req.body);
    const portal = await bench.portalOf(req);
    const builder = bench.builder(res);
    await services.connections.refuseOthers([connection || undefined], builder.id);
    const known = connection === '' ? null : await services.connections.find(connection);
    if (connection !== '' && !known)
      throw new Problem(422, 'invalid-values', 'There is no such connection.', {
        fields: { connection: 'There is no such connection. Choose another.' },
      });
    const source: PortalSource = known ? { kind: known.known.kind, connection, schema } : { kind: 'mariadb', schema };
    const admit = admitSources(services, builder.id);
    await admit([source]);
    const draft = JSON.parse(portal.draft) as PortalDefinition;
    const taken = (field: string, words: string) =>
      new Problem(422, 'invalid-values', words, { fields: { [field]: words } });
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
    const state = await changeDraft(
      sequelize,
      portal.id,
      builder.id,
      portal.revision,
      `Add the source ${name}`,
      patch,
      admit,
    );
    await writeAudit(
      portal.id,
      bench.signed(res),
      'changed where records are',
      `added ${name}: ${connection === '' ? '' : `${connection}/`}${schema}`,
    );
    res.status(201).json(state);
  });
  const of = (draft: PortalDefinition, name: string | null): PortalSource => {
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
  };
  const sourceOf = Joi.string().max(40).allow(null).default(null);
  router.get('/sources/tables', async (req, res) => {
    const { name } = valid(Joi.object<{ name: string | null }>({ name: sourceOf }), req.query, 'query');
    const source = of(JSON.parse((await bench.portalOf(req)).draft) as PortalDefinition, name);
    const catalogue = await (await services.sources.at(source)).catalogue(true);
    res.json({ tables: catalogue.tables.map((table) => table.name), chosen: source.tables ?? null });
  });
  router.put('/sources/tables', async (req, res) => {
    const { name, tables } = valid(
      Joi.object<{ name: string | null; tables: string[] | null }>({
        name: sourceOf,
        tables: Joi.array().items(Joi.string().max(64)).unique().min(1).max(5000).allow(null).required(),
      }),
      req.body,
    );
    const portal = await bench.portalOf(req);
    const draft = JSON.parse(portal.draft) as PortalDefinition;
    of(draft, name);
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
    if (tables === null && !of(draft, name).tables) return void res.json({ revision: portal.revision });
    res.json(
      await changeDraft(
        sequelize,
        portal.id,
        bench.builder(res).id,
        portal.revision,
        `Choose the tables of ${name ?? 'the source'}`,
        [tables ? { op: 'add', path, value: tables } : { op: 'remove', path }],
        admitSources(services, bench.builder(res).id),
      ),
    );
  });
  router.delete('/sources/:name', async (req, res) => {
    const portal = await bench.portalOf(req);
    const draft = JSON.parse(portal.draft) as PortalDefinition;
    const { name } = req.params;
    if (!draft.sources || !Object.hasOwn(draft.sources, name)) throw new NotFound('source');
    const used = usesOfSource(draft, name);
    if (used.length > 0)
      throw new Problem(422, 'in-use', `The draft still speaks of ${name}: ${used.join(', ')}. Take that out first.`);
    const isLast = Object.keys(draft.sources).length === 1;
    const state = await changeDraft(
      sequelize,
      portal.id,
      bench.builder(res).id,
      portal.revision,
      `Take out the source ${name}`,
      [{ op: 'remove', path: isLast ? '/sources' : `/sources/${name}` }],
      admitSources(services, bench.builder(res).id),
    );
    await writeAudit(portal.id, bench.signed(res), 'changed where records are', `took out ${name}`);
    res.json(state);
  });
  return router;
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
    if (page.sections.some((section) => isThere(section.table))) uses.push(`the page ${page.title}`);
  const ruled: { table: string }[] = [
    ...draft.masks.flatMap((rule) => ('table' in rule ? [rule] : [])),
    ...(draft.fences ?? []),
    ...(draft.stamps ?? []),
    ...(draft.lifecycles ?? []),
    ...(draft.promises ?? []),
  ];
  for (const table of new Set(ruled.map((rule) => rule.table).filter(isThere))) uses.push(`rules of ${table}`);
  return uses;
}
