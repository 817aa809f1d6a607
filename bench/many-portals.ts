import type { ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { setTimeout as sleep } from 'node:timers/promises';
import { createConnection } from 'mariadb';
import { demoDefinition } from '../demo/definition';
import { loadDemo } from '../demo/load';
import { keyHash } from '../server/keys/service-keys';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { Portal, Version } from '../server/store/models';
import { openStore } from '../server/store/store';
import { round, type Figure } from './figures';
import { withMariadb } from './local-databases';
import { withServers } from './put-together';

const portals = 500;
const first = 100;
/** So long the last connections of what is no longer kept may linger, in milliseconds. */
const lingers = 65_000;
const nameOf = (n: number) => `fen_${n}`;
const slugOf = (n: number) => `fen-${n}`;
const keyOf = (n: number) => `porch.bench.${n}`;

/**
 * As many portals at one server, each with the demo's definition and a schema of its own: what the server holds once
 * all of them were visited, against what it holds after the first hundred.
 */
export function manyPortals(): Promise<Figure[]> {
  const schemas = Array.from({ length: portals }, (_, n) => nameOf(n));
  return withMariadb(['stone_porch', 'alder_fen', ...schemas], async (address) => {
    await prepare(address);
    return withServers(address, async (start) => {
      const { port, process: child } = await start('./server-measured.ts', '--expose-gc');
      await visit(port, 0, first);
      const before = await held(child);
      await visit(port, first, portals);
      const after = await held(child);
      // Those that went are there again when they are asked for.
      await visit(port, 0, first);
      const figure = (name: string, ours: number, reference: number, aim: string): Figure => ({
        name,
        ours: round(ours / 2 ** 20, 1),
        reference: round(reference / 2 ** 20, 1),
        unit: 'MiB',
        ratio: round(ours / reference),
        aim,
      });
      return [
        figure(`held after ${portals} portals, against after ${first}`, after.held, before.held, '1.2 or less'),
        figure('the same, of the process as a whole', after.rss, before.rss, '1.2 or less'),
      ];
    });
  });
}

/** The demo's tables without their rows, the demo's definition and a key, for each. */
async function prepare(address: DatabaseAddress): Promise<void> {
  const store = await openStore(address, 'stone_porch');
  await loadDemo(address, 'alder_fen', store, 'stone_porch');
  const plain = await createConnection({ ...address, database: 'alder_fen' });
  try {
    const tables = (
      await plain.query<{ TABLE_NAME: string }[]>(
        'SELECT TABLE_NAME FROM information_schema.TABLES ' +
          "WHERE TABLE_SCHEMA = 'alder_fen' AND TABLE_TYPE = 'BASE TABLE'",
      )
    ).map((row) => row.TABLE_NAME);
    const made: string[] = [];
    for (const table of tables) {
      const [row] = await plain.query<Record<string, string>[]>(`SHOW CREATE TABLE \`${table}\``);
      made.push(row!['Create Table']!);
    }
    console.log(`making ${portals} portals over ${tables.length} tables each …`);
    for (let n = 0; n < portals; n++) {
      await plain.query(`USE ${nameOf(n)}`);
      await plain.query('SET foreign_key_checks = 0');
      for (const statement of made) await plain.query(statement);
      const document = demoDefinition(nameOf(n));
      document.portal.slug = slugOf(n);
      const text = JSON.stringify(document);
      const portal = await Portal.create({ slug: slugOf(n), draft: text, revision: 1, publishedVersion: 1 });
      const version = { number: 1, document: text, note: '', publishedBy: 'bench', publishedAt: new Date() };
      await Version.create({ portalId: portal.id, ...version });
      await plain.query(
        `INSERT INTO stone_porch.service_keys (portal_id, role, name, beginning, key_hash, addresses, a_minute, made_at,
          made_by) VALUES (?, 'bottle_tracker', 'Bench', 'porch.bench', ?, '[]', 1000, NOW(3), 'bench')`,
        [portal.id, keyHash(keyOf(n))],
      );
    }
  } finally {
    await plain.end();
    await store.close();
  }
}

/** A program of each portal reads its list. */
async function visit(port: number, from: number, to: number): Promise<void> {
  for (let n = from; n < to; n++) {
    const answer = await fetch(`http://127.0.0.1:${port}/api/v1/portals/${slugOf(n)}/records/samples`, {
      headers: { authorization: `Bearer ${keyOf(n)}` },
    });
    if (answer.status !== 200) throw new Error(`${slugOf(n)}: ${answer.status} ${await answer.text()}`);
    await answer.arrayBuffer();
  }
}

async function held(child: ChildProcess): Promise<{ held: number; rss: number }> {
  await sleep(lingers);
  child.send('held');
  return ((await once(child, 'message')) as [{ held: number; rss: number }])[0];
}
