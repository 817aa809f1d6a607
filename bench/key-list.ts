import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { Agent, get } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { demoPassword } from '../demo/load';
import type { PortalDefinition } from '../core/definition/definition';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { Client } from '../test/server';
import { dumpedByClient } from './client-dump';
import { quantile, round, type Figure } from './figures';
import { withGrownDemo } from './grown-demo';

const bench = '/builder/portals/alder-fen';
const rounds = 16;
const perRound = 200;
const atOnce = 2;
const columns = ['id', 'planned_for', 'state', 'seal_number', 'fee', 'paid'];

/**
 * A program's list of 100 of a million visits by its key, as JSON and as CSV, against an Express route with the same
 * statements by hand; and all of them as one CSV, against the same rows by the driver's own stream, written by hand,
 * and against the database client's own dump.
 */
export async function keyList(): Promise<Figure[]> {
  return withGrownDemo(async (address, start) => {
    const { port: ours } = await start('./server-ours.ts');
    const key = await keyFor(new Client(`http://127.0.0.1:${ours}`));
    const { port: plain } = await start('./server-key-plain.ts');
    const under = '/api/v1/portals/alder-fen';
    const query = `columns=${columns.join(',')}&sort=-planned_for&size=100&counted=false`;
    const asked = (port: number, path: string, accept: string): Target => ({ port, path, key, accept });
    const [json, csv] = ['application/json', 'text/csv'];
    const figures: Figure[] = [];
    for (const [words, accept] of [
      ['100 visits as JSON', json],
      ['100 visits as CSV', csv],
    ] as const) {
      const pair = [asked(ours, `${under}/records/visits?${query}`, accept), asked(plain, '/visits', accept)] as const;
      const [a, b] = await Promise.all(pair.map(body));
      if (a !== b) throw new Error(`the two answer differently:\n${a!.slice(0, 400)}\n${b!.slice(0, 400)}`);
      const times: [number[], number[]] = [[], []];
      for (let i = 0; i < rounds; i++)
        for (const at of i % 2 ? ([0, 1] as const) : ([1, 0] as const)) {
          const taken = await load(pair[at]);
          if (i >= 2) times[at].push(...taken);
        }
      for (const [share, word] of [
        [0.5, 'median'],
        [0.99, 'p99'],
      ] as const) {
        const [own, reference] = times.map((all) => quantile(all, share)) as [number, number];
        figures.push({
          name: `by a key: ${words}, ${word}`,
          ours: round(own),
          reference: round(reference),
          unit: 'ms',
          ratio: round(own / reference),
          aim: share === 0.5 ? '1.15 or less' : 'said',
        });
      }
    }
    const whole = [
      asked(ours, `${under}/exports/visits?columns=${columns.join(',')}`, csv),
      asked(plain, '/all-visits', csv),
    ] as const;
    const taken: [number, number] = [Infinity, Infinity];
    const lengths = [0, 0];
    for (let i = 0; i < 3; i++)
      for (const at of [0, 1] as const) {
        const from = performance.now();
        lengths[at] = await length(whole[at]);
        taken[at] = Math.min(taken[at], performance.now() - from);
      }
    if (lengths[0] !== lengths[1]) throw new Error(`files of ${lengths.join(' and ')} bytes`);
    const dumped = await clientDump(address);
    figures.push({
      name: 'a million visits as CSV by a key, rows a second against a stream by hand',
      ours: Math.round(1e6 / (taken[0] / 1000)),
      reference: Math.round(1e6 / (taken[1] / 1000)),
      unit: '/s',
      ratio: round(taken[1] / taken[0]),
      aim: 'said',
    });
    figures.push({
      name: "the same against the database client's dump into a file",
      ours: Math.round(1e6 / (taken[0] / 1000)),
      reference: Math.round(1e6 / (dumped / 1000)),
      unit: '/s',
      ratio: round(dumped / taken[0]),
      aim: '0.7 or more',
    });
    return figures;
  });
}

/** How long the database's client takes to write the same rows into a file, in milliseconds; the best of three. */
async function clientDump(address: DatabaseAddress): Promise<number> {
  const folder = mkdtempSync(join(tmpdir(), 'stone-porch-bench-'));
  try {
    let best = Infinity;
    for (let i = 0; i < 3; i++) {
      const file = join(folder, `${i}.tsv`);
      const from = performance.now();
      await dumpedByClient(address, 'alder_fen', `SELECT ${columns.join(', ')} FROM visits ORDER BY id`, file);
      best = Math.min(best, performance.now() - from);
      if (statSync(file).size < 2e7) throw new Error('the file is too small to hold the visits');
    }
    return best;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** A key of a service that sees every visit and may take them out. */
async function keyFor(builder: Client): Promise<string> {
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  const draft = (await builder.get(`${bench}/definition`)).body as PortalDefinition;
  draft.promises = [];
  draft.access.visits!.bottle_tracker = { see: { where: 'every row', columns }, export: { where: 'as seen' } };
  const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body as { revision: number };
  const published = await builder.post(`${bench}/versions`, { revision, note: '' });
  if (published.status !== 201) throw new Error(JSON.stringify(published.body));
  const order = { role: 'bottle_tracker', name: 'Bench', aMinute: 100_000 };
  const made = await builder.post(`${bench}/keys`, order);
  return (made.body as { key: string }).key;
}

interface Target {
  port: number;
  path: string;
  key: string;
  accept: string;
}

const agent = new Agent({ keepAlive: true, maxSockets: atOnce });

function body({ port, path, key, accept }: Target): Promise<string> {
  const headers = { authorization: `Bearer ${key}`, accept };
  return new Promise((resolve, reject) => {
    get({ port, path, host: '127.0.0.1', agent, headers }, (response) => {
      let text = '';
      response
        .setEncoding('utf8')
        .on('data', (part: string) => (text += part))
        .on('error', reject)
        .on('end', () =>
          response.statusCode === 200 ? resolve(text) : reject(new Error(`${response.statusCode}: ${text}`)),
        );
    }).on('error', reject);
  });
}

/** How many bytes are answered; they are thrown away. */
function length({ port, path, key, accept }: Target): Promise<number> {
  const headers = { authorization: `Bearer ${key}`, accept };
  return new Promise((resolve, reject) => {
    get({ port, path, host: '127.0.0.1', agent, headers }, (response) => {
      let bytes = 0;
      response
        .on('data', (part: Buffer) => (bytes += part.length))
        .on('error', reject)
        .on('end', () => (response.statusCode === 200 ? resolve(bytes) : reject(new Error(`${response.statusCode}`))));
    }).on('error', reject);
  });
}

async function load(target: Target): Promise<number[]> {
  const times: number[] = [];
  const lane = async () => {
    for (let i = 0; i < perRound / atOnce; i++) {
      const from = performance.now();
      await body(target);
      times.push(performance.now() - from);
    }
  };
  await Promise.all(Array.from({ length: atOnce }, lane));
  return times;
}
