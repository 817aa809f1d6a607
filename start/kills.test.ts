import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { afterAll, describe, expect, it } from 'vitest';
import { demoPassword } from '../demo/load';
import { Client } from '../test/server';
import { tries } from '../test/thorough';
import { freePort, isProcess } from './local-mariadb';

/**
 * Server and database are killed in turn while people write and press. What was acknowledged is there; what was said
 * not to have happened isn't; what must be kept together is; what is kept is told outside, and nothing else is.
 * `STONE_PORCH_KILLS` tells how often; each costs some seconds, so that the tests of every day do few.
 */
const kills = Number(process.env.STONE_PORCH_KILLS ?? tries(4, 35));
/** So many actions are pressed between two kills. */
const mostPresses = 12;
const folder = mkdtempSync(join(tmpdir(), 'stone-porch-kills-'));
const data = join(folder, 'data');
let child: ChildProcess | null = null;
const databasePid = () =>
  existsSync(join(data, 'run', 'mariadbd.pid')) ? Number(readFileSync(join(data, 'run', 'mariadbd.pid'), 'utf8')) : 0;

afterAll(async () => {
  child?.kill('SIGTERM');
  for (let i = 0; i < 100 && child && child.exitCode === null && child.signalCode === null; i++) await sleep(100);
  const pid = databasePid();
  if (isProcess(pid, data)) process.kill(pid, 'SIGKILL');
  rmSync(folder, { recursive: true, force: true });
});

async function start(port: number): Promise<void> {
  let said = '';
  const started = spawn(process.execPath, ['start/start.mjs', '--data', data, '--port', String(port)], {
    env: { ...process.env, STONE_PORCH_LOG: 'silent' },
  });
  child = started;
  for (const stream of [started.stdout, started.stderr]) stream.on('data', (part: Buffer) => (said += part.toString()));
  while (!said.includes('Ctrl-C stops it.')) {
    if (started.exitCode !== null) throw new Error(said);
    await sleep(50);
  }
}

/** What somebody writes again and again, each time another text; and what they were told of it. */
class Writer {
  private number = 0;
  /** The text that was acknowledged last, and those sent since of which nothing is known. */
  acknowledged: string | null = null;
  open: string[] = [];
  /** Texts that were said not to have been kept. */
  readonly denied: string[] = [];
  written = 0;

  constructor(
    readonly name: string,
    private readonly send: (
      before: string | null,
      text: string,
    ) => Promise<{ status: number; body: { type?: string } | null }>,
  ) {}

  /** Writes until it is stopped, or until something is not as usual. */
  async run(stopped: () => boolean): Promise<void> {
    while (!stopped()) {
      const text = `${this.name} ${++this.number}`;
      this.open.push(text);
      let answer: Awaited<ReturnType<typeof this.send>>;
      try {
        answer = await this.send(this.acknowledged, text);
      } catch {
        // The connection broke: nobody was told anything.
        return;
      }
      if (answer.status < 300) {
        this.acknowledged = text;
        this.open = [];
        this.written++;
      } else {
        if (answer.body?.type !== 'urn:stone-porch:problem:outcome-unknown') {
          this.denied.push(text);
          this.open.pop();
        }
        return;
      }
    }
  }

  /** What stands there now, after everything is up again. */
  found(text: string | null): void {
    expect([this.name, text]).toEqual([
      this.name,
      [this.acknowledged, ...this.open].includes(text)
        ? text
        : `${this.acknowledged}, or one of ${this.open.join(', ')}`,
    ]);
    expect(this.denied).not.toContain(text);
    this.acknowledged = text;
    this.open = [];
  }
}

/** Presses an action that calls outside, with one record after another; and what they were told of it. */
class Presser {
  readonly done: string[] = [];
  readonly denied: string[] = [];
  private next = 0;

  constructor(
    private readonly ids: readonly string[],
    private readonly press: (id: string, mark: string) => Promise<{ status: number; body: { type?: string } | null }>,
  ) {}

  /** How many were begun. */
  get tried(): number {
    return this.next;
  }

  async run(stopped: () => boolean, most: number): Promise<void> {
    for (let i = 0; i < most && !stopped() && this.next < this.ids.length; i++) {
      const id = this.ids[this.next++]!;
      let answer: Awaited<ReturnType<typeof this.press>>;
      try {
        answer = await this.press(id, `press of record number ${id}`);
      } catch {
        // The connection broke: nobody was told anything.
        return;
      }
      if (answer.status === 200) this.done.push(id);
      else {
        if (answer.body?.type !== 'urn:stone-porch:problem:outcome-unknown') this.denied.push(id);
        return;
      }
    }
  }
}

/** What stands at the end: what was handed over was told outside, once for each and under one id, and nothing else. */
async function toldOnce(builder: Client, courier: Client, presser: Presser): Promise<void> {
  const bench = '/builder/portals/alder-fen';
  const left = async () => {
    const { counts } = (await builder.get(`${bench}/calls`)).body as { counts: Record<string, number> };
    return (counts.held ?? 0) + (counts.waiting ?? 0) + (counts.sending ?? 0);
  };
  await expect.poll(left, { timeout: 240_000, interval: 500 }).toBe(0);
  const told: string[] = [];
  for (let before: number | null = 0; before !== null;) {
    const { body } = await builder.get(`${bench}/calls${before ? `?before=${before}` : ''}`);
    told.push(...(body.calls as { record: string; state: string }[]).map(({ record, state }) => `${record} ${state}`));
    before = body.before as number | null;
  }
  const filter = encodeURIComponent('temperature_c = 9.9');
  const { body } = await courier.get(
    `/portals/alder-fen/records/samples?columns=tracking_number&size=200&filter=${filter}`,
  );
  const handed = body.records as { id: string; values: { tracking_number: string | null } }[];
  expect(told.toSorted()).toEqual(handed.map(({ id }) => `${id} done`).toSorted());
  expect(handed.filter(({ values }) => values.tracking_number === null)).toEqual([]);
  const ids = new Set(handed.map(({ id }) => id));
  expect(presser.done.filter((id) => !ids.has(id))).toEqual([]);
  expect(presser.denied.filter((id) => ids.has(id))).toEqual([]);
  // At each kill one was under way; how many are done before it is the machine's own matter.
  expect(presser.tried).toBeGreaterThanOrEqual(kills);
  expect(presser.done.length).toBeGreaterThan(0);
}

describe('a server and a database that are killed under writes', () => {
  it(
    'lose nothing that was acknowledged, keep nothing by halves, and say no word that is untrue',
    async () => {
      const port = await freePort();
      await start(port);
      const at = '/portals/alder-fen';
      const member = new Client(`http://127.0.0.1:${port}`);
      expect(
        (await member.post(`${at}/sign-in`, { email: 'odile.fennimore@example.org', password: demoPassword })).status,
      ).toBe(200);
      const noteOf = async (id: number) =>
        (await member.get(`${at}/records/visits/${id}?columns=access_note`)).body.record.values.access_note as
          | string
          | null;
      const change = (id: number, from: string | null, to: string) => ({
        edit: String(id),
        changes: { access_note: { from, to } },
      });
      const single = [1, 2, 3, 4].map((id) => ({
        id,
        writer: new Writer(`visit ${id}`, (before, text) =>
          member.send('PATCH', `${at}/records/visits/${id}`, { changes: change(id, before, text).changes }),
        ),
      }));
      const pairs = [
        [11, 12],
        [13, 14],
      ].map((ids) => ({
        ids,
        writer: new Writer(`visits ${ids.join(' and ')}`, (before, text) =>
          member.post(`${at}/records/visits/several`, {
            mode: 'all or nothing',
            writes: ids.map((id) => change(id, before, text)),
          }),
        ),
      }));
      const made: string[] = [];
      const maker = new Writer('advisory', async (_before, text) => {
        const answer = await member.post(`${at}/records/advisories`, {
          values: { parish: 'Saltby', title: text, text, published: false },
        });
        if (answer.status < 300) made.push(text);
        return answer;
      });
      for (const { id, writer } of single) writer.acknowledged = await noteOf(id);
      for (const { ids, writer } of pairs) {
        for (const id of ids)
          await member.send('PATCH', `${at}/records/visits/${id}`, {
            changes: { access_note: { from: await noteOf(id), to: 'begin' } },
          });
        writer.acknowledged = 'begin';
      }
      const [builder, courier] = [new Client(`http://127.0.0.1:${port}`), new Client(`http://127.0.0.1:${port}`)];
      await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
      const email = 'nell.quillfeather707@example.org';
      expect((await courier.post(`${at}/sign-in`, { email, password: demoPassword })).status).toBe(200);
      const { body: bottles } = await courier.get(
        `${at}/records/samples?size=200&filter=${encodeURIComponent('handed_over_at IS NULL')}`,
      );
      const presser = new Presser(
        (bottles.records as { id: string }[]).map(({ id }) => id),
        (id, press) =>
          courier.post(`${at}/records/samples/${id}/actions/hand-over-bottle`, {
            asked: { temperature_c: '9.9' },
            press,
          }),
      );
      const writers = [...single.map(({ writer }) => writer), ...pairs.map(({ writer }) => writer), maker];

      for (let kill = 0; kill < kills; kill++) {
        const written = writers.reduce((sum, writer) => sum + writer.written, 0);
        let stop = false;
        let over = false;
        const pressing = presser.run(() => stop, mostPresses);
        const all = Promise.all([...writers.map((writer) => writer.run(() => stop)), pressing]).then(
          () => (over = true),
        );
        // Somewhere in the middle of what they write: after some more of it than the last time.
        while (writers.reduce((sum, writer) => sum + writer.written, 0) < written + 20 + 7 * (kill % 5)) {
          if (over) throw new Error(`before kill ${kill} every writer was refused something`);
          await sleep(1);
        }
        // Whoever is not refused anything, since the database was back in time, is told to stop.
        if (kill % 2 === 0) {
          child!.kill('SIGKILL');
          stop = true;
          await all;
          await start(port);
        } else {
          process.kill(databasePid(), 'SIGKILL');
          stop = true;
          await all;
          while ((await member.get(`${at}/me`).catch(() => ({ status: 0 }))).status !== 200) {
            if (child!.exitCode !== null) throw new Error('the server gave its database up');
            await sleep(50);
          }
        }
        for (const { id, writer } of single) writer.found(await noteOf(id));
        for (const { ids, writer } of pairs) {
          const notes = await Promise.all(ids.map(noteOf));
          expect(notes[0]).toBe(notes[1]);
          writer.found(notes[0]!);
        }
        const { records } = (
          await member.get(
            `${at}/records/advisories?columns=title&size=200&sort=-id&filter=` +
              encodeURIComponent("title LIKE 'advisory %'"),
          )
        ).body as { records: { values: { title: string } }[] };
        const there = records.map((record) => record.values.title);
        expect(made.slice(-150).filter((title) => !there.includes(title))).toEqual([]);
        expect(maker.denied.filter((title) => there.includes(title))).toEqual([]);
      }
      await toldOnce(builder, courier, presser);
      expect(writers.reduce((sum, writer) => sum + writer.written, 0)).toBeGreaterThan(20 * kills);
    },
    // Generous: a busy machine is slow, not wrong.
    120_000 + kills * 60_000,
  );
});
