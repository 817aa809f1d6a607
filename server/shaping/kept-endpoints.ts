import { draftAt, openDraft, type BenchServices } from '../bench/bench';
import { InvalidValues, NotFound, trySavedQuery, type SavedQuery } from '../gate/gate';
import Joi from 'joi';
import { checkCondition, readCondition } from '../../core/condition/check';
import { printCondition } from '../../core/condition/print';
import type { Ceiling } from '../../core/definition/ceilings';
import { readCeilings } from '../../core/definition/read-ceilings';
import type { PortalDefinition, PortalSource } from '../../core/definition/definition';
import { namedCatalogue, sourceCalled, sourceName, storedName } from '../../core/definition/sources';
import {
  columnTypes,
  findColumn,
  findTable,
  withManyRelations,
  type Catalogue,
  type ColumnType,
} from '../../core/table/catalogue';
import {
  compareCatalogues,
  rememberedCatalogue,
  snapshotOf,
  type CatalogueChange,
  type TableSnapshot,
} from '../../core/table/compare-catalogues';
import { writeAudit } from '../audit/audit';
import { byName, form, listOf, said, yesNo } from '../http/answers';
import { endpoint, reply } from '../http/endpoint';
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

const ceilingAnswer = form<CeilingForm>({
  where: said,
  create: yesNo,
  edit: yesNo,
  delete: yesNo,
  export: yesNo,
  columns: byName(Joi.valid('nothing', 'read')),
});

const queryKeys = {
  name: Joi.string()
    .pattern(/^[a-z][a-z0-9_]{0,55}$/, 'lower-case letters, digits and _')
    .required(),
  text: Joi.string().trim().min(1).max(20_000).required(),
  key: Joi.array().items(Joi.string().max(64)).unique().max(4).required(),
};

interface TriedQuery {
  columns: { name: string; type: ColumnType }[];
}

const triedQuery = form<TriedQuery>({
  columns: listOf(form<TriedQuery['columns'][number]>({ name: said, type: Joi.valid(...columnTypes) })),
});

/** A change of a source, and where it is felt, in words. */
export type SourceChange = CatalogueChange & { uses: string[] };

interface LookedAgain {
  /** True when nobody has looked before, so that there is nothing to compare with. */
  first: boolean;
  changes: SourceChange[];
}

const lookedAgain = form<LookedAgain>({
  first: yesNo,
  changes: listOf(
    form<SourceChange>({
      what: said,
      table: said,
      column: said.optional(),
      was: said.optional(),
      is: said.optional(),
      uses: listOf(said),
    }),
  ),
});

const seenName = (portal: Portal) => `seen/${portal.id}`;

/** What is kept at a source, above all portals: its ceilings and saved queries, and how it looked the last time. */
export function keptEndpoints(services: BenchServices) {
  const entry = openDraft(services);
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

  const queriesOf = async (source: PortalSource) =>
    JSON.parse((await readSetting(keptOf('queries', source))) ?? '[]') as SavedQuery[];

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

  return {
    ceiling: endpoint({
      method: 'GET',
      path: '/ceilings/:table',
      says: 'What nobody may do with a table, whatever any portal says.',
      entry,
      answers: { 200: ceilingAnswer },
      does: async ({ draft: { definition }, params: { table } }) => {
        const all = await ceilingsOf(placeOf(definition, table));
        const stored = storedName(definition, table);
        return formOf(Object.hasOwn(all, stored) ? all[stored] : undefined);
      },
    }),
    setCeiling: endpoint({
      method: 'PUT',
      path: '/ceilings/:table',
      says: 'Sets what nobody may do with a table, in every portal over its source.',
      entry,
      body: ceilingBody,
      answers: { 200: ceilingAnswer },
      does: async ({ draft, portal, signed, params, body }) => {
        const { definition, source } = await draftAt(draft, params.table);
        const place = placeOf(definition, params.table);
        const catalogue = await source.catalogue(true);
        const table = findTable(catalogue, storedName(definition, params.table));
        if (!table) throw new NotFound('table');
        const unknown = Object.keys(body.columns).find((column) => !findColumn(table, column));
        if (unknown !== undefined) throw new InvalidValues({ columns: `${table.name} has no column ${unknown}.` });
        const scope = { catalogue, table, member: false, atSource: true };
        const ceiling: Ceiling = {
          ...(body.where.trim() === '' ? {} : { where: readCondition(body.where, scope) }),
          ...Object.fromEntries(
            (['create', 'edit', 'delete', 'export'] as const)
              .filter((operation) => !body[operation])
              .map((operation) => [operation, false as const]),
          ),
          ...(Object.keys(body.columns).length === 0 ? {} : { columns: body.columns }),
        };
        if (ceiling.where && checkCondition(ceiling.where, scope).length > 0)
          throw new InvalidValues({ where: "This can't be asked of the table." });
        await changeKept(keptOf('ceilings', place), '{}', (kept) => {
          const { [table.name]: _was, ...others } = readCeilings(JSON.parse(kept));
          return JSON.stringify(Object.keys(ceiling).length === 0 ? others : { ...others, [table.name]: ceiling });
        });
        const about = `over ${table.name}: ${JSON.stringify(formOf(ceiling))}`;
        await writeAudit(portal.id, signed, 'set a ceiling', about);
        return formOf(ceiling);
      },
    }),
    queries: endpoint({
      method: 'GET',
      path: '/queries',
      says: 'The saved queries of the source, which are tables of it.',
      entry,
      answers: { 200: form<{ queries: SavedQuery[] }>({ queries: listOf(form<SavedQuery>(queryKeys)) }) },
      does: async ({ draft: { definition } }) => ({ queries: await queriesOf(definition.source) }),
    }),
    saveQuery: endpoint({
      method: 'POST',
      path: '/queries',
      says: 'Tries a query; with `keep` it is a table from then on.',
      // What a query makes of a column has the class of none, where that can't be told.
      personal: true,
      entry,
      body: Joi.object<SavedQuery & { keep: boolean }>({ ...queryKeys, keep: Joi.boolean().strict().required() }),
      answers: { 200: triedQuery, 201: triedQuery },
      does: async ({ draft: { definition, source, catalogue }, portal, signed, body: { keep, ...query } }) => {
        const table = await trySavedQuery(source, catalogue, query);
        if (keep) {
          await changeKept(keptOf('queries', definition.source), '[]', (kept) =>
            JSON.stringify([...(JSON.parse(kept) as SavedQuery[]).filter((each) => each.name !== query.name), query]),
          );
          await writeAudit(portal.id, signed, 'kept a query', `${query.name}: ${query.text}`);
        }
        return reply(keep ? 201 : 200, { columns: table.columns.map(({ name, type }) => ({ name, type })) });
      },
    }),
    deleteQuery: endpoint({
      method: 'DELETE',
      path: '/queries/:name',
      says: 'Deletes a saved query.',
      entry,
      answers: { 204: null },
      does: async ({ draft: { definition }, portal, signed, params: { name } }) => {
        if (!(await queriesOf(definition.source)).some((each) => each.name === name)) throw new NotFound('table');
        await changeKept(keptOf('queries', definition.source), '[]', (kept) =>
          JSON.stringify((JSON.parse(kept) as SavedQuery[]).filter((each) => each.name !== name)),
        );
        await writeAudit(portal.id, signed, 'deleted a query', name);
      },
    }),
    lookAgain: endpoint({
      method: 'GET',
      path: '/look-again',
      says: 'What has changed in the sources since somebody looked last, and where that is felt.',
      entry,
      answers: { 200: lookedAgain },
      does: async ({ draft: { definition }, portal }) => {
        const now = await lookNow(definition);
        const kept = await readSetting(seenName(portal));
        if (kept === null) {
          await Setting.upsert({ name: seenName(portal), value: JSON.stringify(snapshotOf(now)) });
          return { first: true, changes: [] };
        }
        const before = JSON.parse(kept) as TableSnapshot[];
        const changes = compareCatalogues(before, now);
        const old = withManyRelations(rememberedCatalogue(before, now.schema));
        const uses = async (change: CatalogueChange) => {
          if (change.what === 'table added' || change.what === 'column added') return [];
          const place = placeOf(definition, change.table);
          const stored = storedName(definition, change.table);
          const from = sourceName(definition, change.table);
          const were = from === null ? old : unnamed(old, from);
          return (await usesAtSource(place, were, stored, change.column)).flatMap(({ portal: called, uses: found }) =>
            found.map((use) => `${called}: ${use}`),
          );
        };
        return {
          first: false,
          changes: await Promise.all(changes.map(async (change) => ({ ...change, uses: await uses(change) }))),
        };
      },
    }),
    lookedAgain: endpoint({
      method: 'POST',
      path: '/look-again',
      says: 'Keeps how the sources look now, to compare with the next time.',
      entry,
      answers: { 204: null },
      does: async ({ draft: { definition }, portal }) => {
        await Setting.upsert({ name: seenName(portal), value: JSON.stringify(snapshotOf(await lookNow(definition))) });
      },
    }),
  };
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
