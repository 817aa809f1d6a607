import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { request, type IncomingMessage } from 'node:http';
import { text } from 'node:stream/consumers';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { tries } from '../test/thorough';
import { freePort, isProcess } from './local-mariadb';

/** One server of several processes: whichever answers, it is the same server. */
const folder = mkdtempSync(join(tmpdir(), 'stone-porch-workers-'));
const token = 'sixteen-letters-and-more';
const password = 'the porch has seven stones';
const headers = { 'content-type': 'application/json', 'x-stone-porch': 'test' };
let child: ChildProcess;
let port: number;
let said = '';
let cookie: string;

beforeAll(async () => {
  port = await freePort();
  child = spawn(
    process.execPath,
    ['start/start.mjs', '--empty', '--workers', '2', '--data', folder, '--port', String(port)],
    { env: { ...process.env, STONE_PORCH_LOG: 'silent', STONE_PORCH_METRICS: token } },
  );
  for (const stream of [child.stdout!, child.stderr!]) stream.on('data', (part: Buffer) => (said += part.toString()));
  while (!said.includes('Ctrl-C stops it.')) {
    if (child.exitCode !== null) throw new Error(said);
    await sleep(50);
  }
  const chosen = { token: /\/join#([\w-]+)/.exec(said)![1], password, email: 'first@example.org', name: 'The first' };
  expect((await ask('/api/builder/links/use', chosen)).status).toBe(200);
  const signedIn = await ask('/api/builder/sign-in', { email: 'first@example.org', password });
  expect(signedIn.status).toBe(200);
  cookie = signedIn.cookies[0]!.split(';')[0]!;
}, 240_000);

afterAll(async () => {
  const database = Number(readFileSync(join(folder, 'run', 'mariadbd.pid'), 'utf8'));
  child.kill('SIGTERM');
  while (child.exitCode === null && child.signalCode === null) await sleep(50);
  // Whoever stops it stops all of it.
  expect([child.exitCode, isProcess(database, folder), serving()]).toEqual([0, false, []]);
  rmSync(folder, { recursive: true, force: true });
});

/** Asks on a connection of its own, so that the processes answer by turns. */
async function ask(path: string, body?: object, more: Record<string, string> = {}) {
  const asked = request({
    host: '127.0.0.1',
    port,
    path,
    method: body ? 'POST' : 'GET',
    headers: { ...headers, ...more },
    agent: false,
  });
  asked.end(body && JSON.stringify(body));
  const [answer] = (await once(asked, 'response')) as [IncomingMessage];
  return { status: answer.statusCode!, cookies: answer.headers['set-cookie'] ?? [], text: await text(answer) };
}

/** The processes that serve, by their numbers. */
function serving(): number[] {
  const children = `/proc/${child.pid}/task/${child.pid}/children`;
  if (!existsSync(children)) return [];
  const numbersOf = readFileSync(children, 'utf8').split(' ').filter(Boolean).map(Number);
  return numbersOf.filter((pid) => isProcess(pid, 'worker-process'));
}

const processes = async () => (JSON.parse((await ask('/health/ready')).text) as { processes: object }).processes;

const metrics = async () => (await ask('/metrics', undefined, { authorization: `Bearer ${token}` })).text;

async function numbers(): Promise<Record<string, number>> {
  const lines = (await metrics()).matchAll(/^stone_porch_processes\{what="(\w+)"\} (\d+)$/gm);
  return Object.fromEntries([...lines].map(([, what, n]) => [what!, Number(n)]));
}

it('serves as one: each knows how many live, one leads, and what one did the others know', async () => {
  expect(serving()).toHaveLength(2);
  expect(await processes()).toEqual({ live: 2, wanted: 2 });
  expect(await numbers()).toEqual({ serves: 2, leads: 1 });
  const asked = await Promise.all(Array.from({ length: 24 }, () => ask('/api/builder/portals', undefined, { cookie })));
  expect(asked.map(({ status }) => status)).toEqual(asked.map(() => 200));
  // Wrong tries are counted together: after ten it is told to wait, whichever answers.
  const wrong: number[] = [];
  for (let i = 0; i < 12; i++)
    wrong.push((await ask('/api/builder/sign-in', { email: 'first@example.org', password: 'not this one' })).status);
  expect(wrong).toEqual([...Array.from({ length: 10 }, () => 401), 429, 429]);
  expect(await metrics()).toMatch(
    /^stone_porch_request_seconds_count\{method="POST",area="api\/builder",status="4xx"\} 12$/m,
  );
});

it('goes on when one of them is killed: the others answer, another is begun, and one leads', async () => {
  for (let turn = 0; turn < tries(2, 3); turn++) {
    const before = serving();
    const [victim] = before;
    const wrong: string[] = [];
    let answered = 0;
    let killed = false;
    const asking = (async () => {
      while (!killed || answered < 20) {
        // What is in hand at the process that dies breaks off, as it does when a machine dies.
        const answer = await ask('/api/builder/portals', undefined, { cookie }).catch(() => null);
        if (answer?.status === 200) answered++;
        else if (answer) wrong.push(`${answer.status} ${answer.text}`);
      }
    })();
    process.kill(victim!, 'SIGKILL');
    await expect.poll(() => isProcess(victim!, 'worker-process')).toBe(false);
    killed = true;
    await asking;
    expect(wrong).toEqual([]);
    await expect.poll(processes, { timeout: 60_000 }).toEqual({ live: 2, wanted: 2 });
    await expect.poll(numbers, { timeout: 60_000 }).toEqual({ serves: 2, leads: 1 });
    expect(serving()).not.toContain(victim);
    expect(said.match(/A process that serves has ended/g)).toHaveLength(turn + 1);
  }
}, 240_000);
