import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { isDeepStrictEqual } from 'node:util';
import { setTimeout as sleep } from 'node:timers/promises';
import { createConnection, type Connection } from 'mariadb';
import { demoPassword, loadDemo } from '../demo/load';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { openStore } from '../server/store/store';
import { ClusterNodes, type ClusterNode } from '../start/cluster-nodes';
import { startProxy } from '../start/cluster-proxy';
import { endOf } from '../start/end-of';
import { installPrograms, unpackCopyScripts } from '../start/install.mjs';
import { databaseSecret, freePort, startMariadb } from '../start/local-mariadb';
import { askerOf, ask, once, type Asker } from './demands';
import { quantile, round, type Figure } from './figures';
import { withServers, type StartServer } from './put-together';
import { inTurns } from './timing';

const requests = 400;
const rows = 1_000_000;
const list = 'a list of 50 of 400 own records';
const edit = 'a change of a record';

/**
 * What a cluster of three nodes behind haproxy costs a list and a change, against one node with the same settings; and
 * how long a change waits while a node that lost everything is given its copy of a million rows.
 */
export async function cluster(): Promise<Figure[]> {
  installPrograms(['mariadb', 'dump', 'cluster', 'copying']);
  process.env.PATH = `${unpackCopyScripts()}:${process.env.PATH}`;
  const folder = mkdtempSync(join(tmpdir(), 'stone-porch-bench-'));
  const stops: (() => Promise<void>)[] = [() => Promise.resolve(rmSync(folder, { recursive: true, force: true }))];
  try {
    const single = await startMariadb(
      join(folder, 'single'),
      ['stone_porch', 'alder_fen'],
      ['--innodb-flush-log-at-trx-commit=2'],
    );
    stops.push(() => single.stop());
    const nodes = new ClusterNodes(join(folder, 'nodes'), console.log);
    stops.push(() => nodes.stop());
    await nodes.start(3);
    const [port, databasePort] = [await freePort(), await freePort()];
    const proxy = await startProxy(folder, { port, servers: [], databasePort, nodes: nodes.nodes });
    stops.push(() => endOf(proxy));
    const password = databaseSecret(join(folder, 'nodes'));
    const behind: DatabaseAddress = { host: '127.0.0.1', port: databasePort, user: 'stone_porch', password };
    // Both over the network: a socket is quicker, and only one of them has one.
    const alone: DatabaseAddress = { ...single.address, socketPath: undefined };
    return await withServers(behind, (start) =>
      withServers(alone, async (startAlone) => {
        const [many, one] = [await served(behind, start), await served(alone, startAlone)];
        return [...(await against(many, one)), ...(await transfer(many, nodes.nodes))];
      }),
    );
  } finally {
    for (const stop of stops.toReversed()) await stop();
  }
}

interface Served extends Asker {
  port: number;
}

/** The demo in a database, served, with a sampler signed in. */
async function served(address: DatabaseAddress, start: StartServer): Promise<Served> {
  const store = await openStore(address, 'stone_porch');
  await loadDemo(address, 'alder_fen', store, 'stone_porch');
  await store.close();
  const { port } = await start('./server-ours.ts');
  const credentials = { email: 'mara.lindqvist@example.org', password: demoPassword };
  const { cookie } = await ask(port, '', '/sign-in', 'POST', credentials);
  return { port, ...(await askerOf(port, cookie)) };
}

async function against(many: Served, one: Served): Promise<Figure[]> {
  const figures: Figure[] = [];
  for (const [kind, words, aim] of [
    [list, 'a list', 1.15],
    [edit, 'a change', 2.5],
  ] as const) {
    const taken = await inTurns(
      { many: (i) => once(many.port, many, kind, i), one: (i) => once(one.port, one, kind, i) },
      requests,
    );
    for (const [share, name] of [
      [0.5, 'median'],
      [0.99, 'p99'],
    ] as const) {
      const [ours, reference] = [quantile(taken.many, share), quantile(taken.one, share)];
      figures.push({
        name: `${words} by a cluster of three against one node, ${name}`,
        ours: round(ours),
        reference: round(reference),
        unit: 'ms',
        ratio: round(ours / reference),
        aim: share === 0.5 ? `${aim} or less` : 'said',
      });
    }
  }
  return figures;
}

/** A node is killed and takes a million rows from another, while somebody changes a record again and again. */
async function transfer(many: Served, nodes: readonly ClusterNode[]): Promise<Figure[]> {
  const [used, , lost] = nodes as [ClusterNode, ClusterNode, ClusterNode];
  await onNode(used, async (connection) => {
    await connection.query('USE alder_fen');
    await connection.query('CREATE TABLE alder_fen.readings (id INT PRIMARY KEY, well INT, words VARCHAR(60))');
    await connection.query(
      `INSERT INTO alder_fen.readings SELECT seq, seq % 997, CONCAT('Nothing to see at ', seq) FROM seq_1_to_${rows}`,
    );
  });
  await until(async () => (await rowsAt(lost)) === rows);
  let [changes, longest, refused] = [0, 0, 0];
  let asker: Asker = many;
  const changing = async (goesOn: () => boolean) => {
    for (; goesOn(); changes++) {
      const from = performance.now();
      await once(many.port, asker, edit, changes).catch(async () => {
        // What stands there now is looked up, and the next goes on from it.
        refused++;
        asker = await askerOf(many.port, many.cookie);
      });
      longest = Math.max(longest, performance.now() - from);
    }
  };
  const before = performance.now();
  await changing(() => performance.now() - before < 5000);
  const usual = longest;
  [changes, longest, refused] = [0, 0, 0];
  const from = performance.now();
  let isBack = false;
  const { pid } = lost.process!;
  process.kill(pid!, 'SIGKILL');
  const back = until(async () => lost.hasJoined && lost.process?.pid !== pid && (await rowsAt(lost)) === rows).then(
    () => (isBack = true),
  );
  await Promise.all([back, changing(() => !isBack)]);
  const seconds = (performance.now() - from) / 1000;
  await until(async () => isDeepStrictEqual(await checksum(used), await checksum(lost)));
  return [
    {
      name:
        `a node that was killed has its copy of ${rows.toLocaleString('en')} rows; ` +
        `${changes} changes meanwhile, ${refused} refused`,
      ours: round(seconds, 1),
      reference: 0,
      unit: 's',
      ratio: 0,
      aim: 'said',
    },
    {
      name: 'the longest change meanwhile, against the longest of 5 s before',
      ours: round(longest, 0),
      reference: round(usual, 0),
      unit: 'ms',
      ratio: round(longest / usual),
      aim: '5,000 ms or less',
    },
  ];
}

async function onNode<T>({ address }: ClusterNode, work: (connection: Connection) => Promise<T>): Promise<T> {
  const connection = await createConnection({ ...address, connectTimeout: 5000 });
  try {
    return await work(connection);
  } finally {
    await connection.end();
  }
}

/** How many of the million a node has; -1 where it can't say. */
const rowsAt = (node: ClusterNode): Promise<number> =>
  onNode(node, async (connection) => {
    const [row] = await connection.query<{ n: bigint }[]>('SELECT COUNT(*) n FROM alder_fen.readings');
    return Number(row!.n);
  }).catch(() => -1);

const checksum = (node: ClusterNode): Promise<unknown> =>
  onNode(node, (connection) => connection.query('CHECKSUM TABLE alder_fen.visits, alder_fen.readings'));

async function until(holds: () => Promise<boolean>): Promise<void> {
  while (!(await holds())) await sleep(200);
}
