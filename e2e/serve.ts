import { raw } from '../core/sql/sql';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { randomBytes } from 'node:crypto';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { demoDefinition } from '../demo/definition';
import { loadDemo } from '../demo/load';
import { Portal } from '../server/store/models';
import { MariadbSource } from '../server/sources/mariadb';
import { startServer } from '../server/server';
import { openStore } from '../server/store/store';
import { root } from '../start/install.mjs';
import { bundledServer } from '../start/bundle.mjs';
import { openDemoIdentity } from '../start/demo-identity';
import { openDemoMails } from '../start/demo-mails';
import { openDemoOutside } from '../start/demo-outside';
import { startMariadb } from '../start/local-mariadb';
import { builtWeb } from '../start/web';

/**
 * The product with the demo for browser tests and screenshots, in a folder that is gone afterwards; `fen-fresh` has no
 * access and pages yet.
 */
const folder = mkdtempSync(join(tmpdir(), 'stone-porch-e2e-'));
/** Where tests that count with plain SQL find the database. */
const note = join(tmpdir(), `stone-porch-e2e-${process.env.E2E_PORT}.json`);
/** Closes what was opened beside the database. */
let close = async (): Promise<unknown> => undefined;
const stop = async () => {
  rmSync(note, { force: true });
  // It may be beginning still, and is a process of its own that would stay.
  await (await starting.catch(() => null))?.stop();
  rmSync(folder, { recursive: true, force: true });
};
// It may be told twice, by whoever began it and with all of its group; and whoever began it may be gone.
let isEnding = false;
const end = (): void => {
  if (isEnding) return;
  isEnding = true;
  // What was being loaded loses its database, and nobody waits for it.
  process.on('uncaughtException', () => undefined);
  void close()
    .finally(stop)
    .finally(() => process.exit());
};
process.on('SIGTERM', end);
process.on('disconnect', end);
const starting = startMariadb(
  folder,
  ['stone_porch', 'alder_fen', 'bottle_store'],
  ['--innodb-flush-log-at-trx-commit=0', '--skip-innodb-doublewrite'],
);
const database = await starting;
writeFileSync(note, JSON.stringify(database.address));
try {
  await bundledServer();
  const store = await openStore(database.address, 'stone_porch');
  const secretKey = randomBytes(32);
  const identity = await openDemoIdentity(null);
  const outside = await openDemoOutside(null);
  await loadDemo(database.address, 'alder_fen', store, 'stone_porch', {
    signIn: identity.signIn,
    outside: outside.at,
  });
  await identity.fill(secretKey);
  await outside.fill(secretKey);
  const fresh = demoDefinition('alder_fen', false);
  Object.assign(fresh.portal, { slug: 'fen-fresh', name: 'Fen, from nothing' });
  Object.assign(fresh, { roles: [], rosters: [] });
  await Portal.create({ slug: 'fen-fresh', draft: JSON.stringify(fresh), revision: 1, publishedVersion: null });
  // A second database for pages over several sources.
  const bottles = new MariadbSource(database.address, 'bottle_store');
  for (const text of [
    'CREATE TABLE racks (id INT PRIMARY KEY, room VARCHAR(20) NOT NULL)',
    "INSERT INTO racks VALUES (1, 'Cold room'), (2, 'Dry store')",
    'CREATE TABLE bottles (code CHAR(4) PRIMARY KEY, well_id INT, owner_id INT, rack_id INT, litres ' +
      'DECIMAL(4,2), FOREIGN KEY (rack_id) REFERENCES racks (id))',
    "INSERT INTO bottles VALUES ('B-01', 231, 17, 1, 0.50), ('B-02', 232, 17, 2, 1.00), ('B-03', 1, 1, 1, " +
      "0.75), ('B-04', 231, 17, 2, 0.25)",
  ])
    await bottles.write(raw(text));
  await bottles.close();
  await store.close();
  const box = await openDemoMails(database.address, 'stone_porch', secretKey);
  const server = await startServer({
    secretKey,
    database: database.address,
    ownSchema: 'stone_porch',
    port: Number(process.env.E2E_PORT),
    webFolder: await builtWeb(root),
    privateAddresses: true,
  });
  close = async () => {
    await server.close();
    await Promise.all([box?.close(), identity.provider.close(), outside.close()]);
  };
  console.log(`serving on ${server.port}`);
  process.send?.('serving');
} catch (error) {
  if (!isEnding) {
    await stop();
    throw error;
  }
}
