import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { root } from '../start/install.mjs';
import { endOf } from '../start/end-of';
import { freePort } from '../start/local-mariadb';
import { askerOf, once, ran, type Asker } from './demands';
import { round, type Figure } from './figures';
import { grownSamplers, withGrownDemo } from './grown-demo';

const members = 48;
const turns = 6;
const turnSeconds = 8;
const kind = 'a list of 50 of 400 own records';

/**
 * Two processes of `npm start -- --workers N` against one: answers a second, and what their own time allows, the share
 * of database and client taken out, which have the same two cores.
 */
export function workers(): Promise<Figure[]> {
  return withGrownDemo(async (address) => {
    const cookies = await grownSamplers(address, members);
    const folder = mkdtempSync(join(tmpdir(), 'stone-porch-bench-'));
    const servers: Served[] = [];
    try {
      for (const count of [1, 2]) servers.push(await served(address, count, join(folder, `${count}`)));
      const askers: Asker[] = [];
      for (const cookie of cookies) askers.push(await askerOf(servers[0]!.port, cookie));
      const sums = servers.map(() => ({ answers: 0, seconds: 0 }));
      for (let turn = 0; turn <= turns; turn++)
        for (const [i, server] of [...servers.entries()].toSorted(([a], [b]) => (turn % 2 ? b - a : a - b))) {
          const before = timeOf(server);
          const answers = await crowd(server.port, askers, turn === 0 ? 4 : turnSeconds);
          if (turn === 0) continue; // the first turn warms up
          sums[i]!.answers += answers;
          sums[i]!.seconds += timeOf(server) - before;
        }
      const [one, two] = sums as [(typeof sums)[0], (typeof sums)[0]];
      const rate = ({ answers }: typeof one) => answers / (turns * turnSeconds);
      // So many a second with a whole core for each.
      const [alone, both] = [one.answers / one.seconds, (2 * two.answers) / two.seconds];
      return [
        {
          name: 'lists a second by two processes against one, on two cores that database and client share',
          ours: round(rate(two), 1),
          reference: round(rate(one), 1),
          unit: 'a second',
          ratio: round(rate(two) / rate(one)),
          aim: 'said',
        },
        {
          name: 'the same, the share of database and client taken out: by the time that the processes take',
          ours: round(both, 1),
          reference: round(alone, 1),
          unit: 'a second',
          ratio: round(both / alone),
          aim: '1.7 or more',
        },
      ];
    } finally {
      await Promise.all(servers.map(({ process }) => endOf(process)));
      rmSync(folder, { recursive: true, force: true });
    }
  });
}

interface Served {
  port: number;
  process: ChildProcess;
}

async function served(address: DatabaseAddress, count: number, data: string): Promise<Served> {
  const port = await freePort();
  const child = spawn(
    process.execPath,
    [join(root, 'start', 'start.mjs'), '--workers', `${count}`, '--port', `${port}`, '--data', data],
    {
      env: {
        ...process.env,
        STONE_PORCH_DATABASE:
          `mariadb://${address.user}:${encodeURIComponent(address.password)}@${address.host}:${address.port}/` +
          'stone_porch',
        STONE_PORCH_PRIVATE_DATABASES: '1',
        STONE_PORCH_LOG: 'error',
      },
      stdio: ['ignore', 'pipe', 'pipe'],
    },
  );
  let said = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (part: Buffer) => (said += part.toString()));
  while (!said.includes('Ctrl-C stops it.')) {
    if (child.exitCode !== null) throw new Error(said);
    await sleep(50);
  }
  return { port, process: child };
}

/** How many lists are answered in so many seconds, each member asking again as soon as they have theirs. */
async function crowd(port: number, askers: readonly Asker[], seconds: number): Promise<number> {
  const until = performance.now() + seconds * 1000;
  let answered = 0;
  await Promise.all(
    askers.map(async (asker) => {
      while (performance.now() < until) {
        await once(port, asker, kind, 0);
        if (performance.now() < until) answered++;
      }
    }),
  );
  return answered;
}

/** Seconds for which a server's processes have run, all of them. */
function timeOf({ process }: Served): number {
  return [process.pid!, ...childrenOf(process.pid!)].reduce((sum, pid) => sum + ran(pid), 0);
}

function childrenOf(pid: number): number[] {
  return readdirSync('/proc')
    .map(Number)
    .filter((each) => {
      if (!each) return false;
      try {
        return Number(/\) \S (\d+)/.exec(readFileSync(`/proc/${each}/stat`, 'utf8'))?.[1]) === pid;
      } catch {
        // It has ended since.
        return false;
      }
    });
}
