import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { createHash, randomBytes, randomInt } from 'node:crypto';
import { closeSync, existsSync, mkdirSync, openSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { createConnection } from 'mariadb';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { Advice } from '../core/refusals/advice';
import { endOf } from './end-of';

/** A mariadbd of our own on loopback, with its data below `folder`. */
export interface LocalMariadb {
  address: DatabaseAddress;
  process: ChildProcess;
  /** Ends it cleanly; resolves when it is gone. */
  stop(): Promise<void>;
}

/** How a database joins others. */
interface Joining {
  /** Told its process as soon as there is one: to join may take long, and may be given up. */
  begun(child: ChildProcess): void;
  /** Whether it has all that the others have. */
  hasJoined(address: DatabaseAddress): Promise<boolean>;
}

/**
 * Starts it, made anew when the folder is new; one left over from a killed start is ended first. `schemas` are open to
 * our user; `samePort` where it is started again for those who know its port. One that joins others has from them who
 * may come in: `joins` says when it has.
 */
export async function startMariadb(
  folder: string,
  schemas: string[],
  settings: string[] = [],
  samePort?: number,
  joins?: Joining,
): Promise<LocalMariadb> {
  const runFolder = join(folder, 'run');
  mkdirSync(runFolder, { recursive: true, mode: 0o700 });
  // Its own: a server that starts removes what it takes for another's leftovers in the folder for temporary tables.
  const temporary = join(runFolder, 'tmp');
  mkdirSync(temporary, { recursive: true, mode: 0o700 });
  const dataFolder = join(folder, 'db');
  const socketPath = socketFor(runFolder);
  const pidFile = join(runFolder, 'mariadbd.pid');
  await endLeftOver(pidFile, dataFolder);
  if (!existsSync(dataFolder)) install(folder, dataFolder, temporary);
  rmSync(socketPath, { force: true });

  const port = samePort ?? (await freePort());
  const logFile = join(runFolder, 'mariadbd.log');
  const log = openSync(logFile, 'w', 0o600);
  // In a group of its own, so that Ctrl-C reaches only us and we end it in order.
  const child = spawn(
    '/usr/sbin/mariadbd',
    [
      '--no-defaults',
      `--datadir=${dataFolder}`,
      `--tmpdir=${temporary}`,
      `--socket=${socketPath}`,
      `--pid-file=${pidFile}`,
      '--bind-address=127.0.0.1',
      `--port=${port}`,
      `--user=${userInfo().username}`,
      '--character-set-server=utf8mb4',
      '--collation-server=utf8mb4_general_ci',
      // The program that copies a node to another does not know it.
      ...(settings.some((each) => each.startsWith('--wsrep')) ? [] : ['--innodb-buffer-pool-size=256M']),
      '--skip-name-resolve',
      ...settings,
    ],
    { detached: true, stdio: ['ignore', log, log] },
  );
  closeSync(log);
  joins?.begun(child);

  const stop = () => endOf(child);
  try {
    const password = databaseSecret(folder);
    const address = { host: '127.0.0.1', port, socketPath, user: 'stone_porch', password };
    if (joins) await untilJoined(child, () => joins.hasJoined(address));
    else await openForUs(child, socketPath, password, schemas);
    return { address, process: child, stop };
  } catch (error) {
    await stop();
    if (error instanceof Advice) throw error;
    throw new Advice(
      `MariaDB could not start on ${dataFolder}: ${String((error as Error).message)}\nThe last lines of its ` +
        `log (${logFile}):\n${lastLines(logFile)}\n` +
        `If the folder is broken, move it away and start again, which makes a new one:\n  mv ${folder} ` +
        `${folder}.broken`,
    );
  }
}

/** A socket's path may have 107 characters; a longer one goes to the folder for temporary files. */
function socketFor(runFolder: string): string {
  const here = join(runFolder, 'db.sock');
  if (here.length < 100) return here;
  const short = join(tmpdir(), `stone-porch-${createHash('sha256').update(runFolder).digest('hex').slice(0, 16)}`);
  mkdirSync(short, { recursive: true, mode: 0o700 });
  return join(short, 'db.sock');
}

/** Makes the database's folder beside its place and moves it there when it is whole. */
function install(folder: string, dataFolder: string, temporary: string): void {
  const fresh = join(folder, 'db.new');
  rmSync(fresh, { recursive: true, force: true });
  const user = userInfo().username;
  const made = spawnSync(
    'mariadb-install-db',
    [
      '--no-defaults',
      `--datadir=${fresh}`,
      `--tmpdir=${temporary}`,
      `--user=${user}`,
      '--auth-root-authentication-method=socket',
      `--auth-root-socket-user=${user}`,
      '--skip-test-db',
    ],
    { encoding: 'utf8' },
  );
  if (made.status !== 0)
    throw new Advice(
      `MariaDB could not make its folder ${fresh}:\n${made.stderr || made.stdout || String(made.error)}`,
    );
  renameSync(fresh, dataFolder);
}

async function endLeftOver(pidFile: string, dataFolder: string): Promise<void> {
  const pid = existsSync(pidFile) ? Number(readFileSync(pidFile, 'utf8')) : 0;
  if (!isProcess(pid, `--datadir=${dataFolder}`)) return;
  process.kill(pid, 'SIGTERM');
  for (let tries = 0; tries < 300; tries++) {
    if (!isProcess(pid, `--datadir=${dataFolder}`)) return;
    await sleep(100);
  }
  throw new Advice(
    `A MariaDB left over from an earlier start (process ${pid}) does not end. End it with: kill -9 ${pid}`,
  );
}

/** Whether the process lives and was started with this text among its arguments; a number given out anew is not it. */
export function isProcess(pid: number, argument: string): boolean {
  try {
    return pid > 0 && readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(argument);
  } catch {
    return false;
  }
}

/** The password of our user, made once and readable by its owner only. */
export function databaseSecret(folder: string): string {
  const file = join(folder, 'secrets.json');
  if (existsSync(file)) {
    try {
      return (JSON.parse(readFileSync(file, 'utf8')) as { databasePassword: string }).databasePassword;
    } catch {
      rmSync(file);
    }
  }
  const databasePassword = randomBytes(24).toString('base64url');
  writeFileSync(file, JSON.stringify({ databasePassword }), { mode: 0o600 });
  return databasePassword;
}

/** Waits until the server answers, then lets our user into the schemas, and no others. */
async function openForUs(child: ChildProcess, socketPath: string, password: string, schemas: string[]): Promise<void> {
  for (let tries = 0; ; tries++) {
    if (child.exitCode !== null || child.signalCode !== null) throw new Error('it ended at once');
    try {
      const root = await createConnection({
        socketPath,
        user: userInfo().username === 'root' ? 'root' : userInfo().username,
        connectTimeout: 2000,
      });
      try {
        for (const host of ['localhost', '127.0.0.1']) {
          await root.query(`CREATE USER IF NOT EXISTS 'stone_porch'@'${host}'`);
          await root.query(`ALTER USER 'stone_porch'@'${host}' IDENTIFIED BY ?`, [password]);
          // Schemas that builders make by their name begin so, and are ours alone.
          await root.query(`GRANT ALL ON \`portal\\_%\`.* TO 'stone_porch'@'${host}'`);
          for (const schema of schemas)
            await root.query(`GRANT ALL ON \`${schema.replaceAll('_', '\\_')}\`.* TO 'stone_porch'@'${host}'`);
        }
        for (const schema of schemas)
          await root.query(
            `CREATE DATABASE IF NOT EXISTS \`${schema}\` CHARACTER SET utf8mb4 COLLATE utf8mb4_general_ci`,
          );
      } finally {
        await root.end();
      }
      return;
    } catch (error) {
      if (tries > 300 || (existsSync(socketPath) && tries > 100)) throw error;
      await sleep(100);
    }
  }
}

/** However long it takes to copy what the others have; an error where it ends before. */
async function untilJoined(child: ChildProcess, hasJoined: () => Promise<boolean>): Promise<void> {
  while (!(await hasJoined())) {
    if (child.exitCode !== null || child.signalCode !== null) throw new Error('it ended before it had joined');
    await sleep(200);
  }
}

/** Those that were given to somebody who may not listen there yet. */
const given = new Set<number>();

/**
 * A port of this machine at which nobody listens. Below those that a system gives to connections that go out (Linux:
 * 32768 to 60999, `ip_local_port_range`), one of which could be there before whoever asked, or while it is begun anew.
 */
export async function freePort(): Promise<number> {
  for (let tries = 0; tries < 1000; tries++) {
    const port = randomInt(10_000, 32_000);
    if (given.has(port) || !(await canListen(port))) continue;
    given.add(port);
    return port;
  }
  throw new Advice('No port between 10000 and 32000 is free.');
}

function canListen(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const server = createServer();
    server.once('error', () => resolve(false));
    server.listen(port, '127.0.0.1', () => server.close(() => resolve(true)));
  });
}

function lastLines(file: string): string {
  return readFileSync(file, 'utf8')
    .trimEnd()
    .split('\n')
    .slice(-8)
    .map((line) => `  ${line}`)
    .join('\n');
}
