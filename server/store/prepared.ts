import type { Connection } from 'mariadb';
import type { Sequelize } from 'sequelize';

export type Parameter = string | number | null;

/**
 * Runs a prepared statement on the product's own tables, for what every request or every sign-in asks; rows come as
 * arrays.
 */
export function prepared(sequelize: Sequelize, text: string, params: Parameter[]): Promise<unknown[][]> {
  return execute(sequelize, 'read', text, params);
}

/** By the product's own tables: connections for statements that write only where a proof in them holds. */
export const provers = new WeakMap<Sequelize, Sequelize>();

/** As `preparedWrite`, of an INSERT that asks other tables: what it asks it leaves to others, locked by nothing. */
export const provedWrite = (sequelize: Sequelize, text: string, params: Parameter[]): Promise<number> =>
  preparedWrite(provers.get(sequelize)!, text, params);

/** As `prepared`, of a statement that changes something. Gives how many rows it found. */
export async function preparedWrite(sequelize: Sequelize, text: string, params: Parameter[]): Promise<number> {
  const { affectedRows } = await execute<{ affectedRows: number }>(sequelize, 'write', text, params);
  return affectedRows;
}

async function execute<Answer>(
  sequelize: Sequelize,
  type: 'read' | 'write',
  text: string,
  params: Parameter[],
): Promise<Answer> {
  const connection = (await sequelize.connectionManager.getConnection({ type })) as Connection;
  try {
    return await connection.execute<Answer>({ sql: text, rowsAsArray: true }, params);
  } finally {
    sequelize.connectionManager.releaseConnection(connection as never);
  }
}

/** A moment as a prepared statement takes it: in UTC, with milliseconds. */
export const momentParameter = (moment: Date): string => moment.toISOString().slice(0, 23).replace('T', ' ');
