import { pino, type Logger } from 'pino';
import { readCeilings } from '../core/definition/ceilings';
import type { SavedQuery } from './gate/facts/saved-query';
import { Connections } from './portals/connections';
import { Definitions, Sources } from './portals/definitions';
import type { ReachedStep } from './portals/shape-changes';
import type { DatabaseAddress } from './sources/mariadb';
import { readRightsRevision } from './store/rights-revision';
import { reachableAddress } from './sources/reachable';
import { openStore, readSetting, type Store } from './store/store';

/** What both the server and the worker of its jobs work with. */
export interface CoreServices {
  store: Store;
  sources: Sources;
  definitions: Definitions;
  connections: Connections;
  log: Logger;
  /**
   * Forgets what was read before the last change of what limits rights, told by its number; without one the number is
   * asked for. Called with each visit.
   */
  followRights(revision?: number): Promise<void>;
  /** Told of each step of a change of shape; for tests that stop the server between two. */
  reached?: ReachedStep;
}

export interface CoreOptions {
  database: DatabaseAddress;
  ownSchema: string;
  secretKey: Buffer;
  /** Whether connections may lead to this machine and its own network. */
  privateAddresses?: boolean;
  log?: Logger;
  /** So long a statement may run: 20 seconds when nothing is said. */
  statementSeconds?: number;
  /** Open connections to each source. */
  connections?: number;
}

/** Migrates the product's tables and opens the sources over them. */
export async function openServices(options: CoreOptions): Promise<CoreServices & { close(): Promise<void> }> {
  const store = await openStore(options.database, options.ownSchema);
  const connections = new Connections(options.secretKey, options.privateAddresses ?? false);
  const ceilings = async (schema: string) =>
    readCeilings(JSON.parse((await readSetting(`ceilings/${schema}`)) ?? '{}'));
  const sources = new Sources(options.database, {
    ownSchema: options.ownSchema,
    connections: options.connections ?? 20,
    statementSeconds: options.statementSeconds,
    ceilingsOf: ceilings,
    connectionOf: (name) => connections.find(name),
    mayReach: async (host) => void (await reachableAddress(host, options.privateAddresses ?? false)),
    queriesOf: async (schema) => JSON.parse((await readSetting(`queries/${schema}`)) ?? '[]') as SavedQuery[],
  });
  const definitions = new Definitions();
  let known: number | null = null;
  return {
    store,
    sources,
    connections,
    definitions,
    log: options.log ?? pino({ level: 'silent' }),
    followRights: async (told) => {
      const revision = told ?? (await readRightsRevision(store.sequelize));
      if (revision === known) return;
      known = revision;
      sources.forget();
      definitions.forget();
    },
    close: async () => {
      await sources.close();
      await store.close();
    },
  };
}
