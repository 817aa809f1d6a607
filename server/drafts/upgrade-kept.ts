import type { Sequelize, Transaction } from 'sequelize';
import { definitionVersion, type PortalDefinition } from '../../core/definition/definition';
import { upgraded } from '../../core/definition/upgrade/upgrade';
import { Portal, Setting, Version } from '../store/models';
import { readSetting } from '../store/store';
import { bringHistoryAlong } from './draft-history';

const setting = 'definition-format';

/**
 * Brings every draft and version that is kept in an older format up to today's, with what can be undone of a draft: a
 * portal as a whole or not at all. Costs one look where all are.
 */
export async function upgradeKept(sequelize: Sequelize): Promise<void> {
  if ((await readSetting(setting)) === String(definitionVersion)) return;
  for (const { id } of await Portal.findAll({ attributes: ['id'], order: [['id', 'ASC']] }))
    await sequelize.transaction((transaction) => upgradePortal(id, transaction));
  await Setting.upsert({ name: setting, value: String(definitionVersion) });
}

async function upgradePortal(portalId: number, transaction: Transaction): Promise<void> {
  const portal = await Portal.findByPk(portalId, { transaction, lock: true, rejectOnEmpty: true });
  const before = JSON.parse(portal.draft) as PortalDefinition;
  const along = (definition: PortalDefinition) => upgraded(definition) as PortalDefinition;
  const after = along(before);
  if (after !== before) {
    await bringHistoryAlong(portalId, before, along, transaction);
    // A higher revision, so that a copy in some server's memory is not taken for it.
    await portal.update({ draft: JSON.stringify(after), revision: portal.revision + 1 }, { transaction });
  }
  for (const version of await Version.findAll({ where: { portalId }, transaction, lock: true })) {
    const document = JSON.parse(version.document) as unknown;
    const now = upgraded(document);
    if (now !== document) await version.update({ document: JSON.stringify(now) }, { transaction });
  }
}
