import * as mariadb from 'mariadb';
import { Sequelize, type Options } from 'sequelize';

/** How to reach a MariaDB server. Either a socket or host and port. */
export interface DatabaseAddress {
  host: string;
  port: number;
  socketPath?: string;
  user: string;
  password: string;
}

export const strictInUtc =
  'SET SESSION sql_mode = ' +
  "'STRICT_ALL_TABLES,NO_ZERO_DATE,NO_ZERO_IN_DATE,ERROR_FOR_DIVISION_BY_ZERO,NO_ENGINE_SUBSTITUTION'" +
  ", SESSION time_zone = '+00:00'";

/**
 * In a Galera cluster a node shows what another has said yes to a moment later; with this it first takes in what had
 * been decided when it was asked, so that no right that was taken away is still there. Elsewhere it does nothing.
 */
export const upToDate = ', SESSION wsrep_sync_wait = 1';

/** Connections as every part of the server wants them: UTC, strict, utf8mb4, dates as text, no number rounded. */
export function connectSequelize(
  address: DatabaseAddress,
  database: string,
  connections: number,
  driver: Record<string, unknown> = {},
): Sequelize {
  const options: Options & { keepDefaultTimezone: true; databaseVersion: string } = {
    dialect: 'mariadb',
    host: address.host,
    port: address.port,
    username: address.user,
    password: address.password,
    database,
    timezone: '+00:00',
    // Left to itself Sequelize adds a statement about it to the list below for each connection that it makes, so that
    // the thousandth begins with a thousand.
    keepDefaultTimezone: true,
    // Each connection that is made puts the true one in its place; without any, one is made for that alone at first.
    databaseVersion: '10.11.0',
    // The one that is here already: Sequelize would look for it again by its name.
    dialectModule: mariadb,
    logging: false,
    pool: { max: connections, min: 0, idle: 30_000, acquire: 8000 },
    dialectOptions: {
      ...(address.socketPath ? { socketPath: address.socketPath } : {}),
      collation: 'utf8mb4_general_ci',
      connectTimeout: 5000,
      initSql: [strictInUtc + upToDate],
      ...driver,
    },
  };
  return new Sequelize(options);
}
