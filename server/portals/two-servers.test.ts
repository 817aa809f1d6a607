import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { demoPassword } from '../../demo/load';
import { Client, demoServer } from '../../test/server';
import { freshSchema } from '../../test/tables';
import { tries } from '../../test/thorough';
import { startServer, type RunningServer } from '../server';
import type { Connection } from 'mariadb';
import { QueryTypes } from 'sequelize';
import { raw } from '../../core/sql/sql';

/**
 * Two servers at one database: what limits rights holds at both, and in the threads of their jobs, from the next
 * request on.
 */
let one: Awaited<ReturnType<typeof demoServer>>;
let two: RunningServer;
let plain: Connection;
let here: Client;
let there: Client;
let desk: Client;
const bench = '/builder/portals/alder-fen';
const rounds = tries(6, 20);
const open = { where: '', create: true, edit: true, delete: true, export: true, columns: {} as Record<string, string> };

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'twin');
  await (await freshSchema(inject('database'), 'twin_own')).end();
  one = await demoServer(inject('database'), 'twin', 'twin_own');
  two = await startServer({ database: inject('database'), ownSchema: 'twin_own', port: 0, webFolder: null });
  here = one.client();
  [there, desk] = [new Client(`http://127.0.0.1:${two.port}`), new Client(`http://127.0.0.1:${two.port}`)];
  for (const builder of [here, there])
    await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  const [member] = await plain.query<{ email: string }[]>(
    "SELECT email FROM twin.staff WHERE duty = 'desk' ORDER BY id LIMIT 1",
  );
  await desk.post('/portals/alder-fen/sign-in', { email: member!.email, password: demoPassword });
});
afterAll(async () => {
  await two?.close();
  await one?.server.close();
  await plain?.end();
});

const ceiling = async (change: Partial<typeof open>) =>
  expect((await here.send('PUT', `${bench}/ceilings/owners`, { ...open, ...change })).status).toBe(200);
const owners = async () =>
  (await desk.get('/portals/alder-fen/records/owners?columns=name,phone')).body.records[0].values as Record<
    string,
    unknown
  >;
const exported = async () => {
  const { body: job } = await there.send('POST', `${bench}/all/exports/owners`, {
    format: 'xlsx',
    columns: 'name,phone',
  });
  for (;;) {
    const { body } = await there.get(`${bench}/jobs/${job.id}`);
    if (!['waiting', 'running', 'saving'].includes(body.state))
      return body as { state: string; result: { size: number; file: string } };
  }
};

it('asks a cluster for all that was decided before, for rights and for records', async () => {
  const { store, sources } = two.services;
  const [own] = await store.sequelize.query('SELECT @@wsrep_sync_wait waits', { type: QueryTypes.SELECT });
  expect([own, await sources.get('twin').rows(raw('SELECT @@wsrep_sync_wait'))]).toEqual([{ waits: 1 }, [[1n]]]);
});

describe('a right that is taken at one server', () => {
  it('is taken at the other, and in its jobs, from the next request on', async () => {
    for (let round = 0; round < rounds; round++) {
      expect(Object.keys(await owners())).toEqual(['name', 'phone']);
      await ceiling({ columns: { phone: 'nothing' } });
      expect([round, Object.keys(await owners())]).toEqual([round, ['name']]);
      if (round === 0) {
        const closed = (await exported()).result.size;
        await ceiling({});
        expect((await exported()).result.size).toBeGreaterThan(closed * 1.1);
        continue;
      }
      await ceiling({});
    }
    const id = (await desk.get('/portals/alder-fen/records/owners')).body.records[0].id as string;
    const edit = async () =>
      (
        await desk.send('PATCH', `/portals/alder-fen/records/owners/${id}`, {
          changes: { phone: { from: (await owners()).phone ?? null, to: '+44 1632 960000' } },
        })
      ).status;
    for (let round = 0; round < rounds; round++) {
      await ceiling({ edit: false });
      expect([round, await edit()]).toEqual([round, 403]);
      await ceiling({});
    }
    expect(await edit()).toBe(200);
  });

  it('so are renamings, new columns, and columns that went away, as sentences', async () => {
    const shape = `${bench}/shape/tables/owners/columns`;
    expect((await here.post(`${shape}/phone/rename`, { to: 'telephone' })).status).toBe(204);
    expect(Object.keys((await desk.get('/portals/alder-fen/records/owners')).body.records[0].values)).toContain(
      'telephone',
    );
    expect(
      (
        await here.post(shape, {
          column: { name: 'nickname', type: 'text', required: false, unique: false, initial: 'n' },
        })
      ).status,
    ).toBe(201);
    expect((await there.get(`${bench}/all/records/owners?columns=nickname`)).body.records[0].values).toEqual({
      nickname: 'n',
    });
    // Away by the database's own people, whom no server tells.
    await plain.query('ALTER TABLE twin.owners DROP COLUMN nickname');
    const gone = await there.get(`${bench}/all/records/owners?columns=nickname`);
    expect([gone.status, gone.body.detail]).toEqual([409, expect.stringContaining('changed in the database')]);
    expect((await there.get(`${bench}/all/records/owners?columns=name`)).status).toBe(200);
  });
});
