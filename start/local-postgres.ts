import { spawn, spawnSync } from 'node:child_process';
import { chownSync, closeSync, existsSync, mkdirSync, openSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { userInfo } from 'node:os';
import { freePort } from './local-mariadb';

/** A PostgreSQL of our own on loopback, with its data below `folder`. */
export interface LocalPostgres {
  address: { host: string; port: number; user: string; database: string };
  stop(): Promise<void>;
}

/** Where Debian keeps the servers, the newest first. */
function binaries(): string {
  const base = '/usr/lib/postgresql';
  const versions = existsSync(base)
    ? readdirSync(base)
        .filter((name) => /^\d+$/.test(name))
        .sort((a, b) => Number(b) - Number(a))
    : [];
  const found = versions.map((version) => join(base, version, 'bin')).find((bin) => existsSync(join(bin, 'postgres')));
  if (!found) throw new Error('PostgreSQL is not installed; npm test installs it');
  return found;
}

/** The server refuses to run as root, so root starts it as the user that Debian's package made. */
function unprivileged(): { uid?: number; gid?: number; name: string } {
  if (process.getuid?.() !== 0) return { name: userInfo().username };
  const id = (flag: string) => Number(spawnSync('id', [flag, 'postgres'], { encoding: 'utf8' }).stdout);
  return { uid: id('-u'), gid: id('-g'), name: 'postgres' };
}

/** Starts a new server for tests: nothing in it outlives them, so it never waits for the disk. */
export async function startPostgres(folder: string, settings: string[] = []): Promise<LocalPostgres> {
  const { uid, gid, name } = unprivileged();
  const own = join(folder, 'postgres');
  mkdirSync(own, { recursive: true, mode: 0o700 });
  if (uid !== undefined && gid !== undefined) chownSync(own, uid, gid);
  const data = join(own, 'data');
  const made = spawnSync(
    join(binaries(), 'initdb'),
    ['-D', data, '-U', name, '--encoding=UTF8', '--locale=C', '--auth=trust', '--no-sync'],
    { uid, gid, cwd: own, encoding: 'utf8' },
  );
  if (made.status !== 0) throw new Error(`PostgreSQL could not make its folder:\n${made.stderr || String(made.error)}`);

  const port = await freePort();
  const log = openSync(join(folder, 'postgres.log'), 'w', 0o600);
  const child = spawn(
    join(binaries(), 'postgres'),
    [
      '-D',
      data,
      '-p',
      String(port),
      '-k',
      '',
      '-c',
      'listen_addresses=127.0.0.1',
      '-c',
      'fsync=off',
      '-c',
      'synchronous_commit=off',
      '-c',
      'full_page_writes=off',
      '-c',
      'timezone=UTC',
      // Tables that were just made are taken for large, and queries would be compiled for longer than they run.
      '-c',
      'jit=off',
      ...settings.flatMap((setting) => ['-c', setting]),
    ],
    { uid, gid, cwd: own, detached: true, stdio: ['ignore', log, log] },
  );
  closeSync(log);
  const stop = async (): Promise<void> => {
    if (child.exitCode !== null || child.signalCode !== null) return;
    const gone = new Promise((resolve) => child.once('exit', resolve));
    child.kill('SIGINT');
    await gone;
  };
  for (let tries = 0; ; tries++) {
    if (child.exitCode !== null) throw new Error('PostgreSQL ended at once');
    if (spawnSync(join(binaries(), 'pg_isready'), ['-q', '-h', '127.0.0.1', '-p', String(port)]).status === 0) break;
    if (tries > 300) {
      await stop();
      throw new Error('PostgreSQL does not answer');
    }
    await sleep(100);
  }
  return { address: { host: '127.0.0.1', port, user: name, database: 'postgres' }, stop };
}
