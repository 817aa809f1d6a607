import { renamedCatalogue, type Renaming } from '../../core/definition/renamed-catalogue';
import { strayUses, translate, usesOf, withoutStray, readDefinition } from '../../sections/definition';
import { Names, translateCondition } from '../../core/definition/names';
import type { Sequelize, Transaction } from 'sequelize';
import type { Ceiling } from '../../core/definition/ceilings';
import { readCeilings } from '../../core/definition/read-ceilings';
import { withDeclaredRelations } from '../../core/definition/declared-relations';
import type { PortalDefinition, PortalSource } from '../../core/definition/definition';
import { namedCatalogue, nameIn, namesOf, sourceCalled } from '../../core/definition/sources';
import { DefinitionError } from '../../core/definition/read';
import type { ImportPlan } from '../../core/table/import-plan';
import { findTable, type Catalogue } from '../../core/table/catalogue';
import { renameFiles } from '../files/column-files';
import { Problem } from '../../core/refusals/problem';
import { countRightsChange } from '../store/rights-revision';
import { ImportMapping, Portal, Setting, Version } from '../store/models';
import { KeptView } from '../store/kept-view-model';
import { Membership, Member } from '../store/people-models';
import { renamedDrawn } from '../../sections/chart/drawn-by';
import type { KeptStanding } from '../store/kept-standing';
import { bringHistoryAlong } from './draft-history';
import { keptOf } from './kept-of';
import { renameInHistory } from './rename-history';
import { renameInTalk } from './rename-talk';

/** The portals that have records in a source, as their own or as a further one: of their draft or of any version. */
async function portalsOver(
  source: PortalSource,
  transaction?: Transaction,
): Promise<{ portal: Portal; draft: PortalDefinition; versions: Version[] }[]> {
  // Whoever edits or publishes waits for the portal's row.
  const portals = await Portal.findAll({ order: [['id', 'ASC']], ...(transaction ? { transaction, lock: true } : {}) });
  const versions = await Version.findAll({
    order: [['number', 'ASC']],
    ...(transaction ? { transaction, lock: true } : {}),
  });
  const isOver = (document: string) => namesOf(JSON.parse(document) as PortalDefinition, source).length > 0;
  return portals
    .map((portal) => ({
      portal,
      draft: JSON.parse(portal.draft) as PortalDefinition,
      versions: versions.filter((version) => Number(version.portalId) === portal.id && isOver(version.document)),
    }))
    .filter(({ portal, versions: over }) => over.length > 0 || isOver(portal.draft));
}

/** Where drafts use a table or column of a source, by portal. The catalogue and the names are the database's. */
export async function usesAtSource(
  source: PortalSource,
  catalogue: Catalogue,
  table: string,
  column?: string,
): Promise<{ portal: string; uses: string[] }[]> {
  const found = (await portalsOver(source)).map(({ draft }) => ({
    portal: draft.portal.name,
    uses: [
      ...new Set(
        namesOf(draft, source).flatMap((name) =>
          usesOf(draft, withDeclaredRelations(namedCatalogue(catalogue, name), draft), nameIn(name, table), column),
        ),
      ),
    ],
  }));
  return found.filter((each) => each.uses.length > 0);
}

/**
 * Refuses a name for a table or column where a draft or what is live still speaks of something of that name that is
 * gone: the new one would inherit what was granted of the old, or lose its own mask to it.
 */
export async function refuseStray(
  source: PortalSource,
  catalogue: Catalogue,
  { table, column }: Omit<Renaming, 'to'>,
): Promise<void> {
  for (const { portal, draft, versions } of await portalsOver(source)) {
    const live = versions.find((version) => version.number === portal.publishedVersion);
    for (const [what, definition, mend] of [
      ['draft', draft, 'Take that out first.'],
      [
        'published version',
        live ? (JSON.parse(live.document) as PortalDefinition) : null,
        'Take that out of the draft and publish it first.',
      ],
    ] as const) {
      const uses = definition === null ? [] : strayIn(definition, source, catalogue, table, column);
      if (uses.length === 0) continue;
      const words =
        `The ${what} of ${draft.portal.name} still speaks of a ${column === undefined ? 'table' : 'column'} ` +
        `${column ?? table} that is gone: ` +
        `${uses.slice(0, 5).join(', ')}${uses.length > 5 ? ` and ${uses.length - 5} more` : ''}. What has its ` +
        `name would get its rights. ${mend}`;
      throw new Problem(422, 'name-spoken-of', words, { fields: { to: words, name: words } });
    }
  }
}

function strayIn(
  definition: PortalDefinition,
  source: PortalSource,
  catalogue: Catalogue,
  table: string,
  column?: string,
): string[] {
  return [
    ...new Set(
      namesOf(definition, source).flatMap((name) =>
        strayUses(
          definition,
          withDeclaredRelations(namedCatalogue(catalogue, name), definition),
          nameIn(name, table),
          column,
        ),
      ),
    ),
  ];
}

/**
 * A definition after the renaming. What is still said of something gone that had the new name is set aside, under one
 * name a `stamp`.
 */
function translated(
  definition: PortalDefinition,
  source: PortalSource,
  catalogue: Catalogue,
  renaming: Renaming,
  stamp = 'tried',
): PortalDefinition {
  return namesOf(definition, source).length === 0
    ? definition
    : readDefinition(inNewNames(definition, source, catalogue, renaming, stamp));
}

/** As `translated`, not read through. */
function inNewNames(
  definition: PortalDefinition,
  source: PortalSource,
  catalogue: Catalogue,
  renaming: Renaming,
  stamp: string,
): PortalDefinition {
  return namesOf(definition, source).reduce((before, name) => {
    const own = withDeclaredRelations(namedCatalogue(catalogue, name), before);
    const inName: Renaming = {
      ...renaming,
      table: nameIn(name, renaming.table),
      to: renaming.column === undefined ? nameIn(name, renaming.to) : renaming.to,
    };
    const stray = renaming.column === undefined ? { table: inName.to } : { table: inName.table, column: inName.to };
    const parked = `_porch_gone_${stamp}_${renaming.to}`.slice(0, 64);
    const clear = withoutStray(before, own, {
      ...stray,
      to: renaming.column === undefined ? nameIn(name, parked) : parked,
    });
    const after = JSON.parse(JSON.stringify(translate(clear, own, renamedCatalogue(own, inName)))) as PortalDefinition;
    const { tables } = sourceCalled(after, name);
    if (tables && renaming.column === undefined)
      sourceCalled(after, name).tables = tables.map((table) => (table === renaming.table ? renaming.to : table));
    return after;
  }, definition);
}

/** Throws where the renaming can't be followed everywhere; nothing is changed. */
export async function refuseRename(source: PortalSource, catalogue: Catalogue, renaming: Renaming): Promise<void> {
  await refuseStray(
    source,
    catalogue,
    renaming.column === undefined ? { table: renaming.to } : { table: renaming.table, column: renaming.to },
  );
  for (const { portal, draft, versions } of await portalsOver(source)) {
    try {
      translated(readDefinition(draft), source, catalogue, renaming);
      for (const version of versions)
        if (version.number === portal.publishedVersion)
          translated(readDefinition(JSON.parse(version.document)), source, catalogue, renaming);
    } catch (error) {
      if (!(error instanceof DefinitionError)) throw error;
      throw new Problem(
        422,
        'invalid-values',
        `${draft.portal.name} could not follow this name: ` +
          `${error.faults.map((fault) => `${fault.place} ${fault.reason}`).join('; ')}.`,
        { fields: { to: `${draft.portal.name} can't follow this name. Choose another.` } },
      );
    }
  }
}

/**
 * After a table or column of the database got another name: every portal over it speaks of it by the new one, in its
 * draft and in every version that is kept. So does what can be undone. A version that can't be brought along is not
 * published again.
 */
export async function followRename(
  sequelize: Sequelize,
  source: PortalSource,
  catalogue: Catalogue,
  renaming: Renaming,
  transaction: Transaction,
): Promise<void> {
  const { table, column, to } = renaming;
  const what = column === undefined ? `${table} is called ${to}` : `${table}.${column} is called ${to}`;
  const stamp = Date.now().toString(36);
  for (const { portal, versions } of await portalsOver(source, transaction)) {
    const before = readDefinition(JSON.parse(portal.draft));
    const along = (definition: PortalDefinition) => translated(definition, source, catalogue, renaming, stamp);
    const draft = JSON.stringify(along(before));
    const changed = draft !== JSON.stringify(before);
    await bringHistoryAlong(
      portal.id,
      JSON.parse(portal.draft) as PortalDefinition,
      (state) => inNewNames(state, source, catalogue, renaming, stamp),
      transaction,
    );
    if (changed) await portal.update({ draft, revision: portal.revision + 1 }, { transaction });
    for (const version of versions) await bringAlong(version, portal, along, what, transaction);
    if (namesOf(JSON.parse(portal.draft) as PortalDefinition, source).includes(null))
      await renameKept(portal.id, catalogue, renaming, sequelize, transaction);
  }
  await renameInCeilings(source, catalogue, renaming, transaction);
  await countRightsChange(sequelize, transaction);
}

async function bringAlong(
  version: Version,
  portal: Portal,
  along: (definition: PortalDefinition) => PortalDefinition,
  what: string,
  transaction: Transaction,
): Promise<void> {
  const place = { where: { portalId: version.portalId, number: version.number }, transaction };
  try {
    const before = readDefinition(JSON.parse(version.document));
    const document = JSON.stringify(along(before));
    if (document !== JSON.stringify(before)) await Version.update({ document }, place);
  } catch (error) {
    // What members have must follow; else the renaming is taken back.
    if (version.number === portal.publishedVersion || !(error instanceof DefinitionError)) throw error;
    await Version.update(
      {
        outdated: (
          `It can't follow that ${what}: ` +
          `${error.faults.map((fault) => `${fault.place} ${fault.reason}`).join('; ')}.`
        ).slice(0, 500),
      },
      place,
    );
  }
}

/**
 * Which rows members stand on, how files were brought in, which files columns hold: kept by the names of tables and
 * columns.
 */
async function renameKept(
  portalId: number,
  catalogue: Catalogue,
  renaming: Renaming,
  sequelize: Sequelize,
  transaction: Transaction,
): Promise<void> {
  const { table, column, to } = renaming;
  if (column === undefined) {
    const members = (await Member.findAll({ where: { portalId }, attributes: ['id'], transaction })).map(
      (member) => member.id,
    );
    await Membership.update({ rosterTable: to }, { where: { memberId: members, rosterTable: table }, transaction });
  }
  for (const mapping of await ImportMapping.findAll({ where: { portalId }, transaction })) {
    const plan = planAfter(JSON.parse(mapping.mapping) as ImportPlan, catalogue, renaming);
    await ImportMapping.destroy({ where: { portalId, tableName: mapping.tableName }, transaction });
    await ImportMapping.upsert(
      {
        portalId,
        tableName: column === undefined && mapping.tableName === table ? to : mapping.tableName,
        mapping: JSON.stringify(plan),
      },
      { transaction },
    );
  }
  await renameInKeptViews(portalId, catalogue, renaming, transaction);
  await renameInTalk(portalId, catalogue, renaming, transaction);
  await renameInHistory(portalId, renaming, transaction);
  await renameFiles(sequelize, portalId, renaming, transaction);
}

async function renameInKeptViews(
  portalId: number,
  catalogue: Catalogue,
  renaming: Renaming,
  transaction: Transaction,
): Promise<void> {
  const names = new Names(catalogue, renamedCatalogue(catalogue, renaming));
  for (const kept of await KeptView.findAll({ where: { portalId }, transaction, lock: true })) {
    const standing = JSON.parse(kept.standing) as KeptStanding;
    const path = (text: string) => names.path(kept.tableName, text);
    const next: KeptStanding = {
      ...standing,
      columns: standing.columns.map(path),
      sort: standing.sort.map((term) => ({ ...term, column: path(term.column) })),
      filter: standing.filter && names.condition(kept.tableName, standing.filter),
      ...(standing.chart ? { chart: renamedDrawn(standing.chart, path) } : {}),
    };
    await kept.update({ tableName: names.table(kept.tableName), standing: JSON.stringify(next) }, { transaction });
  }
}

function planAfter(plan: ImportPlan, catalogue: Catalogue, { table, column, to }: Renaming): ImportPlan {
  if (column === undefined) return plan.table === table ? { ...plan, table: to } : plan;
  const own = (name: string) => (plan.table === table && name === column ? to : name);
  const relations = findTable(catalogue, plan.table)?.relations ?? [];
  const leads = (name: string) => relations.some((relation) => relation.column === name && relation.table === table);
  return {
    ...plan,
    key: plan.key === null ? null : own(plan.key),
    columns: plan.columns.map((each) => ({
      ...each,
      column: own(each.column),
      ...(each.by !== undefined && each.by === column && leads(each.column) ? { by: to } : {}),
    })),
  };
}

/**
 * A ceiling keeps to the table and columns that it was set for; where one of the new name is left of something gone,
 * the stricter of both holds.
 */
async function renameInCeilings(
  source: PortalSource,
  catalogue: Catalogue,
  renaming: Renaming,
  transaction: Transaction,
): Promise<void> {
  const setting = await Setting.findByPk(keptOf('ceilings', source), { transaction, lock: true });
  if (!setting) return;
  const { table, column, to } = renaming;
  const after = renamedCatalogue(catalogue, renaming);
  const next: Record<string, Ceiling> = {};
  const ceilings = Object.entries(readCeilings(JSON.parse(setting.value)));
  for (const [of, ceiling] of ceilings) {
    const columns = Object.entries(ceiling.columns ?? {}).map(
      ([name, may]) => [column !== undefined && of === table && name === column ? to : name, may] as const,
    );
    const merged: Record<string, 'nothing' | 'read'> = {};
    for (const [name, may] of columns) merged[name] = merged[name] === 'nothing' ? 'nothing' : may;
    const moved: Ceiling = {
      ...ceiling,
      ...(ceiling.columns ? { columns: merged } : {}),
      ...(ceiling.where ? { where: translateCondition(ceiling.where, of, catalogue, after) } : {}),
    };
    // A ceiling of a table that is gone and had the new name yields to that of the table that has it now.
    if (column === undefined && of === to) continue;
    next[column === undefined && of === table ? to : of] = moved;
  }
  const left = ceilings.find(([of]) => column === undefined && of === to);
  if (left && !Object.hasOwn(next, to)) next[to] = left[1];
  await setting.update({ value: JSON.stringify(next) }, { transaction });
}
