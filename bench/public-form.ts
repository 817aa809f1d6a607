import { Agent, request } from 'node:http';
import { createConnection } from 'mariadb';
import { loadDemo } from '../demo/load';
import { openStore } from '../server/store/store';
import { quantile, round, type Figure } from './figures';
import { withMariadb } from './local-databases';
import { withServers } from './put-together';

/**
 * In turns, so many are sent to each server, so many of them at the same time. Short rounds, so that what else the
 * machine does falls upon both; each is held against the one beside it.
 */
const rounds = 41;
const perRound = 300;
const atOnce = 8;
/** Then so many a second for so long; of every tenth the press comes twice. */
const aSecond = 200;
const seconds = 60;

interface Target {
  port: number;
  path: string;
  ticket: string;
}

/** A public form: how many can be sent, against a plain server with the same checks; and a minute of many. */
export async function publicForm(): Promise<Figure[]> {
  const schemas = ['alder_fen', 'stone_porch', 'plain_own', 'plain_records'];
  return withMariadb(schemas, async (address) => {
    const store = await openStore(address, 'stone_porch');
    await loadDemo(address, 'alder_fen', store, 'stone_porch');
    await store.close();
    const plain = await createConnection({ ...address, bigIntAsNumber: true });
    await prepare(plain);
    try {
      return await withServers(address, async (start) => {
        const { port: ours } = await start('./server-form-ours.ts');
        const { port: byHand } = await start('./server-form-plain.ts');
        const targets = [
          await opened(ours, '/api/portals/alder-fen/public/pages/ask/form/form'),
          await opened(byHand, '/form'),
        ] as const;
        const pairs: [number, number][] = [];
        for (let i = 0; i < rounds; i++) {
          const took: [number, number] = [0, 0];
          for (const at of i % 2 === 0 ? ([0, 1] as const) : ([1, 0] as const)) {
            const from = performance.now();
            await inLanes(perRound, (n) => post(targets[at], `r${i} ${at} ${n}`));
            took[at] = performance.now() - from;
          }
          // The first round warms them up.
          if (i > 0) pairs.push(took);
        }
        const sent = rounds * perRound;
        const half = (of: (pair: [number, number]) => number) => quantile(pairs.map(of), 0.5);
        const [own, other] = [half(([ours]) => perRound / ours), half(([, theirs]) => perRound / theirs)];
        const minute = await aMinute(targets[0]);
        const [{ kept, names }] = (await plain.query(
          'SELECT COUNT(*) kept, COUNT(DISTINCT name) names FROM alder_fen.test_requests ' +
            "WHERE email = 'bench@example.org'",
        )) as [{ kept: number; names: number }];
        const wanted = sent + minute.sent;
        return [
          figure(
            'sends a second, eight at the same time',
            own * 1000,
            other * 1000,
            '/s',
            half(([ours, theirs]) => theirs / ours),
            '0.7 or more',
          ),
          figure(
            'sends in a minute at 200 a second, kept',
            kept - sent,
            minute.sent,
            'sends',
            (kept - sent) / minute.sent,
            '1',
          ),
          figure('of all that was sent, kept twice', kept - names, 0, 'sends', kept - names, '0'),
          figure('of all that was sent, lost', wanted - names, 0, 'sends', wanted - names, '0'),
          figure(
            'p99 of an answer at 200 a second',
            minute.p99,
            1000 / aSecond,
            'ms',
            minute.p99 / (1000 / aSecond),
            'said',
          ),
        ];
      });
    } finally {
      await plain.end();
    }
  });
}

const figure = (name: string, ours: number, reference: number, unit: string, ratio: number, aim: string): Figure => ({
  name,
  ours: round(ours),
  reference: round(reference),
  unit,
  ratio: round(ratio),
  aim,
});

async function prepare(plain: Awaited<ReturnType<typeof createConnection>>): Promise<void> {
  await plain.query('CREATE TABLE plain_records.test_requests LIKE alder_fen.test_requests');
  await plain.query(
    'CREATE TABLE plain_own.presses (id BIGINT AUTO_INCREMENT PRIMARY KEY, hash CHAR(43) NOT NULL UNIQUE, ' +
      'answer LONGTEXT NULL)',
  );
  await plain.query(
    'CREATE TABLE plain_own.receipts (id BIGINT AUTO_INCREMENT PRIMARY KEY, token_hash CHAR(64) NOT NULL UNIQUE, ' +
      'until DATETIME(3) NOT NULL, correctable LONGTEXT NOT NULL, KEY (until))',
  );
}

async function opened(port: number, path: string): Promise<Target> {
  const answer = await fetch(`http://127.0.0.1:${port}${path}`);
  const { ticket } = (await answer.json()) as { ticket: string };
  return { port, path, ticket };
}

let addresses = 0;

function anotherAddress(): string {
  const n = (addresses = (addresses + 1) % 60_000);
  return `10.1.${n >> 8}.${n & 255}`;
}

const agent = new Agent({ keepAlive: true, maxSockets: 64 });

/** Sends the form as somebody called so; gives the status. */
function post({ port, path, ticket }: Target, name: string): Promise<number> {
  const text = JSON.stringify({
    values: { name, email: 'bench@example.org', phone: '', parish: 'Harrow End', message: 'Is it hard?' },
    press: `press-of-the-bench-${name}`,
    ticket,
    further: '',
  });
  const headers = {
    'content-type': 'application/json',
    'content-length': Buffer.byteLength(text),
    'x-stone-porch': 'bench',
    'x-forwarded-for': anotherAddress(),
  };
  return new Promise((resolve, reject) => {
    const asked = request({ port, host: '127.0.0.1', path, method: 'POST', agent, headers }, (answer) => {
      let said = '';
      answer.setEncoding('utf8').on('data', (text: string) => (said += text));
      answer.once('end', () => {
        if (answer.statusCode === 200 || answer.statusCode === 409) resolve(answer.statusCode);
        else reject(new Error(`${answer.statusCode} at ${path}: ${said}`));
      });
    });
    asked.once('error', reject).end(text);
  });
}

async function inLanes(count: number, work: (n: number) => Promise<unknown>): Promise<void> {
  let next = 0;
  const lane = async () => {
    while (next < count) await work(next++);
  };
  await Promise.all(Array.from({ length: atOnce }, lane));
}

/** So many a second whether or not those before are answered. */
async function aMinute(target: Target): Promise<{ sent: number; p99: number }> {
  const took: number[] = [];
  const all: Promise<void>[] = [];
  const began = performance.now();
  const total = aSecond * seconds;
  for (let n = 0; n < total;) {
    const due = Math.min(total, Math.floor(((performance.now() - began) / 1000) * aSecond));
    for (; n < due; n++) {
      const from = performance.now();
      const name = `m ${n}`;
      all.push(post(target, name).then(() => void took.push(performance.now() - from)));
      // Somebody pressed twice.
      if (n % 10 === 0) all.push(post(target, name).then(() => undefined));
    }
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
  await Promise.all(all);
  return { sent: total, p99: quantile(took, 0.99) };
}
