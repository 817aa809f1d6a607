import { PublicForms, type PublicLimits } from './forms/at-the-public-form';
import { SignedLinks } from './forms/signed-links';
import { randomBytes } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Logger } from 'pino';
import { createApp } from './app';
import type { Services } from './portals/services';
import { AuditSeals } from './audit/seals';
import { Jobs } from './jobs/jobs';
import { saveAddress } from './mail/own-address';
import { sendCalls, takeOverCalls } from './calls/send-calls';
import { doTimed } from './timed/do-timed';
import { takeOverRuns } from './timed/runs';
import { sendMails } from './outbox/send-mails';
import { readSetting } from './store/store';
import { lookAfterTalk } from './comments/look-after-talk';
import { followRosters } from './people/follow-rosters';
import { settleShapes } from './shaping/shape-changes';
import { alone, type Among } from './processes/among';
import type { Turns } from './outbox/turns';
import { tidy } from './tidy';
import { openServices } from './open-services';
import { Stopping } from './http/stopping';
import { IdentityProviders } from './sign-in/identity-provider';
import { SecondFactors } from './sign-in/second-factor';
import { DoorCalls } from './sign-in/door-calls';
import { SignUpLinks } from './sign-up/sign-up-link';
import { SignUps } from './sign-up/sign-ups';
import { signInFailures } from './sessions/failures';
import type { DatabaseAddress } from './sources/connect-sequelize';

export interface ServerOptions {
  database: DatabaseAddress;
  ownSchema: string;
  port: number;
  /** A server that gets its connections already, those of `port` or of the port at which it listens itself. */
  door?: Server;
  webFolder: string | null;
  log?: Logger;
  trustProxy?: boolean;
  /** With this the server's numbers are told; to nobody without. */
  metricsToken?: string;
  /** 32 bytes under which passwords of connected databases are sealed; without it none outlives the server. */
  secretKey?: Buffer;
  /** Whether connections of builders may lead to this machine and its own network. */
  privateAddresses?: boolean;
  /** How much is taken at public forms; as much as people send when nothing is said. */
  publicLimits?: PublicLimits;
  /** Whether no other server can be at this database: what one before left undone is then gone on with at once. */
  alone?: boolean;
  /** Where people reach the installation, for the links in mails; on this machine when nothing is said. */
  publicAddress?: string;
  /** Of several processes of one server: who this one is among them. It leads where nothing is said. */
  among?: Among;
}

export interface RunningServer {
  port: number;
  services: Services;
  /** Begins what one of several processes does for all, by the clock; nothing where it was begun. */
  lead(): void;
  /** Lets requests in hand finish, then closes everything. */
  close(): Promise<void>;
}

/** So many connections may wait to be taken. */
export const backlog = 4096;

/**
 * So long a request in hand may take once the server is told to stop; what isn't done then is broken off, which its
 * asker sees.
 */
const lastRequests = 8000;

/** Migrates the product's tables and serves on loopback. */
export async function startServer(options: ServerOptions): Promise<RunningServer> {
  const secretKey = options.secretKey ?? randomBytes(32);
  const { close: closeCore, ...core } = await openServices({
    database: options.database,
    ownSchema: options.ownSchema,
    secretKey,
    privateAddresses: options.privateAddresses,
    log: options.log,
  });
  const jobs = new Jobs(new URL('./thread.mjs', import.meta.url), {
    database: options.database,
    ownSchema: options.ownSchema,
    secretKey,
    privateAddresses: options.privateAddresses,
  });
  const services: Services = {
    ...core,
    jobs,
    seals: new AuditSeals(secretKey),
    failures: signInFailures(core.store.sequelize),
    calls: new DoorCalls(core, secretKey),
    providers: new IdentityProviders(secretKey, options.privateAddresses ?? false),
    secondFactors: new SecondFactors(secretKey),
    signUps: new SignUps(core),
    signUpLinks: new SignUpLinks(secretKey),
    publicForms: new PublicForms(secretKey, options.publicLimits),
    signedLinks: new SignedLinks(secretKey),
    webFolder: options.webFolder,
    ownSchema: options.ownSchema,
    trustProxy: options.trustProxy ?? false,
    metricsToken: options.metricsToken,
    among: options.among ?? alone(),
  };
  const closeAll = async () => {
    await jobs.close();
    await closeCore();
  };
  try {
    await settleShapes(services, options.alone ?? false);
    if (options.alone) await Promise.all([Jobs.takeOver(), takeOverCalls(), takeOverRuns()]);
    const stopping = new Stopping();
    const app = stopping.around(createApp(services));
    const server = options.door ?? createServer();
    server.removeAllListeners('request').on('request', app);
    // A browser may send on a connection in the very moment in which it is closed for being idle: kept longer than
    // clients and proxies keep theirs.
    server.keepAliveTimeout = 75_000;
    server.headersTimeout = 80_000;
    const at = options.door?.address();
    const port = options.door ? (isAddress(at) ? at.port : options.port) : await listen(server, options.port);
    await jobs.resume();
    await saveAddress(options.publicAddress ?? `http://localhost:${port}`);
    const calls = services.calls.begin();
    const signUps = services.signUps.begin();
    const sending = sendMails({
      outbox: services.outbox,
      servers: services.mailServers,
      log: services.log,
      keepSecrets: async () => (await readSetting('demo')) !== null,
    });
    const calling = sendCalls(services);
    const led: Turns[] = [];
    const lead = () => {
      services.among.leads = true;
      if (led.length > 0 || stopping.hasBegun) return;
      led.push(tidy(), services.seals.begin(), followRosters(services), lookAfterTalk(services), doTimed(services));
    };
    if (services.among.leads) lead();
    return {
      port,
      services,
      lead,
      close: async () => {
        stopping.begin();
        await Promise.all([calls, signUps, sending, calling, ...led].map((turns) => turns.close()));
        const closed = new Promise((resolve) => server.close(resolve));
        server.closeIdleConnections();
        const late = setTimeout(() => server.closeAllConnections(), lastRequests);
        // Connections that another process took are none of the server's own: it does not wait for them by itself.
        await Promise.all([closed, stopping.answered()]);
        clearTimeout(late);
        await closeAll();
      },
    };
  } catch (error) {
    await closeAll();
    throw error;
  }
}

const isAddress = (at: AddressInfo | string | null | undefined): at is AddressInfo =>
  typeof at === 'object' && at !== null;

function listen(server: Server, port: number): Promise<number> {
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    // Many may come at once; each is answered, if only that there is too much, instead of being left to knock again.
    server.listen({ port, host: '127.0.0.1', backlog }, () => resolve((server.address() as AddressInfo).port));
  });
}
