import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { raw } from '../../core/sql/sql';
import { dayIn } from '../../core/access/person';
import type { PortalDefinition } from '../../core/definition/definition';
import { demoPassword } from '../../demo/load';
import { openDoor, type Door } from '../../standins/receiver/door';
import { demoServer, type Client } from '../../test/server';
import { when } from '../../test/wells';
import { ImportMapping, Version } from '../store/models';
import { TimedRun } from '../store/timed-models';
import { timedTurn } from './do-timed';

/** What is done each day at a time, at moments of the test's own; what is in the tables then is read with plain SQL. */

let demo: Awaited<ReturnType<typeof demoServer>>;
let office: Door;
let builder: Client;
let file = '';
const bench = '/builder/portals/alder-fen';

beforeAll(async () => {
  office = await openDoor({
    title: 'Limits',
    answer: () => ({ status: 204 }),
    pages: { '/limits.csv': () => ({ type: 'text/csv', text: file }) },
  });
  demo = await demoServer(inject('database'), 'timed', 'timed_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
});

afterAll(async () => {
  await demo?.server.close();
  await office?.close();
});

const plain = async (sql: string) =>
  (await demo.server.services.sources.get('timed').rows(raw(sql))).map(([one]) => one);

async function publishWith(change: (definition: PortalDefinition) => void): Promise<void> {
  const definition = (await builder.get(`${bench}/definition`)).body as PortalDefinition;
  change(definition);
  expect((await builder.send('PUT', `${bench}/definition`, definition)).status).toBe(200);
  const { revision } = (await builder.get(bench)).body as { revision: number };
  expect((await builder.post(`${bench}/versions`, { revision, note: '' })).status).toBeLessThan(300);
}

/** A day from now, at a time in the zone of the demo. */
function onDay(days: number, time: string): Date {
  const [hour, minute] = time.split(':').map(Number) as [number, number];
  // The day there, which for an hour or two is not the day of UTC.
  const today = dayIn(new Date(), 'Europe/Berlin');
  const day = new Date(Date.parse(`${today}T12:00:00Z`) + days * 24 * 3_600_000);
  for (const offset of [0, -1, -2, 1]) {
    const moment = new Date(Date.UTC(day.getUTCFullYear(), day.getUTCMonth(), day.getUTCDate(), hour + offset, minute));
    const told = new Intl.DateTimeFormat('en-GB', { timeZone: 'Europe/Berlin', timeStyle: 'short' }).format(moment);
    if (told === time) return moment;
  }
  throw new Error('no such time');
}

const runs = async (kind: string, subject: string) =>
  (await builder.get(`${bench}/timed-runs/${kind}/${subject}`)).body.runs as Record<string, unknown>[];

const seen = 'id code state depth_m';

it('an action is done once a day from its time on, by one server, and goes on where it was left', async () => {
  await publishWith((definition) => {
    definition.portal.timeZone = 'Europe/Berlin';
    definition.roles.push({ id: 'clock', name: 'Clock', for: 'services' });
    definition.access.wells!.clock = { see: { where: 'every row', columns: seen.split(' ') } };
    definition.actions!.push({
      id: 'nightly',
      name: 'Nightly',
      table: 'wells',
      roles: ['clock'],
      on: { what: 'time', at: '06:00' },
      where: when("state = 'active'"),
      asks: [],
      steps: [{ kind: 'set', values: { depth_m: { kind: 'number', digits: '999.5' } } }],
    });
  });
  // At noon, whatever the time is now.
  await Version.update({ publishedAt: onDay(0, '12:00') }, { where: {} });
  const [active] = await plain("SELECT COUNT(*) FROM wells WHERE state = 'active'");
  expect(Number(active)).toBeGreaterThan(100);
  const after = () => plain('SELECT COUNT(*) FROM wells WHERE depth_m = 999.5').then(([count]) => Number(count));
  const [one, other] = [timedTurn(demo.server.services), timedTurn(demo.server.services)];
  // What was published after its time of today waits for tomorrow.
  await one(onDay(0, '23:59'));
  await one(onDay(1, '05:59'));
  expect(await after()).toBe(0);
  const now = onDay(1, '06:00');
  // The first server is stopped after a piece of it.
  await one(now, stopsAfter(3));
  await TimedRun.update({ beatAt: now }, { where: { subject: 'nightly' } });
  const first = await after();
  expect(first).toBeGreaterThan(0);
  expect(first).toBeLessThan(Number(active));
  await demo.server.services.sources
    .get('timed')
    .transaction((runner) => runner.write(raw('UPDATE wells SET depth_m = NULL WHERE depth_m = 999.5')));
  await other(now);
  expect(await after()).toBe(0);
  // Whoever had it has said nothing for long: another goes on, behind what is done.
  await TimedRun.update({ beatAt: new Date(0) }, { where: { subject: 'nightly' } });
  await Promise.all([one(now), other(now)]);
  expect(await after()).toBe(Number(active) - first);
  expect(await runs('action', 'nightly')).toMatchObject([{ state: 'done', done: Number(active), refused: 0 }]);
  await Promise.all([one(onDay(1, '23:59')), other(onDay(2, '05:59'))]);
  expect(await runs('action', 'nightly')).toHaveLength(1);
  await one(onDay(2, '23:00'));
  expect(await after()).toBe(Number(active));
});

/** A server that is told to stop after so many looks whether it was. */
function stopsAfter(looks: number): () => boolean {
  let left = looks;
  return () => left-- <= 0;
}

it('what is brought goes into its table by the mapping of the last time, as its service', async () => {
  await publishWith((definition) => {
    definition.addresses!.push({ id: 'office', name: 'Office', url: `${office.address}/limits.csv` });
    definition.roles.push({ id: 'limits', name: 'Limits', for: 'services' });
    const columns = ['code', 'name', 'unit', 'limit_value'];
    definition.access.analytes!.limits = {
      see: { where: when("code <> 'U'"), columns },
      edit: { where: 'as seen', columns: ['limit_value'] },
    };
    definition.brought = [
      {
        id: 'limits',
        name: 'Limits',
        address: 'office',
        table: 'analytes',
        at: '02:30',
        role: 'limits',
        refused: 'hold',
      },
    ];
  });
  await ImportMapping.destroy({ where: { tableName: 'analytes' } });
  file = 'Code,Limit\nNO3,40\nPB,5\n';
  const turn = timedTurn(demo.server.services);
  const bring = async (day: number) => {
    await turn(onDay(day, '02:30'));
    await expect.poll(async () => (await runs('brought', 'limits'))[0]?.state, { timeout: 30_000 }).not.toBe('running');
    return (await runs('brought', 'limits'))[0];
  };
  const limit = (code: string) =>
    plain(`SELECT limit_value + 0 FROM analytes WHERE code = '${code}'`).then(([one]) => Number(one));
  expect(await bring(1)).toMatchObject({ state: 'held', problem: expect.stringContaining('once by hand') });

  // By hand: fetched at once, its columns told, and brought by the builder.
  const read = await builder.ended(`${bench}/jobs`, `${bench}/brought/limits/fetch`);
  const plan = {
    table: 'analytes',
    columns: [
      { header: 'Code', column: 'code' },
      { header: 'Limit', column: 'limit_value' },
    ],
    key: 'code',
    unknown: 'refuse',
    known: 'change',
    empty: 'keep',
  };
  const of = { file: read.result.file as string, plan };
  const looked = await builder.ended(`${bench}/jobs`, `${bench}/jobs`, { kind: 'look at an import', ...of });
  const { digest } = looked.result.outcome as { digest: string };
  const mode = 'all or nothing';
  const done = await builder.ended(`${bench}/jobs`, `${bench}/jobs`, { kind: 'import', ...of, mode, digest });
  expect([done.state, await limit('NO3')]).toEqual(['done', 40]);

  file = 'Code,Limit\nNO3,38.5\nPB,5\n';
  expect(await bring(2)).toMatchObject({ state: 'done', refused: 0, brought: { added: 0, changed: 1, same: 1 } });
  expect(await limit('NO3')).toBe(38.5);
  // What its service may not change is refused, and then nothing is taken.
  file = 'Code,Limit\nNO3,39\nU,1\nAS,high\n';
  const held = await bring(3);
  expect(held).toMatchObject({ state: 'held', refused: 2, brought: { changed: 1 } });
  const refused = await builder.get(`${bench}/files/${(held!.brought as { refusedFile: string }).refusedFile}`);
  expect(refused.body).toContain('U,1,');
  expect([await limit('NO3'), await limit('U')]).toEqual([38.5, 30]);
  await publishWith((definition) => {
    definition.brought![0]!.refused = 'leave out';
  });
  expect(await bring(4)).toMatchObject({ state: 'done', refused: 2, brought: { changed: 1 } });
  expect([await limit('NO3'), await limit('U'), await limit('AS')]).toEqual([39, 30, 10]);

  // What can't be fetched is tried again, and told meanwhile.
  await publishWith((definition) => {
    definition.addresses!.find(({ id }) => id === 'office')!.url = `${office.address}/nothing.csv`;
  });
  expect((await builder.post(`${bench}/brought/limits/fetch`)).body.detail).toMatch(/^Office: It answered 404/);
  await turn(onDay(5, '02:30'));
  await expect
    .poll(async () => (await runs('brought', 'limits'))[0], { timeout: 30_000 })
    .toMatchObject({ state: 'running', problem: expect.stringContaining('It answered 404') });
  await publishWith((definition) => {
    definition.addresses!.find(({ id }) => id === 'office')!.url = `${office.address}/limits.csv`;
  });
  file = 'Code,Limit\nNO3,50\n';
  await TimedRun.update({ beatAt: new Date(0) }, { where: { kind: 'brought', state: 'running' } });
  await turn(onDay(5, '03:00'));
  await expect.poll(() => limit('NO3'), { timeout: 30_000 }).toBe(50);
  await expect.poll(async () => (await runs('brought', 'limits'))[0]!.state, { timeout: 30_000 }).toBe('done');
});
