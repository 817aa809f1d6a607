import { Op } from 'sequelize';
import type { RecordKey } from '../gate/gate';
import { DiscussedRecord } from '../store/comment-models';
import { keyHash, readColumns } from '../store/discussed-key';

/** A table of a portal whose records are discussed. */
export interface DiscussedTable {
  portalId: number;
  tableName: string;
}

/** The columns that tell, or told, records of a table apart of which something was said. */
export async function keysInUse({ portalId, tableName }: DiscussedTable): Promise<string[][]> {
  const where = { portalId, tableName, closed: 0 };
  const found = await DiscussedRecord.findAll({ attributes: ['keyColumns'], where, group: ['keyColumns'] });
  return found.map(({ keyColumns }) => readColumns(keyColumns));
}

/** What is known of a record by any of its keys; null where nothing was said of it yet. */
export const discussedRecord = (
  { portalId, tableName }: DiscussedTable,
  keys: readonly RecordKey[],
): Promise<DiscussedRecord | null> =>
  DiscussedRecord.findOne({
    where: { portalId, tableName, closed: 0, keyHash: keys.map(keyHash) },
    order: [['id', 'ASC']],
  });

/** Of records by these keys, those of which something was said, by the text of their keys. */
export async function discussedOf(
  { portalId, tableName }: DiscussedTable,
  keys: readonly RecordKey[],
): Promise<string[]> {
  if (keys.length === 0) return [];
  const where = { portalId, tableName, closed: 0, keyHash: keys.map(keyHash) };
  const found = await DiscussedRecord.findAll({ attributes: ['recordKey'], where });
  return found.map(({ recordKey }) => recordKey);
}

/** As `discussedRecord`, made where there is none. */
export async function discussedFromNow(
  { portalId, tableName }: DiscussedTable,
  keys: readonly RecordKey[],
): Promise<DiscussedRecord> {
  const known = await discussedRecord({ portalId, tableName }, keys);
  if (known) return known;
  const [key] = keys as [RecordKey];
  const where = { portalId, tableName, keyHash: keyHash(key), closed: 0 };
  const [made] = await DiscussedRecord.findOrCreate({
    where,
    defaults: { ...where, keyColumns: JSON.stringify(key.columns), recordKey: key.id },
  });
  return made;
}

/** Closes for good what was said of records that are gone: a key that is used again brings nobody a stranger's talk. */
export async function closeDiscussed(
  { portalId, tableName }: DiscussedTable,
  keys: readonly RecordKey[],
  deleted: { by: number | null; held: string | null } = { by: null, held: null },
): Promise<void> {
  if (keys.length === 0) return;
  await DiscussedRecord.update(
    {
      closed: DiscussedRecord.sequelize!.col('id') as unknown as number,
      closedAt: new Date(),
      closedBy: deleted.by,
      held: deleted.held,
    },
    { where: { portalId, tableName, keyHash: { [Op.in]: keys.map(keyHash) }, closed: 0 } },
  );
}

/** So long a member can undo that they deleted a record, in milliseconds. */
const undoneWithin = 3600_000;

/**
 * What was said of a record that a member deleted a short while ago hangs on the one that they make in its place, if
 * that holds the very same.
 */
export async function reopenDiscussed(
  { portalId, tableName }: DiscussedTable,
  was: RecordKey,
  is: RecordKey,
  deleted: { by: number; held: string },
): Promise<void> {
  const since = new Date(Date.now() - undoneWithin);
  const closed = await DiscussedRecord.findOne({
    where: {
      portalId,
      tableName,
      keyHash: keyHash(was),
      closed: { [Op.ne]: 0 },
      closedAt: { [Op.gt]: since },
      closedBy: deleted.by,
      held: deleted.held,
    },
    order: [['id', 'DESC']],
  });
  const again = { closed: 0, closedAt: null, closedBy: null, held: null };
  await closed?.update({ ...again, keyColumns: JSON.stringify(is.columns), recordKey: is.id, keyHash: keyHash(is) });
}
