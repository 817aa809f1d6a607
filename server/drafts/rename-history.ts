import type { Transaction } from 'sequelize';
import type { Renaming } from '../../core/definition/renamed-catalogue';
import { KeptChange } from '../store/history-model';
import { moveInJson } from '../store/json-sql';

/** What is kept of records, and recorded of members, is kept by the names of their tables and columns. */
export async function renameInHistory(
  portalId: number,
  { table, column, to }: Renaming,
  transaction: Transaction,
): Promise<void> {
  const path = (...names: string[]) => ['$', ...names.map((each) => JSON.stringify(each))].join('.');
  if (column === undefined) {
    await KeptChange.update({ tableName: to }, { where: { portalId, tableName: table }, transaction });
    await moveInJson(['recorded_roles', 'state'], path('rows', table), path('rows', to), { portalId }, transaction);
    return;
  }
  for (const side of ['was', 'now'] as const)
    await moveInJson(['record_changes', side], path(column), path(to), { portalId, table }, transaction);
  const [was, is] = [column, to].map((each) => path('rows', table, each));
  await moveInJson(['recorded_roles', 'state'], was!, is!, { portalId }, transaction);
}
