import { col, fn, Op } from 'sequelize';
import type { PortalDefinition } from '../../core/definition/definition';
import { KeptChange } from '../store/history-model';
import { Portal, Version } from '../store/models';

/** So many lines of a table are forgotten at once. */
const forgottenAtOnce = 5000;

/**
 * Forgets what is kept longer than its table says in the published version, or else in the draft, and what is of a
 * portal that is gone. Where a table keeps no history any more, what was kept stays.
 */
export async function forgetOldHistory(now: Date): Promise<void> {
  const tables = await KeptChange.findAll({
    attributes: ['portalId', 'tableName', [fn('MIN', col('at')), 'at']],
    group: ['portal_id', 'table_name'],
  });
  for (const { portalId, tableName, at: oldest } of tables) {
    const notes = await notesOf(Number(portalId));
    const history = notes && Object.hasOwn(notes, tableName) ? notes[tableName]!.history : undefined;
    const days = notes === null ? 0 : history?.days;
    if (days === undefined) continue;
    const before = new Date(now.getTime() - days * 24 * 3_600_000);
    if (oldest < before)
      await KeptChange.destroy({ where: { portalId, tableName, at: { [Op.lt]: before } }, limit: forgottenAtOnce });
  }
}

/** What is noted of a portal's tables; null where there is no such portal. */
async function notesOf(portalId: number): Promise<PortalDefinition['tables'] | null> {
  const portal = await Portal.findByPk(portalId);
  if (!portal) return null;
  const number = portal.publishedVersion;
  const version = number === null ? null : await Version.findOne({ where: { portalId, number } });
  return (JSON.parse(version?.document ?? portal.draft) as PortalDefinition).tables;
}
