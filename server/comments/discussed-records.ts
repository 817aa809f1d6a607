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
): Promise<void> {
  if (keys.length === 0) return;
  await DiscussedRecord.update(
    { closed: DiscussedRecord.sequelize!.col('id') as unknown as number, closedAt: new Date() },
    { where: { portalId, tableName, keyHash: { [Op.in]: keys.map(keyHash) }, closed: 0 } },
  );
}
