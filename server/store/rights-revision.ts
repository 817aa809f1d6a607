import type { Sequelize, Transaction } from 'sequelize';
import { prepared } from './prepared';

/**
 * What limits rights beside a definition (ceilings, saved queries, the shape of tables) has one number in the database
 * that counts its changes.
 * Every visit compares it with the one that this process knows, so that nothing read before a change outlives it,
 * whichever server made it.
 */

/** The number as an expression for a statement; `schema` stands before the product's tables where it isn't on them. */
export const rightsRevisionSql = (schema = '') => `(SELECT revision FROM ${schema}rights_revision WHERE id = 1)`;

export async function readRightsRevision(sequelize: Sequelize): Promise<number> {
  const [row] = await prepared(sequelize, `SELECT ${rightsRevisionSql()}`, []);
  return Number(row?.[0] ?? 0);
}

/** Counts a change; in the transaction that makes it. */
export async function countRightsChange(sequelize: Sequelize, transaction?: Transaction): Promise<void> {
  await sequelize.query('UPDATE rights_revision SET revision = revision + 1 WHERE id = 1', { transaction });
}
