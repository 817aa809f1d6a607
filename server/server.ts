import { randomBytes } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { pino, type Logger } from 'pino';
import { createApp } from './http/app';
import type { Services } from './http/services';
import { Connections } from './portals/connections';
import { Definitions, Sources } from './portals/definitions';
import { signInFailures } from './sessions/failures';
import type { DatabaseAddress } from './sources/mariadb';
import { readCeilings } from '../core/definition/ceilings';
import { openStore, readSetting } from './store/store';

export interface ServerOptions {
  database: DatabaseAddress;
  ownSchema: string;
  port: number;
  webFolder: string | null;
  log?: Logger;
  trustProxy?: boolean;
  /** 32 bytes under which passwords of connected databases are sealed; without it none outlives the server. */
  secretKey?: Buffer;
}

export interface RunningServer {
  port: number;
  services: Services;
  /** Lets requests in hand finish, then closes everything. */
  close(): Promise<void>;
}

/** Migrates the product's tables and serves on loopback. */
export async function startServer(options: ServerOptions): Promise<RunningServer> {
  const store = await openStore(options.database, options.ownSchema);
  const connections = new Connections(options.secretKey ?? randomBytes(32));
  const sources = new Sources(options.database, 10, async (schema) => readCeilings(JSON.parse((await readSetting(`ceilings/${schema}`)) ?? '{}')), (name) => connections.find(name));
  const services: Services = {
    store,
    sources,
    connections,
    definitions: new Definitions(),
    failures: signInFailures(store.sequelize),
    log: options.log ?? pino({ level: 'silent' }),
    webFolder: options.webFolder,
    ownSchema: options.ownSchema,
    trustProxy: options.trustProxy ?? false,
  };
  const closeAll = async () => {
    await sources.close();
    await store.close();
  };
  try {
    const server = createServer(createApp(services));
    const port = await listen(server, options.port);
    return {
      port,
      services,
      close: async () => {
        const closed = new Promise((resolve) => server.close(resolve));
        server.closeIdleConnections();
        const late = setTimeout(() => server.closeAllConnections(), 5000);
        await closed;
        clearTimeout(late);
        await closeAll();
      },
    };
  } catch (error) {
    await closeAll();
    throw error;
  }
}

function listen(server: Server, port: number): Promise<number> {
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', () => resolve((server.address() as AddressInfo).port));
  });
}
