import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { TestProject } from 'vitest/node';
import { startMariadb } from '../start/local-mariadb';
import type { DatabaseAddress } from '../server/sources/mariadb';

declare module 'vitest' {
  export interface ProvidedContext {
    database: DatabaseAddress;
  }
}

/** Schemas that tests may make and drop, one for each file. */
export const testSchemas = ['agree', 'masks', 'gate', 'http', 'http_own', 'odd', 'drafts', 'drafts_own'];

/** A real MariaDB for the tests of the server, in a folder of its own that is gone afterwards. */
export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  const folder = mkdtempSync(join(tmpdir(), 'stone-porch-test-'));
  const database = await startMariadb(folder, testSchemas, ['--innodb-flush-log-at-trx-commit=0', '--skip-innodb-doublewrite']);
  project.provide('database', database.address);
  return async () => {
    await database.stop();
    rmSync(folder, { recursive: true, force: true });
  };
}
