import type { SavedQuery } from './gate/gate';
import { pino, type Logger } from 'pino';
import { readCeilings } from '../core/definition/read-ceilings';
import { Connections } from './connections/connections';
import { upgradeKept } from './drafts/upgrade-kept';
import { Definitions, Sources } from './definitions/definitions';
import type { DatabaseAddress } from './sources/connect-sequelize';
import { MailServers } from './mail/mail-server';
import { CallOutbox } from './outside/call-outbox';
import { Caller } from './outside/caller';
import { Outbox } from './outbox/outbox';
import { readRightsRevision } from './store/rights-revision';
import { reachableAddress } from './sources/reachable';
import { openStore, readSetting } from './store/store';
import type { CoreServices } from './definitions/portal-services';

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

/** Brings the product's tables and what is kept in them up to date, and opens the sources over them. */
export async function openServices(
  options: CoreOptions,
): Promise<CoreServices & { connections: Connections; close(): Promise<void> }> {
  const store = await openStore(options.database, options.ownSchema);
  await upgradeKept(store.sequelize);
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
    outbox: new Outbox(options.secretKey),
    outsideCalls: new CallOutbox(),
    caller: new Caller(options.secretKey, options.privateAddresses ?? false),
    mailServers: new MailServers(options.secretKey, options.privateAddresses ?? false),
    log: options.log ?? pino({ level: 'silent' }),
    followRights: async (told) => {
      const revision = told ?? (await readRightsRevision(store.sequelize));
      if (revision === known) return;
      known = revision;
      sources.forget();
      definitions.forget();
    },
    isFollowed: (revision) => revision === known,
    close: async () => {
      await sources.close();
      await store.close();
    },
  };
}
