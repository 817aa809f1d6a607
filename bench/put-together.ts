import { fork, type ChildProcess } from 'node:child_process';
import { mkdtempSync, mkdirSync, rmSync } from 'node:fs';
import { basename, join } from 'node:path';
import { bundledServer, putTogether } from '../start/bundle.mjs';
import { root } from '../start/install.mjs';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { endOf } from '../start/end-of';

/** A server of this folder that runs. */
interface MeasuredServer {
  port: number;
  process: ChildProcess;
}

/** Starts a file of this folder as a process of its own, with the database's address. */
export type StartServer = (file: string, ...execArgv: string[]) => Promise<MeasuredServer>;

/**
 * Servers as `npm start` runs them, put together into JavaScript first: ours and those they are compared with alike.
 * All are ended when the work is done.
 */
export async function withServers<T>(address: DatabaseAddress, work: (start: StartServer) => Promise<T>): Promise<T> {
  // Where the threads of ours stand; it is told to the processes by the environment.
  await bundledServer();
  mkdirSync(join(root, 'dist'), { recursive: true });
  const folder = mkdtempSync(join(root, 'dist', 'bench-'));
  const children: ChildProcess[] = [];
  try {
    return await work(async (file, ...execArgv) => {
      const name = basename(file, '.ts');
      await putTogether(join(folder, name), { [name]: `bench/${name}.ts` });
      const child = fork(join(folder, name, `${name}.mjs`), [JSON.stringify(address)], { execArgv });
      children.push(child);
      return new Promise((resolve, reject) => {
        child.once('message', ({ port }: { port: number }) => resolve({ port, process: child }));
        child.once('exit', () => reject(new Error(`${file} ended`)));
      });
    });
  } finally {
    await Promise.all(children.map((child) => endOf(child)));
    rmSync(folder, { recursive: true, force: true });
  }
}
