import { pino, type Logger } from 'pino';
import { readCeilings } from '../core/definition/ceilings';
import type { SavedQuery } from './gate/saved-query';
import { Connections } from './portals/connections';
import { Definitions, Sources } from './portals/definitions';
import type { DatabaseAddress } from './sources/mariadb';
import { openStore, readSetting, type Store } from './store/store';

/** What both the server and the worker of its jobs work with. */
export interface CoreServices {
  store: Store;
  sources: Sources;
  definitions: Definitions;
  connections: Connections;
  log: Logger;
}

export interface CoreOptions {
  database: DatabaseAddress;
  ownSchema: string;
  secretKey: Buffer;
  log?: Logger;
  /** Open connections to each source. */
  connections?: number;
}

/** Migrates the product's tables and opens the sources over them. */
export async function openServices(options: CoreOptions): Promise<CoreServices & { close(): Promise<void> }> {
  const store = await openStore(options.database, options.ownSchema);
  const connections = new Connections(options.secretKey);
  const ceilings = async (schema: string) => readCeilings(JSON.parse((await readSetting(`ceilings/${schema}`)) ?? '{}'));
  const sources = new Sources(options.database, options.connections ?? 10, ceilings, (name) => connections.find(name), async (schema) => JSON.parse((await readSetting(`queries/${schema}`)) ?? '[]') as SavedQuery[]);
  return {
    store, sources, connections, definitions: new Definitions(), log: options.log ?? pino({ level: 'silent' }),
    close: async () => {
      await sources.close();
      await store.close();
    },
  };
}
