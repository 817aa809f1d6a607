import { cpus } from 'node:os';
import { setTimeout as sleep } from 'node:timers/promises';
import Joi from 'joi';
import { Op } from 'sequelize';
import type { DemoOutsideAt } from '../demo/actions';
import { demoBuilder, demoLoading, demoPassword, loadDemo } from '../demo/load';
import { makeBuilderLink } from '../server/sessions/builder-links';
import { firstOwner } from '../server/sessions/colleague-endpoints';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { Builder } from '../server/store/models';
import type { RunningServer } from '../server/server';
import { openStore, readSetting, type Store } from '../server/store/store';
import { Advice } from '../core/refusals/advice';
import { noteDatabase, takeDataFolder } from './data-folder';
import { readDatabase } from './database-address';
import { takePort } from './door';
import { demoClientSecret, demoProvider, openDemoIdentity } from './demo-identity';
import { openDemoMails } from './demo-mails';
import { demoOutside, openDemoOutside } from './demo-outside';
import { faultWords } from './fault.mjs';
import { root } from './install.mjs';
import { readSecretKey } from './secret-key';
import { serve, type ServeOrder } from './serve';
import { readSettings } from './settings';
import { startMariadb, type LocalMariadb } from './local-mariadb';
import { builtWeb } from './web';
import { beginWorkers, type Serving } from './workers';

const demoSchema = 'alder_fen';
const mostRestarts = 5;

/** What the demo's portals go to outside, and where it shows itself. */
interface StandIns {
  accounts: string;
  outside: DemoOutsideAt;
  close(): Promise<void>;
}

/** Builds what a start builds where it isn't there yet. */
export async function setUp(): Promise<void> {
  await builtWeb(root);
  console.log('All is set up. Start it: npm start');
}

/** Runs everything until it is told to stop: database, migrations, demo, web, server. */
export async function run(options: {
  port: string;
  host: string;
  data: string;
  empty: boolean;
  workers: string;
}): Promise<void> {
  const settings = readSettings();
  const port = readPort(options.port);
  const host = readHost(options.host);
  const workers = readWorkers(options.workers);
  const own = readDatabase();
  const stops: (() => Promise<void> | void)[] = [];
  const stopAll = async (): Promise<void> => {
    for (const stop of stops.splice(0).reverse()) await stop();
  };
  let stopping = false;
  const end = async (code: number, words: string): Promise<void> => {
    if (stopping) return;
    stopping = true;
    console.log(words);
    await stopAll();
    process.exit(code);
  };
  process.on('SIGINT', () => void end(0, '\nStopping …'));
  process.on('SIGTERM', () => void end(0, 'Stopping …'));
  const fault = (error: unknown) => void end(1, `\n${faultWords(error)}`);
  process.on('uncaughtException', fault);
  process.on('unhandledRejection', fault);

  try {
    const taken = takeDataFolder(options.data, port);
    stops.push(taken.release);
    // The port before all else: neither database nor builder is made for a server that then can't be reached.
    const serving: Serving =
      workers > 1 ? await beginWorkers(workers, { port, host }, end) : await beginHere({ port, host });
    stops.push(serving.close);
    const { address, ownSchema } = own ?? { address: null, ownSchema: 'stone_porch' };
    let local: LocalMariadb | null = null;
    if (!address) {
      const schemas = [ownSchema, demoSchema, ...(options.empty ? ['records'] : [])];
      local = await startMariadb(taken.folder, schemas);
      stops.push(() => local!.stop());
      noteDatabase(taken.folder, port, local.address);
      const again = async (): Promise<void> => {
        if (stopping) return;
        console.log(
          "The database has ended. It is started again; until then pages say that records can't be reached …",
        );
        for (let tries = 1; tries <= mostRestarts && !stopping; tries++) {
          try {
            local = await startMariadb(taken.folder, schemas, [], local!.address.port);
            local.process.once('exit', () => void again());
            console.log('The database is back.');
            return;
          } catch {
            await sleep(tries * 1000);
          }
        }
        await end(
          1,
          'The database has ended and could not be started again. Start with npm start; it recovers by itself.',
        );
      };
      local.process.once('exit', () => void again());
    }
    const database = address ?? local!.address;
    const standIns = await prepare(database, ownSchema, options.empty, readSecretKey(taken.folder));
    if (standIns) stops.push(() => standIns.close());
    const box = await openDemoMails(database, ownSchema, readSecretKey(taken.folder));
    if (box) stops.push(() => box.close());
    const webFolder = await builtWeb(root);
    // Before what it needs is closed, however far it has come.
    stops.push(serving.close);
    const served = await serving.serve({
      database,
      ownSchema,
      webFolder,
      secretKey: readSecretKey(taken.folder).toString('base64'),
      ownDatabase: local !== null,
      settings,
    });
    // Where others serve, nobody here has the product's tables open.
    const store = workers > 1 ? await openStore(database, ownSchema) : null;
    try {
      const firstLink = options.empty ? await makeFirstOwner() : null;
      await greet(served, firstLink, box?.address ?? null, standIns);
    } finally {
      await store?.close();
    }
  } catch (error) {
    stopping = true;
    await stopAll();
    throw error;
  }
}

/** Serves in this process. */
async function beginHere(at: { port: number; host: string }): Promise<Serving> {
  const door = await takePort(at);
  let server: RunningServer | null = null;
  return {
    serve: async (order: ServeOrder) => {
      server = await serve(door, { order, port: at.port }, order.ownDatabase);
      return server.port;
    },
    close: async () => {
      const running = server;
      server = null;
      await running?.close();
      door.close();
    },
  };
}

/**
 * Migrates, and fills an empty installation with the demo unless it is to be empty. Gives the demo's services outside,
 * where there is a demo.
 */
async function prepare(
  database: DatabaseAddress,
  ownSchema: string,
  empty: boolean,
  secretKey: Buffer,
): Promise<StandIns | null> {
  let store: Store;
  try {
    store = await openStore(database, ownSchema);
  } catch (error) {
    // The first line alone: a statement with its values may follow.
    throw new Advice(
      `The database at ${database.host}:${database.port} can't be used: ` +
        `${(error as Error).message.split('\n')[0]}\nCheck that it runs, that the user may sign in, and that the ` +
        `schema ${ownSchema} exists and is open to them.`,
    );
  }
  try {
    const loads = !empty && ((await Builder.count()) === 0 || (await readSetting(demoLoading)) !== null);
    if (!loads && (await readSetting('demo')) === null) return null;
    const identity = await openDemoIdentity(await readSetting(demoProvider));
    const outside = await openDemoOutside(await readSetting(demoOutside));
    if (loads) {
      console.log('Loading the demo …');
      await loadDemo(database, demoSchema, store, ownSchema, { signIn: identity.signIn, outside: outside.at });
    }
    await identity.fill(secretKey);
    await outside.fill(secretKey);
    return {
      accounts: identity.provider.issuer,
      outside: outside.at,
      close: async () => void (await Promise.all([identity.provider.close(), outside.close()])),
    };
  } finally {
    await store.close();
  }
}

/**
 * The first owner of an empty installation, made once everything is open; gives the link by which they choose who they
 * are. Null once somebody can sign in.
 */
async function makeFirstOwner(): Promise<string | null> {
  if ((await Builder.count({ where: { passwordHash: { [Op.ne]: null } } })) > 0) return null;
  const [owner] = await Builder.findOrCreate({
    where: { email: firstOwner },
    defaults: { email: firstOwner, name: 'The first owner', passwordHash: null },
  });
  return makeBuilderLink(owner.id);
}

async function greet(
  port: number,
  firstLink: string | null,
  mails: string | null,
  standIns: StandIns | null,
): Promise<void> {
  const at = `http://localhost:${port}`;
  const demo = await readSetting('demo');
  console.log(`\nStone Porch is open.\n\n  Build    ${at}/`);
  if (firstLink) console.log(`           become the first owner, once, within a week: ${firstLink}`);
  if (demo) {
    const { members } = JSON.parse(demo) as { members: Record<string, { people: { email: string; role: string }[] }> };
    console.log(`           sign in as ${demoBuilder.email}`);
    for (const [slug, { people }] of Object.entries(members)) {
      console.log(`  Portal   ${at}/p/${slug}`);
      for (const person of people) console.log(`           ${person.email} (${person.role})`);
    }
    console.log(`\n  Everyone's password: ${demoPassword}`);
    if (mails) console.log(`  Mails    ${mails}/ (all mail of the demo ends there)`);
    if (standIns) {
      console.log(`  Accounts ${standIns.accounts} (client stone-porch, secret "${demoClientSecret}")`);
      console.log(`  Outside  ${standIns.outside.tracker}/ (what the demo tells its bottle tracker)`);
      console.log(`           ${standIns.outside.receiver}/ (what it tells the desk of the lab)`);
    }
  }
  console.log('\nCtrl-C stops it.');
}

function readHost(text: string): string {
  const { error } = Joi.string().hostname().required().validate(text);
  if (error) throw new Advice(`--host must be an address of this machine, like 0.0.0.0 or ::, not "${text}".`);
  return text;
}

function readPort(text: string): number {
  const { error, value } = Joi.number().port().required().validate(text) as { error?: Error; value: number };
  if (error) throw new Advice(`--port must be a number from 0 to 65535, not "${text}".`);
  return value;
}

function readWorkers(text: string): number {
  const { error, value } = Joi.number().integer().min(1).max(64).required().validate(text) as {
    error?: Error;
    value: number;
  };
  if (error)
    throw new Advice(
      `--workers must be a number from 1 to 64, not "${text}". This machine has ${cpus().length} cores.`,
    );
  return value;
}
