import { Op, type Transaction } from 'sequelize';
import { renamedCatalogue, type Renaming } from '../../core/definition/renamed-catalogue';
import { Names } from '../../core/definition/names';
import type { Catalogue } from '../../core/table/catalogue';
import { Comment, DiscussedRecord } from '../store/comment-models';
import { keyHash, readColumns } from '../store/discussed-key';

/** What is said of records hangs on them by the names of their tables and of the columns that tell them apart. */
export async function renameInTalk(
  portalId: number,
  catalogue: Catalogue,
  renaming: Renaming,
  transaction: Transaction,
): Promise<void> {
  const names = new Names(catalogue, renamedCatalogue(catalogue, renaming));
  const records = await DiscussedRecord.findAll({ where: { portalId }, transaction, lock: true });
  const tables = new Map(records.map((record) => [record.id, record.tableName]));
  for (const record of records) {
    const columns = readColumns(record.keyColumns).map((column) => names.column(record.tableName, column));
    const keyed = { keyColumns: JSON.stringify(columns), keyHash: keyHash({ columns, id: record.recordKey }) };
    await record.update({ tableName: names.table(record.tableName), ...keyed }, { transaction });
  }
  const doubts = await Comment.findAll({
    attributes: ['id', 'recordId', 'aboutColumn'],
    where: { recordId: [...tables.keys()], aboutColumn: { [Op.ne]: null } },
    transaction,
  });
  for (const doubt of doubts) {
    const column = names.column(tables.get(Number(doubt.recordId))!, doubt.aboutColumn!);
    if (column !== doubt.aboutColumn) await doubt.update({ aboutColumn: column }, { transaction });
  }
  const comments = await Comment.findAll({
    attributes: ['id', 'recordId', 'standing'],
    where: { recordId: [...tables.keys()], standing: { [Op.ne]: '{}' } },
    transaction,
  });
  for (const comment of comments) {
    const table = tables.get(Number(comment.recordId))!;
    const standing = Object.fromEntries(
      Object.entries(JSON.parse(comment.standing) as Record<string, string>).map(([path, value]) => [
        names.path(table, path),
        value,
      ]),
    );
    await comment.update({ standing: JSON.stringify(standing) }, { transaction });
  }
}
