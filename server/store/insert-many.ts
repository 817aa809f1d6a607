import type { CreationAttributes, Model, ModelStatic, Transaction } from 'sequelize';

/**
 * Inserts rows without making models of them, which takes longer than the database does; one whose key is there already
 * is left out. All rows have the same columns.
 */
export async function insertMany<M extends Model>(
  model: ModelStatic<M>,
  rows: readonly CreationAttributes<M>[],
  transaction?: Transaction,
): Promise<void> {
  if (rows.length === 0) return;
  const attributes = model.getAttributes() as Record<string, { field?: string }>;
  const named = rows.map((row) =>
    Object.fromEntries(Object.entries(row).map(([key, value]) => [attributes[key]?.field ?? key, value as unknown])),
  );
  await model.sequelize!.getQueryInterface().bulkInsert(model.getTableName(), named, {
    transaction,
    ignoreDuplicates: true,
  } as object);
}
