import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { raw } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { AuditEntry } from '../store/models';

let demo: Awaited<ReturnType<typeof demoServer>>;
const anton = 'anton.wray@example.org';
const portal = '/portals/alder-fen';

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'keeping', 'keeping_own');
});
afterAll(async () => demo?.server.close());

const rows = async (text: string): Promise<unknown[][]> => demo.server.services.sources.get('keeping').rows(raw(text));
const signedIn = async (email: string): Promise<Client> => {
  const client = demo.client();
  const { status } = await client.post(`${portal}/sign-in`, { email, password: demoPassword });
  expect([email, status]).toEqual([email, 200]);
  return client;
};
const log = async () => (await AuditEntry.findAll({ order: [['id', 'DESC']], limit: 1 }))[0]!;

describe('a steward who keeps a table', () => {
  const bring = `${portal}/bring/weekly-plan`;
  const fileOf = (text: string) => {
    const form = new FormData();
    form.append('file', new Blob([text]), 'plan.csv');
    return form;
  };
  const ended = async (client: Client, { body, status }: { body: { id: number }; status: number }) => {
    expect([status, body]).toEqual([202, expect.objectContaining({ id: expect.any(Number) })]);
    for (;;) {
      const { body: job } = await client.get(`${portal}/jobs/${body.id}`);
      if (['done', 'failed', 'cancelled'].includes(job.state)) return job;
      await new Promise((resolve) => setTimeout(resolve, 30));
    }
  };

  it('brings the weekly plan within their own rights, looked at before, all or nothing, and takes it out', async () => {
    const client = await signedIn(anton);
    const codeIn = async (parish: string) =>
      String((await rows(`SELECT MIN(code) FROM wells WHERE parish = '${parish}'`))[0]![0]);
    const [own, foreign] = [await codeIn('Harrow End'), await codeIn('Saltby')];
    const line = (well: string, day: string) => `${well},${day},9,2026-11-20,planned`;
    const text = ['well,planned for,sampler,asked,state', line(own, '2027-01-04'), line(foreign, '2027-01-05')].join(
      '\n',
    );
    const read = await ended(client, await client.form(`${bring}/files`, fileOf(text)));
    expect(read.state).toBe('done');
    const { file } = read.result;
    const { body } = await client.get(`${bring}/files/${file}/plan`);
    // Only what the steward may fill is there to choose, and what they may ask by.
    const names = (of: { name: string }[]) => of.map(({ name }) => name);
    expect(names(body.target.columns)).toEqual(['id', 'well_id', 'sampler_id', 'asked_on', 'planned_for']);
    expect(names(body.target.columns[1].relation.by)).toEqual(['code', 'address', 'postcode', 'parish']);
    const columns = [
      { header: 'well', column: 'well_id', by: 'code' },
      { header: 'planned for', column: 'planned_for' },
      { header: 'sampler', column: 'sampler_id' },
      { header: 'asked', column: 'asked_on' },
    ];
    const plan = { ...body.plan, columns, key: null };
    const looked = await ended(client, await client.post(`${bring}/look`, { file, plan }));
    const { outcome } = looked.result;
    expect([outcome.added, outcome.refused]).toEqual([1, 1]);
    expect(JSON.stringify(outcome.samples.refused)).toContain('No record of wells has this code.');
    const before = await rows('SELECT COUNT(*) FROM visits');
    const all = { file, plan, mode: 'all or nothing', digest: outcome.digest };
    expect((await ended(client, await client.post(`${bring}/import`, all))).state).toBe('failed');
    expect(await rows('SELECT COUNT(*) FROM visits')).toEqual(before);
    const some = { ...all, mode: 'without the refused' };
    expect((await ended(client, await client.post(`${bring}/import`, some))).state).toBe('done');
    const made =
      "SELECT w.code, v.state FROM visits v JOIN wells w ON w.id = v.well_id WHERE v.planned_for = '2027-01-04'";
    expect(await rows(made)).toEqual([[own, 'asked']]);
    expect(await log()).toMatchObject({ what: 'imported', who: `Anton Wray <${anton}>` });
    const taken = await client.get(`${portal}/exports/visits?format=csv`);
    expect(taken.status).toBe(200);
    const [[mine]] = (await rows(
      "SELECT COUNT(*) FROM visits v JOIN wells w ON w.id = v.well_id WHERE w.parish = 'Harrow End'",
    )) as [[bigint]];
    expect(String(taken.body).trim().split('\n')).toHaveLength(Number(mine) + 1);
  });

  it('brings nothing else, and nobody brings their file or by their right', async () => {
    const client = await signedIn(anton);
    const milo = await signedIn('milo.sandringfield@example.org');
    const read = await ended(client, await client.form(`${bring}/files`, fileOf('name\nX\n')));
    const { file } = read.result;
    const plan = (table: string) => ({
      table,
      key: null,
      unknown: 'add',
      known: 'refuse',
      empty: 'keep',
      columns: [{ header: 'name', column: 'name' }],
    });
    const other = await ended(client, await client.post(`${bring}/look`, { file, plan: plan('owners') }));
    expect([other.state, other.result.problem.status]).toEqual(['failed', 404]);
    expect((await milo.get(`${bring}/files/${file}/plan`)).status).toBe(404);
    const theirs = await ended(milo, await milo.post(`${bring}/look`, { file, plan: plan('visits') }));
    expect([theirs.state, theirs.result.problem.status]).toEqual(['failed', 404]);
    const mara = await signedIn('mara.lindqvist@example.org');
    expect((await mara.form(`${bring}/files`, fileOf('x\n1\n'))).status).toBe(404);
    expect((await mara.get(`${portal}/exports/visits?format=csv`)).status).toBe(404);
  });
});
