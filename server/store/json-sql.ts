import { QueryTypes, type Transaction } from 'sequelize';
import { KeptChange } from './history-model';

/** Lets what stands at a path of the JSON texts of a portal stand at another; of one table where they have one. */
export async function moveInJson(
  [table, column]: ['recorded_roles', 'state'] | ['record_changes', 'was' | 'now'],
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
