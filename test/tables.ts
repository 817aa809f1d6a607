import { createConnection, type Connection } from 'mariadb';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';

/** A name of a schema that several test files use in turn, and that two of them may use at the same time. */
export const schemaOfWorker = (name: string): string => `${name}_${process.env.VITEST_POOL_ID ?? '1'}`;

/** Makes a schema anew and gives a plain connection to it, apart from the product's own code. */
export async function freshSchema(address: DatabaseAddress, schema: string): Promise<Connection> {
  const connection = await createConnection({
    ...address,
    connectTimeout: 5000,
    collation: 'utf8mb4_general_ci',
    timezone: '+00:00',
    bigIntAsNumber: true,
    insertIdAsNumber: true,
  });
  await connection.query(`DROP DATABASE IF EXISTS \`${schema}\``);
  await connection.query(`CREATE DATABASE \`${schema}\` CHARACTER SET utf8mb4 COLLATE utf8mb4_general_ci`);
  await connection.query(`USE \`${schema}\``);
  return connection;
}
