import { QueryTypes, type Transaction } from 'sequelize';
import type { Renaming } from '../../core/definition/renamed-catalogue';
import { KeptChange } from '../store/history-model';

/** What is kept of records is kept by the names of their tables and columns. */
export async function renameInHistory(
  portalId: number,
  { table, column, to }: Renaming,
  transaction: Transaction,
): Promise<void> {
  if (column === undefined) {
    await KeptChange.update({ tableName: to }, { where: { portalId, tableName: table }, transaction });
    return;
  }
  const [was, is] = [column, to].map((each) => `$.${JSON.stringify(each)}`);
  for (const side of ['was', 'now'])
    await KeptChange.sequelize!.query(
      `UPDATE record_changes SET ${side} = JSON_REMOVE(JSON_INSERT(${side}, $is, JSON_EXTRACT(${side}, $was)), $was)
        WHERE portal_id = $portalId AND table_name = $table AND JSON_EXISTS(${side}, $was)`,
      { bind: { portalId, table, was, is }, type: QueryTypes.UPDATE, transaction },
    );
}
