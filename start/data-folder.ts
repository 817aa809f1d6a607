import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { Advice } from '../core/refusals/advice';
import { isProcess } from './local-mariadb';

const mark = 'stone-porch-data.json';

/** The local database of a Stone Porch that runs on the folder; null when none does. */
export function runningDatabase(folder: string): DatabaseAddress | null {
  const holder = readHolder(join(folder, 'running.json'));
  return holder?.database && isProcess(holder.pid, 'start.mjs') ? holder.database : null;
}

/** Notes how the running database is reached, for commands beside it. The folder is its owner's alone. */
export function noteDatabase(folder: string, port: number, database: DatabaseAddress): void {
  writeFileSync(join(folder, 'running.json'), JSON.stringify({ pid: process.pid, port, database } satisfies Holder), {
    mode: 0o600,
  });
}

interface Holder {
  pid: number;
  port: number;
  database?: DatabaseAddress;
}

/** Makes or checks the data folder and takes it for this process; the answer gives it back. */
export function takeDataFolder(path: string, port: number): { folder: string; release(): void } {
  const folder = resolve(path);
  check(folder);
  const lock = join(folder, 'running.json');
  const holder = readHolder(lock);
  if (holder && isProcess(holder.pid, 'start.mjs')) {
    throw new Advice(
      `Stone Porch already runs on ${folder}: http://127.0.0.1:${holder.port} (process ${holder.pid}).\nOpen ` +
        'that, or stop it first, or start another with a folder and port of its own: npm start -- --data DIR ' +
        '--port N',
    );
  }
  rmSync(lock, { force: true });
  writeFileSync(lock, JSON.stringify({ pid: process.pid, port }), { flag: 'wx', mode: 0o600 });
  return { folder, release: () => rmSync(lock, { force: true }) };
}

/** Says of a folder that it is ours. */
export function markDataFolder(folder: string): void {
  writeFileSync(join(folder, mark), `${JSON.stringify({ format: 1 })}\n`);
}

function check(folder: string): void {
  if (existsSync(folder) && !statSync(folder).isDirectory())
    throw new Advice(`${folder} is a file. Give the data a folder: npm start -- --data DIR`);
  try {
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    if (readdirSync(folder).length > 0 && !existsSync(join(folder, mark))) {
      throw new Advice(
        `${folder} holds something else than Stone Porch's data. Give an empty or new folder: npm start -- --data DIR`,
      );
    }
    markDataFolder(folder);
  } catch (error) {
    if (error instanceof Advice) throw error;
    throw new Advice(
      `The data folder ${folder} can't be written (${(error as Error).message}). Give another: npm start -- --data DIR`,
    );
  }
}

function readHolder(lock: string): Holder | null {
  try {
    return JSON.parse(readFileSync(lock, 'utf8')) as Holder;
  } catch {
    return null;
  }
}
