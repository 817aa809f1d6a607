import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, renameSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { ClusterProcess, nodeNames, serverNames } from '../test/cluster-process';
import { Client } from '../test/server';
import { canMount } from '../test/can-mount';
import { isThorough, tries } from '../test/thorough';
import { raw } from '../core/sql/sql';
import { MariadbSource } from '../server/sources/mariadb';
import { freePort } from './local-mariadb';

/**
 * Three nodes of MariaDB's Galera cluster, two servers, haproxy. What was acknowledged is there whatever is killed, on
 * every node alike.
 */
const folder = mkdtempSync(join(tmpdir(), 'stone-porch-cluster-'));
const password = 'the porch has seven stones';
let cluster: ClusterProcess;
let builder: Client;

async function stop(): Promise<void> {
  const ended = await cluster.stop();
  // Whatever ended it is told by itself.
  expect(ended, cluster.said.slice(-3000)).toEqual({ code: 0, left: [] });
}

beforeAll(async () => {
  cluster = new ClusterProcess(folder, await freePort(), ['--empty']);
  await cluster.start();
  builder = new Client(`http://127.0.0.1:${cluster.port}`);
  const [, token] = /\/join#([\w-]+)/.exec(cluster.said)!;
  const chosen = { token, password, email: 'first@example.org', name: 'The first' };
  expect((await builder.post('/builder/links/use', chosen)).status).toBe(200);
  expect((await builder.post('/builder/sign-in', { email: 'first@example.org', password })).status).toBe(200);
  const made = { slug: 'fen', name: 'Nought', schema: 'records', timeZone: 'UTC' };
  expect((await builder.post('/builder/portals', made)).status).toBe(201);
}, 400_000);

afterAll(async () => {
  await stop();
  rmSync(folder, { recursive: true, force: true });
}, 120_000);

/** Changes the portal's name again and again; notes what was acknowledged, and the longest time without. */
class Writer {
  sent = 0;
  acknowledged = 0;
  longest = 0;
  /** How often it was told nothing, or something else. */
  refused = 0;
  private stopped = false;
  private readonly going: Promise<void>;

  constructor() {
    this.going = this.write();
  }

  async stop(): Promise<void> {
    this.stopped = true;
    await this.going;
  }

  private async write(): Promise<void> {
    let last = Date.now();
    while (!this.stopped) {
      const open = await builder.get('/builder/portals/fen').catch(() => null);
      if (open?.status !== 200) {
        this.refused++;
        await sleep(20);
        continue;
      }
      const name = String(++this.sent);
      const change = { op: 'replace', path: '/portal/name', value: name };
      const body = { revision: open.body.revision as number, label: 'Named', patch: [change] };
      const answer = await builder.send('PATCH', '/builder/portals/fen/draft', body).catch(() => null);
      if (answer?.status !== 200) continue;
      this.acknowledged = this.sent;
      this.longest = Math.max(this.longest, Date.now() - last);
      last = Date.now();
    }
  }
}

const nameNow = async () => Number((await builder.get('/builder/portals/fen')).body.draft.portal.name);

it('has a key in each table of ours, as a cluster asks', async () => {
  const without = await cluster.onNode('node-2', (connection) =>
    connection.query(
      `SELECT t.TABLE_NAME name FROM information_schema.TABLES t WHERE t.TABLE_SCHEMA = 'stone_porch' AND NOT EXISTS
        (SELECT 1 FROM information_schema.STATISTICS s WHERE s.TABLE_SCHEMA = t.TABLE_SCHEMA AND
          s.TABLE_NAME = t.TABLE_NAME AND s.INDEX_NAME = 'PRIMARY')`,
    ),
  );
  expect(without).toEqual([]);
});

it('shows at one node what another has said yes to, from the next question on', async () => {
  const [here, there] = ['node-1', 'node-3'].map(
    (node) => new MariadbSource(cluster.addressOf(node), 'records', 1, { own: true }),
  ) as [MariadbSource, MariadbSource];
  try {
    await here.write(raw('CREATE TABLE rights (id INT PRIMARY KEY, given INT)'));
    await here.write(raw('INSERT INTO rights VALUES (1, 0)'));
    for (let turn = 1; turn <= tries(200, 5000); turn++) {
      await here.write(raw(`UPDATE rights SET given = ${turn} WHERE id = 1`));
      expect(await there.rows(raw('SELECT given FROM rights'))).toEqual([[turn]]);
    }
    await here.write(raw('CREATE TABLE keyless (id INT)'));
    const { tables } = await there.catalogue(true);
    expect(tables.map(({ name, inCluster }) => [name, inCluster])).toEqual([
      ['keyless', 'without a key'],
      ['rights', 'with a key'],
    ]);
    await here.write(raw('DROP TABLE rights, keyless'));
  } finally {
    await Promise.all([here.close(), there.close()]);
  }
});

it('has what comes by the thousand at every node before its end, and all or nothing of it to see', async () => {
  const [here, there] = ['node-1', 'node-2'].map(
    (node) => new MariadbSource(cluster.addressOf(node), 'records', 1, { own: true }),
  ) as [MariadbSource, MariadbSource];
  const count = async (at: MariadbSource) => Number((await at.rows(raw('SELECT COUNT(*) FROM many')))[0]![0]);
  const parts = () =>
    cluster.asKeeper('node-2', async (connection) => {
      const [row] = await connection.query<{ n: bigint }[]>('SELECT COUNT(*) n FROM mysql.wsrep_streaming_log');
      return Number(row!.n);
    });
  const bring = (isLarge: boolean, look: () => Promise<void>) =>
    here.transaction(
      async (runner) => {
        const some = () =>
          runner.many(
            raw('INSERT INTO many (n) VALUES (?)'),
            Array.from({ length: 25_000 }, (_, n) => [n]),
          );
        for (let i = 0; i < 3; i++) {
          await some();
          // What is refused on the way is taken back where its parts have come too.
          await runner.attempt(async () => {
            await some();
            return null;
          });
        }
        await look();
      },
      { isLarge },
    );
  try {
    await here.write(raw('CREATE TABLE many (id INT AUTO_INCREMENT PRIMARY KEY, n INT)'));
    await bring(true, async () => {
      await expect.poll(parts, { timeout: 60_000 }).toBeGreaterThan(0);
      expect(await count(there)).toBe(0);
    });
    expect([await count(there), await count(here)]).toEqual([75_000, 75_000]);
    await expect.poll(parts, { timeout: 60_000 }).toBe(0);
    const taken = bring(true, async () => {
      await expect.poll(parts, { timeout: 60_000 }).toBeGreaterThan(0);
      throw new Error('taken back');
    });
    await expect(taken).rejects.toThrow('taken back');
    expect([await count(there), await count(here)]).toEqual([75_000, 75_000]);
    await expect.poll(parts, { timeout: 60_000 }).toBe(0);
    // The next on that connection is like any other again.
    await bring(false, async () => expect(await parts()).toBe(0));
    expect(await count(there)).toBe(150_000);
    await here.write(raw('DROP TABLE many'));
  } finally {
    await Promise.all([here.close(), there.close()]);
  }
});

it('changes tables from both servers at once, one change after the other, and loses none', async () => {
  const shape = '/builder/portals/fen/shape';
  const typed = (name: string) => ({ name, type: 'whole number', required: false, unique: false, initial: null });
  const table = { name: 'places', columns: [typed('first')], stamps: false };
  expect((await builder.post(`${shape}/tables`, table)).status).toBe(201);
  const both = await Promise.all(
    serverNames.map(async (name) => {
      const client = new Client(`http://127.0.0.1:${cluster.portOf(name)}`);
      await client.post('/builder/sign-in', { email: 'first@example.org', password });
      return client;
    }),
  );
  const add = async (client: Client, name: string): Promise<void> => {
    const answer = await client.post(`${shape}/tables/places/columns`, { column: typed(name), colours: {} });
    // Another change is under way: asked again, as whoever presses would.
    if (answer.status === 409 && (answer.body as { type: string }).type === 'shape-busy') return add(client, name);
    expect([name, answer.status, answer.body]).toEqual([name, 201, answer.body]);
  };
  await Promise.all(
    both.map(async (client, i) => {
      for (let n = 1; n <= tries(4, 40); n++) await add(client, `c${i}_${n}`);
    }),
  );
  const wanted = [
    'id',
    'first',
    ...[0, 1].flatMap((i) => Array.from({ length: tries(4, 40) }, (_, n) => `c${i}_${n + 1}`)),
  ];
  const namesAt = (node: string, query: string) => () =>
    cluster.onNode(node, async (connection) =>
      (await connection.query<{ name: string }[]>(query)).map(({ name }) => name).toSorted(),
    );
  const columns =
    "SELECT COLUMN_NAME name FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = 'records' AND TABLE_NAME = 'places'";
  const left =
    'SELECT schema_name name FROM stone_porch.shape_intents UNION SELECT schema_name FROM stone_porch.shape_leases';
  for (const node of nodeNames) {
    // Another node may be a moment behind.
    await expect.poll(namesAt(node, columns), { timeout: 60_000 }).toEqual(wanted.toSorted());
    await expect.poll(namesAt(node, left), { timeout: 60_000 }).toEqual([]);
  }
  // Whoever is at it, at whichever node, has it alone; where they are gone, another goes on.
  await cluster.onNode('node-3', (connection) =>
    connection.query("INSERT INTO stone_porch.shape_leases VALUES ('records', 'another', '2100-01-01')"),
  );
  const last = { column: typed('last'), colours: {} };
  for (const client of both)
    expect((await client.post(`${shape}/tables/places/columns`, last)).body).toMatchObject({ status: 409 });
  await cluster.onNode('node-3', (connection) =>
    connection.query("UPDATE stone_porch.shape_leases SET held_until = '2020-01-01'"),
  );
  await expect
    .poll(async () => (await builder.post(`${shape}/tables/places/columns`, last)).status, { timeout: 60_000 })
    .toBe(201);
});

it('loses nothing when nodes and servers are killed, and is whole again by itself', async () => {
  const writer = new Writer();
  const goesOn = async (by: number) => {
    const before = writer.acknowledged;
    await expect.poll(() => writer.acknowledged, { timeout: 120_000 }).toBeGreaterThan(before + by);
  };
  try {
    await goesOn(10);
    for (const node of nodeNames.slice(0, tries(1, 3))) {
      cluster.signal(node, 'SIGKILL');
      await goesOn(10);
      await expect.poll(() => cluster.said, { timeout: 120_000 }).toContain(`${node} is back.`);
    }
    // The servers by turns too: what one was answering breaks off, the other answers.
    for (const name of serverNames.slice(0, tries(1, 2))) {
      cluster.signal(name, 'SIGKILL');
      await goesOn(10);
      await expect.poll(() => cluster.said, { timeout: 120_000 }).toContain(`${name} has ended. It is begun again.`);
      await expect
        .poll(async () => (await fetch(`http://127.0.0.1:${cluster.portOf(name)}/health/ready`)).status, {
          timeout: 120_000,
        })
        .toBe(200);
    }
  } finally {
    await writer.stop();
  }
  console.log(`cluster: ${writer.acknowledged} changes, the longest pause ${writer.longest} ms`);
  const name = await nameNow();
  expect(name).toBeGreaterThanOrEqual(writer.acknowledged);
  expect(name).toBeLessThanOrEqual(writer.sent);
  // In one look at all of them: what is done by the clock goes on meanwhile.
  await expect.poll(() => cluster.isAlike(['stone_porch']), { timeout: 60_000 }).toBe(true);
}, 600_000);

it('says how many nodes there are, and that writes wait where one of them is slow', async () => {
  const health = async () =>
    (await (await fetch(`http://127.0.0.1:${cluster.portOf('porch-1')}/health/ready`)).json()) as {
      cluster: { nodes: number; waiting: number };
    };
  await expect.poll(async () => (await health()).cluster.nodes, { timeout: 60_000 }).toBe(3);
  const writers = Array.from({ length: 8 }, () => new Writer());
  try {
    await cluster.asKeeper('node-3', async (connection) => {
      // It lets the others wait as soon as more than one change is left to make, and makes none.
      await connection.query("SET GLOBAL wsrep_provider_options = 'gcs.fc_limit=1'");
      await connection.query('LOCK TABLES stone_porch.portals WRITE');
      await expect.poll(async () => (await health()).cluster.waiting, { timeout: 120_000 }).toBeGreaterThan(0);
      await connection.query('UNLOCK TABLES');
      await connection.query("SET GLOBAL wsrep_provider_options = 'gcs.fc_limit=16'");
    });
  } finally {
    await Promise.all(writers.map((writer) => writer.stop()));
  }
});

it('says 503 and writes nothing where no node sees another, and goes on when they do', async () => {
  const writer = new Writer();
  const isolate = (is: 0 | 1) =>
    Promise.all(
      nodeNames.map((node) =>
        cluster.asKeeper(node, (connection) =>
          // Galera's own switch for it: what comes from the others is dropped, and nothing sent.
          connection.query(`SET GLOBAL wsrep_provider_options = 'gmcast.isolate=${is}'`),
        ),
      ),
    );
  try {
    await expect.poll(() => writer.acknowledged, { timeout: 120_000 }).toBeGreaterThan(5);
    await isolate(1);
    const said = async () => {
      const { status, headers } = await fetch(`http://127.0.0.1:${cluster.port}/api/builder/portals/fen`, {
        headers: builder.headers(),
      });
      return [status, Number(headers.get('retry-after')) > 0];
    };
    await expect.poll(said, { timeout: 120_000 }).toEqual([503, true]);
    for (const name of serverNames) {
      const ready = async () => (await fetch(`http://127.0.0.1:${cluster.portOf(name)}/health/ready`)).status;
      await expect.poll(ready, { timeout: 60_000 }).toBe(503);
    }
    // Once it is refused itself nothing of before is under way.
    const refused = writer.refused;
    await expect.poll(() => writer.refused).toBeGreaterThan(refused + 1);
    const before = writer.acknowledged;
    for (let asked = 0; asked < 20; asked++) expect(await said()).toEqual([503, true]);
    expect(writer.acknowledged).toBe(before);
    await isolate(0);
    await expect.poll(() => writer.acknowledged, { timeout: 120_000 }).toBeGreaterThan(before + 5);
  } finally {
    await isolate(0);
    await writer.stop();
  }
  await expect.poll(() => cluster.isAlike(['stone_porch']), { timeout: 120_000 }).toBe(true);
}, 400_000);

it.runIf(isThorough)(
  'is there again after all of it was stopped',
  async () => {
    const before = await nameNow();
    await stop();
    await cluster.start();
    expect(await nameNow()).toBe(before);
  },
  400_000,
);

it.runIf(isThorough && canMount(folder))(
  'goes on where the disk of a node is full, and takes the node back when there is room',
  async () => {
    await stop();
    const disk = join(folder, 'node-1');
    const elsewhere = `${disk}-elsewhere`;
    renameSync(disk, elsewhere);
    mkdirSync(disk, { mode: 0o700 });
    const filler = join(disk, 'filler');
    let name = 0;
    try {
      execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=900m,mode=700', 'tmpfs', disk]);
      execFileSync('cp', ['-a', `${elsewhere}/.`, disk]);
      await cluster.start();
      const writer = new Writer();
      const goesOn = async () => {
        const before = writer.acknowledged;
        await expect.poll(() => writer.acknowledged, { timeout: 60_000 }).toBeGreaterThan(before + 50);
      };
      try {
        await goesOn();
        // It ends where nothing more can be written.
        spawnSync('dd', ['if=/dev/zero', `of=${filler}`, 'bs=1M']);
        await expect.poll(() => cluster.said, { timeout: 60_000 }).toContain('The disk of node-1 is full.');
        await goesOn();
        rmSync(filler);
        await expect.poll(() => cluster.said, { timeout: 60_000 }).toContain('node-1 has room again.');
        await goesOn();
      } finally {
        await writer.stop();
      }
      await expect.poll(() => cluster.isAlike(['stone_porch']), { timeout: 120_000 }).toBe(true);
      name = await nameNow();
    } finally {
      await stop();
      spawnSync('umount', [disk]);
      rmSync(disk, { recursive: true });
      renameSync(elsewhere, disk);
    }
    // What it has now is older than what the others have, and says that it may begin: it takes theirs.
    const before = readFileSync(join(folder, 'node-2', 'db', 'grastate.dat'), 'utf8');
    expect(before).not.toContain('safe_to_bootstrap: 1');
    await cluster.start();
    expect(await nameNow()).toBe(name);
    await expect.poll(() => cluster.isAlike(['stone_porch']), { timeout: 120_000 }).toBe(true);
  },
  600_000,
);

it('ends also while a node is being given its copy', async () => {
  const begun = cluster.said.length;
  const file = join(folder, 'node-3', 'run', 'mariadbd.log');
  rmSync(file);
  cluster.signal('node-3', 'SIGKILL');
  await expect.poll(() => cluster.said.slice(begun), { timeout: 60_000 }).toContain('node-3 has ended.');
  const log = () => (existsSync(file) ? readFileSync(file, 'utf8') : '');
  await expect.poll(log, { timeout: 60_000, interval: 20 }).toContain("--role 'joiner'");
  await stop();
}, 120_000);
