import { spawn } from 'node:child_process';
import { createWriteStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';

/** Writes what a SELECT gives into a file by the database's own client, a row at a time, with tabs between. */
export function dumpedByClient(
  address: DatabaseAddress,
  database: string,
  select: string,
  file: string,
): Promise<void> {
  const where = address.socketPath
    ? [`--socket=${address.socketPath}`]
    : [`--host=${address.host}`, `--port=${address.port}`];
  const client = spawn('mariadb', [...where, `--user=${address.user}`, '--batch', '--quick', database, '-e', select], {
    env: { ...process.env, MYSQL_PWD: address.password },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  return pipeline(client.stdout, createWriteStream(file));
}
