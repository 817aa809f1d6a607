import { readFileSync } from 'node:fs';
import { setTimeout as sleep } from 'node:timers/promises';
import { createConnection } from 'mariadb';
import { Random } from '../core/proof/random';
import { demoPassword } from '../demo/load';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { simulate, type Demand } from './arrivals';
import { ask, askerOf, demandsOf, once, shares, type Asker, type Kind } from './demands';
import { quantile, round, type Figure } from './figures';
import { bytesOfRows } from './growth';
import { grownSamplers, withGrownDemo } from './grown-demo';
import { writeBetween } from './write-between';

const kinds = Object.keys(shares) as Kind[];
const perKind = 400;
const members = 200;
const readingKinds: Kind[] = ['a list of 50 of 400 own records', 'a record', 'who am I'];
const loads = [0.3, 0.5, 0.7];
const secondsOfLoad = 30;
/** Requests a second that are drawn up in docs/scale.md. */
const rates = [100, 1000, 5000];
/** As busy as processes and cores may be on average, so that a peak finds room. */
const busy = 0.6;
const file = 'scale.md';

/**
 * What requests cost, by a million visits and 160,000 members; whether the simulation of arrivals says what a server
 * then really does; and what follows for many machines, which is written into docs/scale.md.
 */
export function scale(): Promise<Figure[]> {
  return withGrownDemo(async (address, start) => {
    const { port, process: server } = await start('./server-ours.ts');
    const askers: Asker[] = [];
    for (const cookie of await grownSamplers(address, members)) askers.push(await askerOf(port, cookie));
    const pids = { server: server.pid!, database: await pidOf(address) };
    const measured = new Map<Kind, Demand[]>();
    for (const kind of kinds)
      measured.set(kind, await demandsOf((i) => once(port, askers[i % members]!, kind, i), pids, perKind));
    const mixed = (of: readonly Kind[]) =>
      of.flatMap((kind) => measured.get(kind)!.slice(0, shares[kind] * (perKind / 40)));
    writeBetween('demands', demandTable(measured), file);
    writeBetween('machines', machineTable(mixed(kinds)), file);
    await changeWithHistory(port);
    writeBetween('growth', await bytesOfRows(address), file);

    const figures: Figure[] = [];
    const reading = mixed(readingKinds);
    for (const load of loads) {
      const rate = load / mean(reading.map(({ server }) => server));
      const really = await arriving(port, askers, rate);
      const { times } = simulate({ rate, requests: 200_000, demands: reading, processes: 1, cores: 2, seed: 1 });
      for (const [share, word] of [
        [0.5, 'median'],
        [0.95, '95th percentile'],
      ] as const) {
        const [ours, reference] = [quantile(really, share) * 1000, quantile(times, share) * 1000];
        figures.push({
          name: `one process, busy by ${load} (${Math.round(rate)} a second), ${word}: measured against simulated`,
          ours: round(ours, 2),
          reference: round(reference, 2),
          unit: 'ms',
          ratio: round(ours / reference, 2),
          aim: 'about 1',
        });
      }
    }
    return figures;
  });
}

/** A change of a well by the desk: its table keeps its history. */
async function changeWithHistory(port: number): Promise<void> {
  const credentials = { email: 'odile.fennimore@example.org', password: demoPassword };
  const { cookie } = await ask(port, '', '/sign-in', 'POST', credentials);
  const { body } = await ask(port, cookie, '/records/wells?columns=depth_m&size=1');
  const [well] = (JSON.parse(body) as { records: { id: string; values: { depth_m: unknown } }[] }).records;
  const changes = { depth_m: { from: well!.values.depth_m, to: '31.5' } };
  const answer = await ask(port, cookie, `/records/wells/${encodeURIComponent(well!.id)}`, 'PATCH', { changes });
  if (answer.status !== 200) throw new Error(answer.body);
}

const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;

async function pidOf(address: DatabaseAddress): Promise<number> {
  const connection = await createConnection(address);
  try {
    const [{ at }] = await connection.query<[{ at: string }]>('SELECT @@pid_file at');
    return Number(readFileSync(at, 'utf8'));
  } finally {
    await connection.end();
  }
}

/** Seconds of each request where they come when they come, whether or not the last was answered (Poisson). */
async function arriving(port: number, askers: readonly Asker[], rate: number): Promise<number[]> {
  const random = new Random(2);
  const reading = readingKinds.flatMap((kind) => Array.from({ length: shares[kind] }, () => kind));
  const began = performance.now();
  const asked: Promise<number | null>[] = [];
  for (let next = 0, i = 0; next < secondsOfLoad; next -= Math.log(1 - random.next()) / rate, i++) {
    const wait = began + next * 1000 - performance.now();
    // A timer is only as exact as a millisecond: what is due by then is sent at once.
    if (wait > 0.5) await sleep(wait);
    const [kind, sent] = [random.pick(reading), performance.now()];
    asked.push(
      once(port, random.pick(askers), kind, i).then(
        () => (performance.now() - sent) / 1000,
        () => null,
      ),
    );
  }
  const answered = (await Promise.all(asked)).slice(Math.floor(asked.length / 10));
  const taken = answered.filter((each) => each !== null);
  // On a machine that others slow down, a server says in time that it is too much.
  if (taken.length < 0.99 * answered.length) throw new Error(`${answered.length - taken.length} were refused`);
  return taken;
}

function demandTable(measured: Map<Kind, Demand[]>): string[] {
  const ms = (values: number[]) => (mean(values) * 1000).toFixed(2);
  return [
    '| a request | of a hundred | server, ms of a core | database, ms of a core | elsewhere, ms |',
    '| --- | --- | --- | --- | --- |',
    ...[...measured].map(
      ([kind, demands]) =>
        `| ${kind} | ${shares[kind]} | ${ms(demands.map(({ server }) => server))} | ` +
        `${ms(demands.map(({ database }) => database))} | ${ms(demands.map(({ elsewhere }) => elsewhere))} |`,
    ),
  ];
}

function machineTable(demands: Demand[]): string[] {
  const rows = rates.map((rate) => {
    const needed = (of: 'server' | 'database') => Math.ceil((rate * mean(demands.map((each) => each[of]))) / busy);
    const [processes, cores] = [needed('server'), needed('database')];
    const { times, busy: was } = simulate({ rate, requests: 400_000, demands, processes, cores, seed: 1 });
    const ms = (share: number) => (quantile(times, share) * 1000).toFixed(0);
    return (
      `| ${rate.toLocaleString('en')} | ${processes} | ${was.server.toFixed(2)} | ${cores} | ` +
      `${was.database.toFixed(2)} | ${ms(0.5)} | ${ms(0.95)} | ${ms(0.99)} |`
    );
  });
  return [
    '| requests a second | processes | busy | cores of the database | busy | median, ms | 95th, ms | 99th, ms |',
    '| --- | --- | --- | --- | --- | --- | --- | --- |',
    ...rows,
  ];
}
