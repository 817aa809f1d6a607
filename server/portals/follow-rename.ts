import type { Sequelize, Transaction } from 'sequelize';
import { renamedCatalogue, translate, usesOf, type Renaming } from '../../core/definition/translate';
import { withDeclaredRelations } from '../../core/definition/declared-relations';
import type { PortalDefinition, PortalSource } from '../../core/definition/definition';
import { namedCatalogue, nameIn, namesOf, sourceCalled } from '../../core/definition/sources';
import { readDefinition } from '../../core/definition/read';
import type { Catalogue } from '../../core/table/catalogue';
import { DraftEdit, Membership, Member, Portal, Setting, Version } from '../store/models';

/** The portals that have records in a source, as their own or as a further one. */
async function portalsOver(source: PortalSource): Promise<{ portal: Portal; draft: PortalDefinition }[]> {
  const portals = (await Portal.findAll({ order: [['slug', 'ASC']] })).map((portal) => ({ portal, draft: JSON.parse(portal.draft) as PortalDefinition }));
  return portals.filter(({ draft }) => namesOf(draft, source).length > 0);
}

/** Where drafts use a table or column of a source, by portal. The catalogue and the names are the database's. */
export async function usesAtSource(source: PortalSource, catalogue: Catalogue, table: string, column?: string): Promise<{ portal: string; uses: string[] }[]> {
  const found = (await portalsOver(source)).map(({ draft }) => ({
    portal: draft.portal.name,
    uses: [...new Set(namesOf(draft, source).flatMap((name) => usesOf(draft, withDeclaredRelations(namedCatalogue(catalogue, name), draft), nameIn(name, table), column)))],
  }));
  return found.filter((each) => each.uses.length > 0);
}

/**
 * After a table or column of the database got another name: every portal over it speaks of it by the new one. Drafts are changed in place, and
 * what stood in their undo no longer fits and is forgotten; where a portal is published, a version that says the same follows.
 */
export async function followRename(sequelize: Sequelize, source: PortalSource, catalogue: Catalogue, renaming: Renaming, by: string): Promise<void> {
  const translated = (definition: PortalDefinition): PortalDefinition => namesOf(definition, source).reduce((before, name) => {
    const own = withDeclaredRelations(namedCatalogue(catalogue, name), before);
    const called: Renaming = { ...renaming, table: nameIn(name, renaming.table), to: renaming.column === undefined ? nameIn(name, renaming.to) : renaming.to };
    const after = JSON.parse(JSON.stringify(translate(before, own, renamedCatalogue(own, called)))) as PortalDefinition;
    const { tables } = sourceCalled(after, name);
    if (tables && renaming.column === undefined) sourceCalled(after, name).tables = tables.map((table) => (table === renaming.table ? renaming.to : table));
    return readDefinition(after);
  }, definition);
  const what = renaming.column === undefined ? `${renaming.table} is called ${renaming.to}` : `${renaming.table}.${renaming.column} is called ${renaming.to}`;
  await sequelize.transaction(async (transaction) => {
    for (const { portal: found } of await portalsOver(source)) {
      const portal = await Portal.findByPk(found.id, { transaction, lock: true, rejectOnEmpty: true });
      const draft = JSON.stringify(translated(readDefinition(JSON.parse(portal.draft))));
      await DraftEdit.destroy({ where: { portalId: portal.id }, transaction });
      const changes: Partial<Pick<Portal, 'draft' | 'revision' | 'publishedVersion'>> = { draft, revision: portal.revision + 1 };
      if (portal.publishedVersion !== null) {
        const published = await Version.findOne({ where: { portalId: portal.id, number: portal.publishedVersion }, transaction, rejectOnEmpty: true });
        const next = Number(await Version.max('number', { where: { portalId: portal.id }, transaction })) + 1;
        await Version.create({ portalId: portal.id, number: next, document: JSON.stringify(translated(readDefinition(JSON.parse(published.document)))), note: `As version ${published.number}: ${what}`, publishedBy: by, publishedAt: new Date() }, { transaction });
        changes.publishedVersion = next;
      }
      await portal.update(changes, { transaction });
      if (renaming.column === undefined) {
        const members = (await Member.findAll({ where: { portalId: portal.id }, attributes: ['id'], transaction })).map((member) => member.id);
        await Membership.update({ rosterTable: renaming.to }, { where: { memberId: members, rosterTable: renaming.table }, transaction });
      }
    }
    await renameInCeilings(source, renaming, transaction);
  });
}

async function renameInCeilings(source: PortalSource, { table, column, to }: Renaming, transaction: Transaction): Promise<void> {
  const name = `ceilings/${source.connection === undefined ? '' : `${source.connection}/`}${source.schema}`;
  const setting = await Setting.findByPk(name, { transaction });
  if (!setting) return;
  const ceilings = JSON.parse(setting.value) as Record<string, { columns?: Record<string, unknown> }>;
  const key = (each: string) => (column === undefined && each === table ? to : each);
  const renamed = Object.fromEntries(Object.entries(ceilings).map(([each, ceiling]) => [key(each), column !== undefined && each === table && ceiling.columns ? { ...ceiling, columns: Object.fromEntries(Object.entries(ceiling.columns).map(([of, may]) => [of === column ? to : of, may])) } : ceiling]));
  await setting.update({ value: JSON.stringify(renamed) }, { transaction });
}
