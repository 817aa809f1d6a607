import { Op } from 'sequelize';
import { sourceName } from '../../core/definition/sources';
import type { CoreServices } from '../definitions/portal-services';
import { forgetLooseFiles } from '../files/stored-file';
import { goneRecords } from '../gate/gate';
import { inTurns, type Turns } from '../outbox/turns';
import { DiscussedRecord } from '../store/comment-models';
import { readColumns } from '../store/discussed-key';
import { Portal } from '../store/models';
import { closeDiscussed } from './discussed-records';

const every = 5 * 60_000;

/** So many are looked for with one statement. */
const atOnce = 200;

/** So many are not closed at one look where they are most of those that were looked for. */
const tooMany = 20;

/** What was said of a record that is gone is kept so long, in days, should somebody ask for it. */
const keptDays = 30;

/**
 * Looks in the background whether records of which something was said are still there, since their own programs may
 * have deleted them, and closes for good what was said of those that aren't.
 */
export function lookAfterTalk(services: CoreServices): Turns {
  return inTurns(async (isClosed) => {
    await closeTalkOfGone(services, new Date(), isClosed);
    await DiscussedRecord.destroy({
      where: { closedAt: { [Op.lt]: new Date(Date.now() - keptDays * 24 * 3600_000) } },
    });
    await forgetLooseFiles(services.store.sequelize);
  }, every);
}

/** Looks once at all records that were not looked at since shortly before `now`. */
export async function closeTalkOfGone(
  services: CoreServices,
  now: Date,
  isClosed: () => boolean = () => false,
): Promise<void> {
  const before = new Date(now.getTime() - every / 2);
  for (;;) {
    const first = await DiscussedRecord.findOne({
      where: { closed: 0, lookedAt: { [Op.lt]: before } },
      order: [['lookedAt', 'ASC']],
    });
    if (!first || isClosed()) return;
    const { portalId, tableName, keyColumns } = first;
    const alike = { portalId, tableName, keyColumns, closed: 0 };
    const records = await DiscussedRecord.findAll({
      where: { ...alike, lookedAt: { [Op.lt]: before } },
      order: [['id', 'ASC']],
      limit: atOnce,
    });
    await DiscussedRecord.update({ lookedAt: now }, { where: { id: records.map(({ id }) => id) } });
    try {
      const columns = readColumns(keyColumns);
      const ids = await goneOf(services, Number(portalId), tableName, columns, records);
      // Most of many gone is another database in the place of theirs, or an empty one: what is said would be lost.
      if (ids.length >= tooMany && ids.length * 2 > records.length) throw new Error('most of them are gone');
      await closeDiscussed(
        { portalId: Number(portalId), tableName },
        ids.map((id) => ({ columns, id })),
      );
    } catch (error) {
      // A database that can't be asked says nothing of its records.
      services.log.warn({ table: tableName, reason: (error as Error).name }, 'not seen whether records are there');
    }
  }
}

async function goneOf(
  services: CoreServices,
  portalId: number,
  tableName: string,
  columns: string[],
  records: DiscussedRecord[],
): Promise<string[]> {
  const portal = await Portal.findByPk(portalId);
  if (!portal || portal.publishedVersion === null) return [];
  const definition = await services.definitions.version(portalId, portal.publishedVersion);
  const opened = await services.sources.of(definition);
  const there = opened.elsewhere ? await opened.elsewhere(sourceName(definition, tableName)) : opened;
  return goneRecords(
    there.source,
    there.catalogue,
    tableName,
    columns,
    records.map(({ recordKey }) => recordKey),
  );
}
