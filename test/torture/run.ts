import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { parseArgs } from 'node:util';
import Joi from 'joi';
import { Random } from '../../core/proof/random';
import { connect } from '../../demo/load';
import { openServices } from '../../server/open-services';
import { freePort } from '../../start/local-mariadb';
import { readSecretKey } from '../../start/secret-key';
import { ClusterProcess, nodeNames, serverNames } from '../cluster-process';
import { openReceiver } from './receiver';
import { Streams } from './stream';
import { troubles, Troubles, type Trouble } from './trouble';
import { streamsOf } from './world';

/**
 * `npm run torture -- --minutes N --seed S`: people and programs work at a cluster with the demo while nodes, servers
 * and connections are killed, frozen and parted. Says what they did, how long they waited, and what is wrong in the
 * end; 1 where something is. `--only` takes one kind of trouble alone. `--before` is the folder of the version before,
 * with its packages: both servers begin as it, and are upgraded one after the other in place of all trouble.
 */
const { values } = parseArgs({
  options: {
    minutes: { type: 'string', default: '5' },
    only: { type: 'string' },
    before: { type: 'string' },
    seed: { type: 'string', default: String(Math.floor(Math.random() * 2 ** 31)) },
  },
});
const { error, value } = Joi.object<{ minutes: number; only?: Trouble; before?: string; seed: number }>({
  before: Joi.string(),
  only: Joi.valid(...troubles),
  minutes: Joi.number().positive().max(10_000).required(),
  seed: Joi.number().integer().min(0).required(),
}).validate(values);
if (error) {
  console.error(`${error.message}. Use: npm run torture -- --minutes 5 --seed 1`);
  process.exit(2);
}

/** So long what is under way has to come to its end, once nothing new is asked for, in milliseconds. */
const settling = 300_000;
const folder = mkdtempSync(join(tmpdir(), 'stone-porch-torture-'));
const checkouts = mkdtempSync(join(tmpdir(), 'stone-porch-checkouts-'));
const cluster = new ClusterProcess(folder, await freePort(), [], { STONE_PORCH_CHECKOUTS: checkouts });
const receiver = await openReceiver();
const wrong: string[] = [];
try {
  console.log(`seed ${value.seed}`);
  if (value.before !== undefined)
    for (const name of serverNames) writeFileSync(join(checkouts, name), resolve(value.before));
  await cluster.start();
  await torture();
} catch (error) {
  wrong.push((error as Error).stack ?? String(error));
} finally {
  const { said } = cluster;
  const { code, left } = await cluster.stop();
  if (code !== 0 || left.length > 0)
    wrong.push(`the cluster ended with ${code}, and left ${left.join(', ') || 'nothing'}`);
  await receiver.close();
  rmSync(checkouts, { recursive: true, force: true });
  if (wrong.length === 0) rmSync(folder, { recursive: true, force: true });
  else {
    writeFileSync(join(folder, 'said.txt'), said);
    console.log(`Its data and logs are left in ${folder}.`);
  }
}
for (const sentence of wrong.slice(0, 50)) console.log(`WRONG ${sentence}`);
console.log(wrong.length === 0 ? 'nothing is wrong' : `${wrong.length} things are wrong`);
process.exit(wrong.length === 0 ? 0 : 1);

async function torture(): Promise<void> {
  const doors = [cluster.port, ...serverNames.map((name) => cluster.portOf(name))].map(
    (port) => `http://127.0.0.1:${port}`,
  );
  const services = await openServices({
    database: cluster.addressOf('node-1'),
    ownSchema: 'stone_porch',
    secretKey: readSecretKey(folder),
  });
  const plain = () => connect(cluster.addressOf('node-2'), 'alder_fen');
  const streams = new Streams(
    await streamsOf({ doors, services, plain, receiver, random: new Random(value.seed + 1) }),
  );
  await services.close();
  const troubles = new Troubles(cluster, new Random(value.seed), value.only && [value.only]);
  const pace = new Random(value.seed + 2);
  const befell = new Map<string, number[]>();
  const until = Date.now() + value.minutes * 60_000;
  streams.start();
  await sleep(pace.int(2000, 5000));
  if (value.before !== undefined) await upgrade(streams);
  while (value.before === undefined && Date.now() < until) {
    streams.pauses();
    const trouble = await troubles.next();
    if (cluster.hasEnded || !(await troubles.whole())) {
      wrong.push(`not whole again after ${trouble}`);
      break;
    }
    await sleep(pace.int(500, 6000));
    const pauses = streams.pauses().toSorted((a, b) => b.longest - a.longest);
    befell.set(trouble, [...(befell.get(trouble) ?? []), ...pauses.map(({ longest }) => longest)]);
    console.log(`${trouble}: the longest wait ${(pauses[0]!.longest / 1000).toFixed(1)} s, ${pauses[0]!.name}`);
  }
  await Promise.race([streams.stop(), sleep(settling, null, { ref: false })]);
  if (cluster.hasEnded) throw new Error('The cluster has ended.');
  if (!(await within(settling, isStill))) wrong.push('what was under way did not come to its end');
  wrong.push(...(await streams.judge()));
  // What is done by the clock goes on meanwhile, so it may take a second look.
  if (!(await within(60_000, () => cluster.isAlike(['stone_porch', 'alder_fen']))))
    wrong.push('the nodes are not alike');
  console.log(JSON.stringify(streams.counts(), null, 2));
  for (const [fault, times] of cluster.faults()) wrong.push(`a server logged ${times} times: ${fault}`);
  for (const [trouble, pauses] of befell) console.log(`${trouble}: ${inWords(pauses)}`);
}

/** One server after the other is ended and begun again as this version; both versions serve for a third of the time. */
async function upgrade(streams: Streams): Promise<void> {
  const troubles = new Troubles(cluster, new Random(value.seed));
  const third = (value.minutes * 60_000) / 3;
  streams.pauses();
  await sleep(third);
  for (const name of serverNames) {
    const pid = cluster.pidOfServer(name);
    rmSync(join(checkouts, name));
    cluster.signal(name, 'SIGTERM');
    // It has answered what was asked of it by then.
    if (!(await within(settling, async () => cluster.pidOfServer(name) !== pid && (await troubles.whole()))))
      throw new Error(`${name} did not come back as this version.`);
    await sleep(third);
    const [pause] = streams.pauses().toSorted((a, b) => b.longest - a.longest);
    console.log(`${name} is upgraded: the longest wait ${(pause!.longest / 1000).toFixed(1)} s, ${pause!.name}`);
  }
}

/** Whether no job and no call is left to be done. */
function isStill(): Promise<boolean> {
  return cluster.onNode(nodeNames[1]!, async (connection) => {
    const [{ left }] = await connection.query<[{ left: bigint }]>(
      `SELECT (SELECT COUNT(*) FROM stone_porch.jobs WHERE state IN ('waiting', 'running', 'saving')) +
        (SELECT COUNT(*) FROM stone_porch.outside_calls WHERE state IN ('held', 'waiting', 'sending')) AS \`left\``,
    );
    return left === 0n;
  });
}

async function within(time: number, holds: () => Promise<boolean>): Promise<boolean> {
  for (const until = Date.now() + time; Date.now() < until; await sleep(500))
    if (await holds().catch(() => false)) return true;
  return false;
}

/** Waits of all streams at all troubles of a kind. */
function inWords(pauses: readonly number[]): string {
  const sorted = pauses.toSorted((a, b) => a - b);
  const at = (share: number) => `${(sorted[Math.ceil(sorted.length * share) - 1]! / 1000).toFixed(1)} s`;
  return `${sorted.length} waits, half under ${at(0.5)}, 99 of 100 under ${at(0.99)}, the longest ${at(1)}`;
}
