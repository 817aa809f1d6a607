import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { startMariadb } from '../start/local-mariadb';
import { startPostgres, type LocalPostgres } from '../start/local-postgres';

/** A MariaDB of its own for one benchmark, with room for the rows in memory; gone when the work is done. */
export async function withMariadb<T>(schemas: string[], work: (address: DatabaseAddress) => Promise<T>): Promise<T> {
  const folder = mkdtempSync(join(tmpdir(), 'stone-porch-bench-'));
  const database = await startMariadb(folder, schemas, [
    '--innodb-flush-log-at-trx-commit=0',
    '--skip-innodb-doublewrite',
    '--innodb-buffer-pool-size=6G',
    '--innodb-log-file-size=1G',
  ]);
  try {
    return await work(database.address);
  } finally {
    await database.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}

export async function withPostgres<T>(work: (address: LocalPostgres['address']) => Promise<T>): Promise<T> {
  const folder = mkdtempSync(join(tmpdir(), 'stone-porch-bench-'));
  chmodSync(folder, 0o711);
  const database = await startPostgres(folder, ['shared_buffers=2GB', 'jit=off']);
  try {
    return await work(database.address);
  } finally {
    await database.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}
