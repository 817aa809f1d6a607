import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { createServer } from 'node:net';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { afterAll, describe, expect, it } from 'vitest';
import { demoDefinition } from '../demo/definition';
import type { PortalDefinition } from '../core/definition/definition';
import { faultWords } from './fault.mjs';
import { freePort, isProcess } from './local-mariadb';

const folder = mkdtempSync(join(tmpdir(), 'stone-porch-start-'));
const data = join(folder, 'data');
const running = new Set<ChildProcess>();

afterAll(async () => {
  for (const child of running) child.kill('SIGTERM');
  for (let i = 0; i < 100 && [...running].some((child) => child.exitCode === null && child.signalCode === null); i++)
    await sleep(100);
  const pid = databasePid();
  if (isProcess(pid, data)) process.kill(pid, 'SIGKILL');
  rmSync(folder, { recursive: true, force: true });
});

interface Started {
  child: ChildProcess;
  said: () => string;
  /** Resolves when the words are said; fails when it ended before. */
  until: (words: string) => Promise<void>;
  ended: Promise<number | null>;
}

function start(args: string[]): Started {
  let text = '';
  const child = spawn(process.execPath, ['start/start.mjs', ...args], {
    env: { ...process.env, STONE_PORCH_LOG: 'warn' },
  });
  running.add(child);
  child.stdout!.on('data', (part: Buffer) => (text += part.toString()));
  child.stderr!.on('data', (part: Buffer) => (text += part.toString()));
  const ended = new Promise<number | null>((resolve) =>
    child.once('exit', (code) => {
      running.delete(child);
      resolve(code);
    }),
  );
  const began = Date.now();
  const until = async (words: string) => {
    while (!text.includes(words)) {
      if (child.exitCode !== null || child.signalCode !== null || Date.now() - began > 150_000)
        throw new Error(`it did not say "${words}" but:\n${text}`);
      await sleep(50);
    }
  };
  return { child, said: () => text, until, ended };
}

const databasePid = () =>
  existsSync(join(data, 'run', 'mariadbd.pid')) ? Number(readFileSync(join(data, 'run', 'mariadbd.pid'), 'utf8')) : 0;

describe('npm start', () => {
  it('loads the demo, serves it, stops all it started, and recovers from being killed', async () => {
    const port = await freePort();
    const args = ['--data', data, '--port', String(port)];
    const door = async () =>
      (await fetch(`http://127.0.0.1:${port}/api/portals/alder-fen/door`)).json() as Promise<{ name: string }>;

    const first = start(args);
    await first.until('Ctrl-C stops it.');
    expect(first.said()).toContain(`http://localhost:${port}/p/alder-fen`);
    expect(first.said()).toContain('ines.brannock@example.org');
    expect(await door()).toMatchObject({ name: 'Alder Fen Wells' });
    const page = await fetch(`http://127.0.0.1:${port}/p/alder-fen/my-wells`);
    expect([page.status, page.headers.get('content-security-policy')]).toEqual([
      200,
      expect.stringContaining("script-src 'self'"),
    ]);

    const twice = start(args);
    expect(await twice.ended).toBe(1);
    expect(twice.said()).toContain(`already runs on ${data}: http://127.0.0.1:${port}`);

    const database = databasePid();
    first.child.kill('SIGINT');
    expect(await first.ended).toBe(0);
    expect(isProcess(database, data)).toBe(false);
    expect(existsSync(join(data, 'running.json'))).toBe(false);

    const second = start(args);
    await second.until('Ctrl-C stops it.');
    expect(second.said()).not.toContain('Loading the demo');
    second.child.kill('SIGKILL');
    await second.ended;
    const orphan = databasePid();
    expect(isProcess(orphan, data)).toBe(true);

    const third = start(args);
    await third.until('Ctrl-C stops it.');
    expect(isProcess(orphan, data)).toBe(false);
    expect(await door()).toMatchObject({ name: 'Alder Fen Wells' });
    // Its own database may end: members are told to wait, and it is started again.
    process.kill(databasePid(), 'SIGKILL');
    await third.until('The database is back.');
    expect(await door()).toMatchObject({ name: 'Alder Fen Wells' });
    // The command line works beside a running one, and on its own.
    const portal = (...words: string[]) =>
      spawnSync(process.execPath, ['start/portal.mjs', ...words, '--data', data], {
        encoding: 'utf8',
      });
    const document = JSON.parse(portal('export', 'alder-fen').stdout) as PortalDefinition;
    const { signIn: byStart, ...loaded } = document;
    expect(byStart?.methods).toContain('single sign-on');
    // Its stand-ins listen where there was room.
    const [tracker, receiver] = loaded.addresses!.map(({ url }) => new URL(url).origin) as [string, string];
    expect(loaded).toEqual(JSON.parse(JSON.stringify(demoDefinition('alder_fen', true, { tracker, receiver }))));
    // What a pipeline asks of a definition before it is applied: by exit codes, and as JSON.
    const changed = structuredClone(document);
    changed.pages.find(({ id }) => id === 'my-wells')!.audience = { roles: ['desk'] };
    changed.access.visits!.sampler!.see!.where = 'every row';
    const next = join(folder, 'next.json');
    writeFileSync(next, JSON.stringify(changed));
    const differs = portal('diff', next, '--json');
    expect([portal('diff', 'alder-fen').status, differs.status]).toEqual([0, 1]);
    expect(JSON.parse(differs.stdout)).toMatchObject({
      parts: [{ id: 'visits sampler', of: ['see'] }, { id: 'my-wells' }],
    });
    expect([portal('test', next).status, portal('check', next).status]).toEqual([0, 1]);
    const report = portal('report', next);
    expect([report.status, report.stdout]).toEqual([0, expect.stringMatching(/page My wells: \d+ people get it/)]);
    expect(report.stdout).toMatch(/visits, sampler, \d+ (person|people) each: records \+\d+ -0/);
    expect([portal('check', 'nowhere').status, portal('diff', join(folder, 'data')).status]).toEqual([2, 2]);
    const file = join(folder, 'portal.json');
    writeFileSync(file, JSON.stringify({ ...document, roles: 'none' }));
    const refused = portal('apply', file);
    expect([refused.status, refused.stderr]).toEqual([1, `${file} was not applied:\n  /roles: isn't a list\n`]);
    document.portal.name = 'Renamed';
    writeFileSync(file, JSON.stringify(document));
    expect(portal('apply', file).stdout).toContain('Applied to the draft of alder-fen.');
    expect(portal('export', 'nowhere').stderr).toContain('There is no portal nowhere. There are: alder-fen.');
    third.child.kill('SIGTERM');
    expect(await third.ended).toBe(0);
    expect((JSON.parse(portal('export', 'alder-fen').stdout) as PortalDefinition).portal.name).toBe('Renamed');
    expect(isProcess(databasePid(), data)).toBe(false);
  }, 400_000);

  it('starts empty with one builder', async () => {
    const port = await freePort();
    const empty = start(['--empty', '--data', join(folder, 'empty'), '--port', String(port)]);
    await empty.until('Ctrl-C stops it.');
    const [, token] = /\/join#([\w-]+)/.exec(empty.said())!;
    const post = (path: string, body: object) =>
      fetch(`http://127.0.0.1:${port}/api/builder${path}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', 'x-stone-porch': 'test' },
        body: JSON.stringify(body),
      });
    const password = 'the porch has seven stones';
    const chosen = { token, password, email: 'first@example.org', name: 'The first' };
    expect((await post('/links/use', chosen)).status).toBe(200);
    expect((await post('/links/use', chosen)).status).toBe(404);
    expect((await post('/sign-in', { email: 'first@example.org', password })).status).toBe(200);
    empty.child.kill('SIGINT');
    expect(await empty.ended).toBe(0);
    // A password that is lost is set anew on the machine itself.
    const set = spawnSync(
      process.execPath,
      ['start/portal.mjs', 'builder', 'password', 'first@example.org', '--data', join(folder, 'empty')],
      { encoding: 'utf8' },
    );
    const anew = /is now (\S+) /.exec(set.stdout)![1]!;
    expect(anew).not.toBe(password);
    const again = start(['--empty', '--data', join(folder, 'empty'), '--port', String(port)]);
    await again.until('Ctrl-C stops it.');
    expect(again.said()).not.toContain('/join#');
    const signIn = (word: string) => post('/sign-in', { email: 'first@example.org', password: word });
    expect([(await signIn(password)).status, (await signIn(anew)).status]).toEqual([401, 200]);
    again.child.kill('SIGTERM');
    expect(await again.ended).toBe(0);
  }, 240_000);

  it('makes nothing before the port is had', async () => {
    const taken = createServer();
    await new Promise<void>((resolve) => {
      taken.listen(0, '127.0.0.1', resolve);
    });
    const { port } = taken.address() as { port: number };
    const tried = start(['--empty', '--data', join(folder, 'never'), '--port', String(port)]);
    expect(await tried.ended).toBe(1);
    taken.close();
    expect(existsSync(join(folder, 'never', 'db'))).toBe(false);
  }, 120_000);

  it('prints no values of an error that it did not foresee', () => {
    const parent = Object.assign(
      new Error(
        "(conn:3, no: 1062) Duplicate entry 'builder@example.org'\nsql: INSERT INTO builders VALUES (?,?) - " +
          "parameters:['builder@example.org','$argon2id$v=19$secret']",
      ),
      { errno: 1062, code: 'ER_DUP_ENTRY', sql: "INSERT … 'builder@example.org'" },
    );
    const words = faultWords(
      Object.assign(new Error(parent.message), {
        name: 'SequelizeUniqueConstraintError',
        parent,
        parameters: ['$argon2id$v=19$secret'],
      }),
    );
    expect(words).toMatch(/SequelizeUniqueConstraintError.*ER_DUP_ENTRY/);
    expect(words).not.toMatch(/example\.org|argon2|INSERT|Duplicate/);
    expect(faultWords(Object.assign(new Error('write'), { code: 'ENOSPC' }))).toMatch(/^There is no room left/);
    expect(faultWords(Object.assign(new Error('x'), { parent: { errno: 1114 } }))).toMatch(/^There is no room left/);
    // Nothing else prints an error whole.
    const printed = [
      'start/start.mjs',
      'start/test.mjs',
      'start/run.ts',
      'start/portal.mjs',
      'start/portal.ts',
      'start/install.mjs',
      'start/install-programs.mjs',
      'server/server.ts',
      'server/worker.ts',
      'server/jobs/run-job.ts',
    ].filter((file) => /console\.\w+\((?:error|e|fault)\)|throw error;\n\}\n*$/.test(readFileSync(file, 'utf8')));
    expect(printed).toEqual([]);
  });

  it.each([
    [
      'a taken port',
      async () => {
        const taken = createServer();
        await new Promise<void>((resolve) => {
          taken.listen(0, '127.0.0.1', resolve);
        });
        const { port } = taken.address() as { port: number };
        return {
          args: ['--port', String(port), '--data', join(folder, 'empty')],
          words: `Port ${port} is taken by another program. Choose another: npm start -- --port`,
          done: () => taken.close(),
        };
      },
    ],
    [
      'a data folder that is a file',
      async () => {
        writeFileSync(join(folder, 'file'), '');
        return {
          args: ['--data', join(folder, 'file')],
          words: 'is a file. Give the data a folder',
          done: () => undefined,
        };
      },
    ],
    [
      'a folder of something else',
      async () => {
        mkdirSync(join(folder, 'other'));
        writeFileSync(join(folder, 'other', 'thesis.txt'), 'mine');
        return {
          args: ['--data', join(folder, 'other')],
          words: "holds something else than Stone Porch's data",
          done: () => undefined,
        };
      },
    ],
    [
      'a broken database folder',
      async () => {
        const broken = join(folder, 'broken');
        mkdirSync(join(broken, 'db'), { recursive: true });
        writeFileSync(join(broken, 'stone-porch-data.json'), '{}');
        writeFileSync(join(broken, 'db', 'ibdata1'), 'not a database');
        return {
          args: ['--data', broken, '--port', '0'],
          words:
            `If the folder is broken, move it away and start again, which makes a new one:\n  mv ${broken} ` +
            `${broken}.broken`,
          done: () => undefined,
        };
      },
    ],
    [
      'a port that is none',
      async () => ({
        args: ['--port', 'many'],
        words: '--port must be a number from 0 to 65535, not "many"',
        done: () => undefined,
      }),
    ],
    [
      'an option that is none',
      async () => ({ args: ['--prot', '1'], words: "Unknown option '--prot'", done: () => undefined }),
    ],
  ])(
    'says what to do about %s',
    async (_name, arrange) => {
      const { args, words, done } = await arrange();
      const tried = start(args);
      expect(await tried.ended).toBe(1);
      done();
      expect(tried.said()).toContain(words);
      expect(tried.said()).not.toMatch(/\n\s+at /);
    },
    120_000,
  );
});
