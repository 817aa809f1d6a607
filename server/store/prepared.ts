import type { Connection } from 'mariadb';
import type { Sequelize } from 'sequelize';

/**
 * Runs a prepared statement on the product's own tables, for the one question that every request asks; rows come as
 * arrays.
 */
export async function prepared(sequelize: Sequelize, text: string, params: (string | number)[]): Promise<unknown[][]> {
  const connection = (await sequelize.connectionManager.getConnection({ type: 'read' })) as Connection;
  try {
    return await connection.execute({ sql: text, rowsAsArray: true }, params);
  } finally {
    sequelize.connectionManager.releaseConnection(connection as never);
  }
}
