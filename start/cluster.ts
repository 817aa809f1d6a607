import { spawn, type ChildProcess } from 'node:child_process';
import { createWriteStream, existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import Joi from 'joi';
import { Advice } from '../core/refusals/advice';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { ClusterNodes } from './cluster-nodes';
import { startProxy } from './cluster-proxy';
import { endOf } from './end-of';
import { noteDatabase, takeDataFolder } from './data-folder';
import { faultWords } from './fault.mjs';
import { root } from './install.mjs';
import { databaseSecret, freePort } from './local-mariadb';
import { readSecretKey } from './secret-key';

const howManyNodes = 3;
const howManyServers = 2;
const opened = 'Ctrl-C stops it.';

/** A server of the product, in a process and a data folder of its own. */
interface ServerProcess {
  name: string;
  port: number;
  child: ChildProcess | null;
}

/** Runs nodes, servers and the proxy until it is told to stop; what ends in between is begun again. */
export async function runCluster(options: { port: string; data: string; empty: boolean }): Promise<void> {
  const port = readPort(options.port);
  const stops: (() => Promise<void> | void)[] = [];
  let stopping = false;
  const end = async (code: number, words: string): Promise<void> => {
    if (stopping) return;
    stopping = true;
    console.log(words);
    for (const stop of stops.splice(0).reverse()) await stop();
    process.exit(code);
  };
  process.on('SIGINT', () => void end(0, '\nStopping …'));
  process.on('SIGTERM', () => void end(0, 'Stopping …'));
  const fault = (error: unknown) => void end(1, error instanceof Advice ? error.message : `\n${faultWords(error)}`);
  process.on('uncaughtException', fault);
  process.on('unhandledRejection', fault);

  try {
    const taken = takeDataFolder(options.data, port);
    stops.push(taken.release);
    const { folder } = taken;
    console.log('Three databases are begun, one after the other; each takes over what the first has …');
    const cluster = new ClusterNodes(folder, console.log);
    stops.push(() => cluster.stop());
    await cluster.start(howManyNodes);
    const [databasePort, ...ports] = (await Promise.all(Array.from({ length: howManyServers + 1 }, freePort))) as [
      number,
      ...number[],
    ];
    const servers = ports.map((each, i): ServerProcess => ({ name: `porch-${i + 1}`, port: each, child: null }));
    const proxy = await startProxy(folder, { port, servers, databasePort, nodes: cluster.nodes });
    stops.push(() => endOf(proxy));
    proxy.once('exit', () => void end(1, 'haproxy has ended.'));
    const database = { host: '127.0.0.1', port: databasePort, user: 'stone_porch', password: databaseSecret(folder) };
    noteDatabase(folder, port, database);
    const env = {
      ...process.env,
      STONE_PORCH_DATABASE: addressText(database, 'stone_porch'),
      STONE_PORCH_KEY: readSecretKey(folder).toString('base64'),
      STONE_PORCH_ADDRESS: `http://localhost:${port}`,
      STONE_PORCH_TRUST_PROXY: '1',
      STONE_PORCH_PRIVATE_DATABASES: '1',
      STONE_PORCH_CHECKOUTS: undefined,
    };
    const begin = async (server: ServerProcess): Promise<string> => {
      const args = ['--port', String(server.port), '--data', join(folder, server.name)];
      const child = spawn(
        process.execPath,
        [join(checkoutOf(server), 'start', 'start.mjs'), ...args, ...(options.empty ? ['--empty'] : [])],
        // In a group of its own, so that Ctrl-C reaches only us and we end all in order.
        { env, stdio: ['ignore', 'pipe', 'inherit'], detached: true },
      );
      server.child = child;
      let said = '';
      const listen = (part: Buffer) => void (said += part.toString());
      child.stdout!.on('data', listen);
      let isOpen = false;
      child.once('exit', () => {
        server.child = null;
        if (stopping || !isOpen) return;
        console.log(`${server.name} has ended. It is begun again.`);
        void again(server).catch(fault);
      });
      while (!said.includes(opened)) {
        if (child.exitCode !== null || child.signalCode !== null)
          throw new Advice(`${server.name} ended before it served:\n${said}`);
        await sleep(50);
      }
      isOpen = true;
      child.stdout!.off('data', listen);
      // Only from here on: what it says at its beginning may hold the link of the first owner.
      const log = createWriteStream(logOf(folder, server), { flags: 'a', mode: 0o600 });
      // Where it can't be written, on a full disk, the server goes on all the same.
      log.on('error', () => child.stdout!.resume());
      child.stdout!.pipe(log);
      return said;
    };
    // While no node can be asked a server does not come up: it is tried until it does.
    const again = async (server: ServerProcess): Promise<void> => {
      for (let tries = 1; !stopping; tries++) {
        try {
          await begin(server);
          return;
        } catch (error) {
          if (tries === 1) console.log((error as Error).message.trimEnd());
          await sleep(Math.min(tries, 10) * 500);
        }
      }
    };
    stops.push(async () => void (await Promise.all(servers.map(({ child }) => child && endOf(child)))));
    // The first brings the tables up to date and loads the demo, the others find it there.
    const [first, ...others] = servers;
    const said = await begin(first!);
    for (const each of others) await begin(each);
    console.log(said.replaceAll(`localhost:${first!.port}`, `localhost:${port}`).trimEnd());
    for (const node of cluster.nodes) console.log(`  ${node.name}  127.0.0.1:${node.port}, data in ${node.folder}`);
    for (const each of servers)
      console.log(`  ${each.name} http://localhost:${each.port}/, log in ${logOf(folder, each)}`);
  } catch (error) {
    if (!stopping) await end(1, error instanceof Advice ? `\n${error.message}` : `\n${faultWords(error)}`);
  }
}

function readPort(text: string): number {
  const { error, value } = Joi.number().port().required().validate(text) as { error?: Error; value: number };
  if (error) throw new Advice(`--port must be a number from 0 to 65535, not "${text}".`);
  return value;
}

/**
 * Where the program of a server stands: here, or, for tests of an upgrade, where a file says as long as it is there.
 */
function checkoutOf({ name }: ServerProcess): string {
  const file = join(process.env.STONE_PORCH_CHECKOUTS ?? '', name);
  return process.env.STONE_PORCH_CHECKOUTS && existsSync(file) ? readFileSync(file, 'utf8').trim() : root;
}

const logOf = (folder: string, { name }: ServerProcess): string => join(folder, `${name}.log`);

/** An address as the setting has it. */
const addressText = ({ host, port, user, password }: DatabaseAddress, schema: string): string =>
  `mariadb://${user}:${encodeURIComponent(password)}@${host}:${port}/${schema}`;
