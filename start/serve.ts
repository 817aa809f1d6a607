import type { Server } from 'node:http';
import { pino } from 'pino';
import type { Among } from '../server/processes/among';
import { startServer, type RunningServer } from '../server/server';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import type { Settings } from './settings';

/** What a process needs to serve; a process of its own gets it as a message. */
export interface ServeOrder {
  database: DatabaseAddress;
  ownSchema: string;
  webFolder: string;
  /** In base64. */
  secretKey: string;
  /** Whether the database is this machine's own. */
  ownDatabase: boolean;
  settings: Settings;
}

/**
 * Serves those who come to a door, at a port where it listens at none itself; `alone` where no other process can be at
 * the database yet.
 */
export function serve(
  door: Server,
  { order, port }: { order: ServeOrder; port: number },
  alone: boolean,
  among?: Among,
): Promise<RunningServer> {
  const { settings } = order;
  return startServer({
    database: order.database,
    ownSchema: order.ownSchema,
    port,
    door,
    webFolder: order.webFolder,
    log: pino({ level: settings.log }),
    secretKey: Buffer.from(order.secretKey, 'base64'),
    alone,
    // Where everything is on one machine, its own addresses may be connected.
    privateAddresses: settings.privateDatabases ?? order.ownDatabase,
    trustProxy: settings.trustProxy,
    publicAddress: settings.address,
    metricsToken: settings.metrics,
    among,
  });
}
