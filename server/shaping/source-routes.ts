import type { Bench } from '../bench/bench';
import { InvalidValues, NotFound, trySavedQuery, type SavedQuery } from '../gate/gate';
import { Router } from 'express';
import Joi from 'joi';
import { checkCondition, readCondition } from '../../core/condition/check';
import { printCondition } from '../../core/condition/print';
import { readCeilings, type Ceiling } from '../../core/definition/ceilings';
import type { PortalDefinition, PortalSource } from '../../core/definition/definition';
import { namedCatalogue, sourceCalled, sourceName, storedName } from '../../core/definition/sources';
import { findColumn, findTable, withManyRelations, type Catalogue } from '../../core/table/catalogue';
import {
  compareCatalogues,
  rememberedCatalogue,
  snapshotOf,
  type CatalogueChange,
  type TableSnapshot,
} from '../../core/table/compare-catalogues';
import { writeAudit } from '../audit/audit';
import { valid } from '../http/problems';
import type { CoreServices } from '../definitions/portal-services';
import { Setting, type Portal } from '../store/models';
import { countRightsChange } from '../store/rights-revision';
import { readSetting } from '../store/store';
import { usesAtSource } from '../drafts/follow-rename';
import { keptOf } from '../drafts/kept-of';

/** A ceiling as it travels: the condition on rows in its text form. */
export interface CeilingForm {
  where: string;
  create: boolean;
  edit: boolean;
  delete: boolean;
  export: boolean;
  columns: Record<string, 'nothing' | 'read'>;
}

const ceilingBody = Joi.object<CeilingForm>({
  where: Joi.string().allow('').max(20_000).required(),
  create: Joi.boolean().strict().required(),
  edit: Joi.boolean().strict().required(),
  delete: Joi.boolean().strict().required(),
  export: Joi.boolean().strict().required(),
  columns: Joi.object().pattern(Joi.string().max(64), Joi.valid('nothing', 'read')).required(),
});

/** What is kept at a source, above all portals: its ceilings, and how it looked the last time. */
export function sourceRoutes(services: CoreServices, bench: Bench): Router {
  const router = Router({ mergeParams: true });
  const ceilingsOf = async (source: PortalSource) =>
    readCeilings(JSON.parse((await readSetting(keptOf('ceilings', source))) ?? '{}'));

  /**
   * Changes what is kept at a source. What was read before the change limits nobody's rights any more, on whatever
   * server.
   */
  const changeKept = async (name: string, empty: string, change: (kept: string) => string) => {
    await services.store.sequelize.transaction(async (transaction) => {
      await Setting.findOrCreate({ where: { name }, defaults: { name, value: empty }, transaction });
      const setting = await Setting.findByPk(name, { transaction, lock: true, rejectOnEmpty: true });
      await setting.update({ value: change(setting.value) }, { transaction });
      await countRightsChange(services.store.sequelize, transaction);
    });
    await services.followRights();
  };

  router.get('/ceilings/:table', async (req, res) => {
    const { definition } = await bench.draftAt(req, req.params.table);
    const all = await ceilingsOf(placeOf(definition, req.params.table));
    const stored = storedName(definition, req.params.table);
    res.json(formOf(Object.hasOwn(all, stored) ? all[stored] : undefined));
  });
  router.put('/ceilings/:table', async (req, res) => {
    const form = valid(ceilingBody, req.body);
    const { portal, definition, source } = await bench.draftAt(req, req.params.table);
    const place = placeOf(definition, req.params.table);
    const catalogue = await source.catalogue(true);
    const table = findTable(catalogue, storedName(definition, req.params.table));
    if (!table) throw new NotFound('table');
    const unknown = Object.keys(form.columns).find((column) => !findColumn(table, column));
    if (unknown !== undefined) throw new InvalidValues({ columns: `${table.name} has no column ${unknown}.` });
    const ceiling: Ceiling = {
      ...(form.where.trim() === ''
        ? {}
        : { where: readCondition(form.where, { catalogue, table, member: false, atSource: true }) }),
      ...Object.fromEntries(
        (['create', 'edit', 'delete', 'export'] as const)
          .filter((operation) => !form[operation])
          .map((operation) => [operation, false as const]),
      ),
      ...(Object.keys(form.columns).length === 0 ? {} : { columns: form.columns }),
    };
    if (ceiling.where && checkCondition(ceiling.where, { catalogue, table, member: false, atSource: true }).length > 0)
      throw new InvalidValues({ where: "This can't be asked of the table." });
    await changeKept(keptOf('ceilings', place), '{}', (kept) => {
      const { [table.name]: _was, ...others } = readCeilings(JSON.parse(kept));
      return JSON.stringify(Object.keys(ceiling).length === 0 ? others : { ...others, [table.name]: ceiling });
    });
    await writeAudit(
      portal.id,
      bench.signed(res),
      'set a ceiling',
      `over ${table.name}: ${JSON.stringify(formOf(ceiling))}`,
    );
    res.json(formOf(ceiling));
  });

  const queriesOf = async (source: PortalSource) =>
    JSON.parse((await readSetting(keptOf('queries', source))) ?? '[]') as SavedQuery[];
  const queryBody = Joi.object<SavedQuery & { keep: boolean }>({
    name: Joi.string()
      .pattern(/^[a-z][a-z0-9_]{0,55}$/, 'lower-case letters, digits and _')
      .required(),
    text: Joi.string().trim().min(1).max(20_000).required(),
    key: Joi.array().items(Joi.string().max(64)).unique().max(4).required(),
    keep: Joi.boolean().strict().required(),
  });
  router.get('/queries', async (req, res) => {
    const { definition } = await bench.draftAt(req, '');
    res.json({ queries: await queriesOf(definition.source) });
  });
  router.post('/queries', async (req, res) => {
    const { keep, ...query } = valid(queryBody, req.body);
    const { portal, definition, source, catalogue } = await bench.draftAt(req, '');
    const table = await trySavedQuery(source, catalogue, query);
    if (keep) {
      await changeKept(keptOf('queries', definition.source), '[]', (kept) =>
        JSON.stringify([...(JSON.parse(kept) as SavedQuery[]).filter((each) => each.name !== query.name), query]),
      );
      await writeAudit(portal.id, bench.signed(res), 'kept a query', `${query.name}: ${query.text}`);
    }
    res.status(keep ? 201 : 200).json({ columns: table.columns.map(({ name, type }) => ({ name, type })) });
  });
  router.delete('/queries/:name', async (req, res) => {
    const { portal, definition } = await bench.draftAt(req, '');
    const queries = await queriesOf(definition.source);
    if (!queries.some((each) => each.name === req.params.name)) throw new NotFound('table');
    await changeKept(keptOf('queries', definition.source), '[]', (kept) =>
      JSON.stringify((JSON.parse(kept) as SavedQuery[]).filter((each) => each.name !== req.params.name)),
    );
    await writeAudit(portal.id, bench.signed(res), 'deleted a query', req.params.name);
    res.status(204).end();
  });

  /** Every source as its database tells it now, with the names that the definition gives. */
  const lookNow = async (definition: PortalDefinition) => {
    const raw = await Promise.all(
      [null, ...Object.keys(definition.sources ?? {})].map(async (name) => {
        const source = await services.sources.at(sourceCalled(definition, name)).catch(() => null);
        return source && namedCatalogue(await source.catalogue(true), name);
      }),
    );
    return { ...raw[0]!, tables: raw.flatMap((catalogue) => catalogue?.tables ?? []) };
  };
  const seenName = (portal: Portal) => `seen/${portal.id}`;
  router.get('/look-again', async (req, res) => {
    const { portal, definition } = await bench.draftAt(req, '');
    const now = await lookNow(definition);
    const kept = await readSetting(seenName(portal));
    if (kept === null) {
      await Setting.upsert({ name: seenName(portal), value: JSON.stringify(snapshotOf(now)) });
      res.json({ first: true, changes: [] });
      return;
    }
    const before = JSON.parse(kept) as TableSnapshot[];
    const changes = compareCatalogues(before, now);
    const old = withManyRelations(rememberedCatalogue(before, now.schema));
    const uses = async (change: CatalogueChange) => {
      if (change.what === 'table added' || change.what === 'column added') return [];
      const place = placeOf(definition, change.table);
      const stored = storedName(definition, change.table);
      const from = sourceName(definition, change.table);
      const before = from === null ? old : unnamed(old, from);
      return (await usesAtSource(place, before, stored, change.column)).flatMap(({ portal: called, uses: found }) =>
        found.map((use) => `${called}: ${use}`),
      );
    };
    res.json({
      first: false,
      changes: await Promise.all(changes.map(async (change) => ({ ...change, uses: await uses(change) }))),
    });
  });
  router.post('/look-again', async (req, res) => {
    const { portal, definition } = await bench.draftAt(req, '');
    await Setting.upsert({ name: seenName(portal), value: JSON.stringify(snapshotOf(await lookNow(definition))) });
    res.status(204).end();
  });
  return router;
}

function placeOf(definition: PortalDefinition, table: string): PortalSource {
  return sourceCalled(definition, sourceName(definition, table));
}

/** The tables of one further source as its database calls them. */
function unnamed(catalogue: Catalogue, source: string): Catalogue {
  const plain = (table: string) => table.slice(source.length + 1);
  const tables = catalogue.tables
    .filter((table) => table.name.startsWith(`${source}:`))
    .map((table) => ({
      ...table,
      name: plain(table.name),
      relations: table.relations.map((relation) => ({ ...relation, table: plain(relation.table) })),
    }));
  return withManyRelations({ ...catalogue, tables });
}

function formOf(ceiling: Ceiling = {}): CeilingForm {
  return {
    where: ceiling.where ? printCondition(ceiling.where) : '',
    create: ceiling.create !== false,
    edit: ceiling.edit !== false,
    delete: ceiling.delete !== false,
    export: ceiling.export !== false,
    columns: ceiling.columns ?? {},
  };
}
