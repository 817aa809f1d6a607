import { Agent, get } from 'node:http';
import { demoPassword } from '../demo/load';
import { quantile, round, type Figure } from './figures';
import { grownSamplers, withGrownDemo } from './grown-demo';

const rounds = 24;
const perRound = 250;
const atOnce = 2;

/** So many members are there at once, each with the next request as soon as the last is answered, for so long. */
const members = 200;
const turns = 5;
const turnSeconds = 12;

/**
 * A member's own rows of a million, end to end over HTTP: the gate's list against the same SQL by hand, both servers in
 * one run, in turns.
 */
export async function list(): Promise<Figure[]> {
  return withGrownDemo(async (database, start) => {
    const { port: ours } = await start('./server-ours.ts');
    const { port: plain } = await start('./server-plain.ts');
    const answer = await fetch(`http://127.0.0.1:${ours}/api/portals/alder-fen/sign-in`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', 'x-stone-porch': 'bench' },
      body: JSON.stringify({ email: 'mara.lindqvist@example.org', password: demoPassword }),
    });
    const cookie = answer.headers.getSetCookie()[0]!.split(';')[0]!;
    const targets = {
      ours: {
        port: ours,
        path:
          '/api/portals/alder-fen/records/visits' +
          '?columns=planned_for,state,access_note,seal_number,asked_on&sort=-planned_for',
      },
      plain: { port: plain, path: '/visits' },
      trusting: { port: plain, path: '/visits?trust=1' },
    };

    const [a, b] = await Promise.all([body(targets.ours, cookie), body(targets.plain, cookie)]);
    const [x, y] = [JSON.stringify(a), JSON.stringify(b)];
    const differs = [...x].findIndex((sign, i) => sign !== y[i]);
    if (x !== y)
      throw new Error(
        `the two answer differently:\n${x.slice(Math.max(0, differs - 80), differs + 80)}\n` +
          `${y.slice(Math.max(0, differs - 80), differs + 80)}`,
      );
    console.log(`both give the same ${a.records.length} of ${a.total} rows`);

    const names = ['ours', 'plain', 'trusting'] as const;
    const times: Record<(typeof names)[number], number[]> = { ours: [], plain: [], trusting: [] };
    for (let i = 0; i < rounds; i++) {
      for (const name of i % 2 ? names : names.toReversed()) {
        const taken = await load(targets[name], cookie);
        if (i >= 2) times[name].push(...taken); // two rounds to warm up
      }
    }
    const cookies = await grownSamplers(database, members);
    const done = { ours: 0, plain: 0 };
    for (let i = 0; i <= turns; i++)
      for (const name of i % 2 ? (['ours', 'plain'] as const) : (['plain', 'ours'] as const)) {
        const answered = await crowd(targets[name], cookies, i === 0 ? 4 : turnSeconds);
        if (i > 0) done[name] += answered; // the first turn warms up
      }
    const seconds = turns * turnSeconds;
    const throughput: Figure = {
      name: `answers a second, ${members} members at once for ${seconds} s each`,
      ours: round(done.ours / seconds, 1),
      reference: round(done.plain / seconds, 1),
      unit: 'a second',
      ratio: round(done.ours / done.plain),
      aim: '0.75 or more',
    };
    const latencies = (
      [
        ['plain', 'same statements'],
        ['trusting', 'without reading the roster row'],
      ] as const
    ).flatMap(([name, words]) =>
      (
        [
          [0.5, 'median'],
          [0.99, 'p99'],
        ] as const
      ).map(([share, word]) => {
        const [our, reference] = [quantile(times.ours, share), quantile(times[name], share)];
        return {
          name: `list against ${words}, ${word}`,
          ours: round(our),
          reference: round(reference),
          unit: 'ms',
          ratio: round(our / reference),
          aim: '1.10 or less',
        };
      }),
    );
    return [...latencies, throughput];
  });
}

/** How many requests of all of them are answered in the time. */
async function crowd(target: Target, cookies: string[], seconds: number): Promise<number> {
  const many = new Agent({ keepAlive: true, maxSockets: cookies.length });
  const until = performance.now() + seconds * 1000;
  let answered = 0;
  await Promise.all(
    cookies.map(async (cookie) => {
      while (performance.now() < until) {
        await request(target, cookie, many);
        if (performance.now() < until) answered++;
      }
    }),
  );
  many.destroy();
  return answered;
}

interface Target {
  port: number;
  path: string;
}

const agent = new Agent({ keepAlive: true, maxSockets: atOnce });

function request({ port, path }: Target, cookie: string, by = agent): Promise<string> {
  return new Promise((resolve, reject) => {
    get({ port, path, host: '127.0.0.1', agent: by, headers: { cookie } }, (response) => {
      let text = '';
      response
        .setEncoding('utf8')
        .on('data', (part: string) => (text += part))
        .on('end', () =>
          response.statusCode === 200 ? resolve(text) : reject(new Error(`${response.statusCode}: ${text}`)),
        );
    }).on('error', reject);
  });
}

async function body(target: Target, cookie: string): Promise<{ records: unknown[]; total: number }> {
  return JSON.parse(await request(target, cookie)) as { records: unknown[]; total: number };
}

async function load(target: Target, cookie: string): Promise<number[]> {
  const times: number[] = [];
  await Promise.all(
    Array.from({ length: atOnce }, async () => {
      for (let i = 0; i < perRound / atOnce; i++) {
        const began = performance.now();
        await request(target, cookie);
        times.push(performance.now() - began);
      }
    }),
  );
  return times;
}
