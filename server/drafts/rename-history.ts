import { QueryTypes, type Transaction } from 'sequelize';
import type { Renaming } from '../../core/definition/renamed-catalogue';
import { KeptChange } from '../store/history-model';

/** What is kept of records, and recorded of members, is kept by the names of their tables and columns. */
export async function renameInHistory(
  portalId: number,
  { table, column, to }: Renaming,
  transaction: Transaction,
): Promise<void> {
  const path = (...names: string[]) => ['$', ...names.map((each) => JSON.stringify(each))].join('.');
  if (column === undefined) {
    await KeptChange.update({ tableName: to }, { where: { portalId, tableName: table }, transaction });
    await moveInJson('recorded_roles', 'state', path('rows', table), path('rows', to), { portalId }, transaction);
    return;
  }
  for (const side of ['was', 'now'])
    await moveInJson('record_changes', side, path(column), path(to), { portalId, table }, transaction);
  const [was, is] = [column, to].map((each) => path('rows', table, each));
  await moveInJson('recorded_roles', 'state', was!, is!, { portalId }, transaction);
}

/** Lets what stands at a path of JSON texts stand at another. */
async function moveInJson(
  table: string,
  column: string,
  was: string,
  is: string,
  of: { portalId: number; table?: string },
  transaction: Transaction,
): Promise<void> {
  const ofTable = of.table === undefined ? '' : ' AND table_name = $table';
  await KeptChange.sequelize!.query(
    `UPDATE ${table} SET ${column} = JSON_REMOVE(JSON_INSERT(${column}, $is, JSON_EXTRACT(${column}, $was)), $was)
      WHERE portal_id = $portalId AND JSON_EXISTS(${column}, $was)${ofTable}`,
    { bind: { ...of, was, is }, type: QueryTypes.UPDATE, transaction },
  );
}
