import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { Job } from '../store/models';
import { Member } from '../store/people-models';

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
let mara: Client;
let ines: Client;
const bench = '/builder/portals/alder-fen';
const portal = '/portals/alder-fen';

const member = async (email: string) => {
  const client = demo.client();
  await client.post(`${portal}/sign-in`, { email, password: demoPassword });
  return client;
};

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'begun', 'begun_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  const draft = (await builder.get(bench)).body.draft as PortalDefinition;
  draft.access.visits!.sampler!.export = { where: 'as seen' };
  const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body;
  await builder.post(`${bench}/versions`, { revision, note: '' });
  mara = await member('mara.lindqvist@example.org');
  ines = await member('ines.brannock@example.org');
});
afterAll(async () => demo?.server.close());

const asked = { format: 'csv', columns: 'planned_for,state', sort: 'planned_for', guard: true, filter: '', search: '' };

const text = async (client: Client, path: string) => {
  const answer = await fetch(`${demo.base}/api${path}`, { headers: client.headers() });
  return [answer.status, await answer.text()];
};

describe("a member's export by a job", () => {
  it('holds what the same export holds at once, and is theirs alone', async () => {
    const job = await mara.ended(`${portal}/jobs`, `${portal}/exports/visits`, asked);
    expect([job.state, job.result.rows]).toEqual(['done', 259]);
    const { id } = job;
    const query = new URLSearchParams(Object.entries(asked).map(([name, value]) => [name, String(value)]));
    const atOnce = await text(mara, `${portal}/exports/visits?${query.toString()}`);
    expect(await text(mara, `${portal}/jobs/${id}/file`)).toEqual(atOnce);
    for (const path of [`${portal}/jobs/${id}`, `${portal}/jobs/${id}/file`])
      expect((await ines.get(path)).status).toBe(404);
    expect((await ines.post(`${portal}/jobs/${id}/cancel`)).body).toEqual({ stops: false });
    // What a builder has begun is no member's either, whatever their numbers are.
    const [{ ownerId }] = (await Job.findAll({ where: { id } })) as [Job];
    await Job.update({ ownerKind: 'builder' }, { where: { id } });
    expect((await mara.get(`${portal}/jobs/${id}`)).status).toBe(404);
    await Job.update({ ownerKind: 'member', ownerId }, { where: { id } });
    expect((await builder.get(`${bench}/jobs/${id}`)).body.state).toBe('done');
  });

  it('is refused before it begins where nothing may be taken out', async () => {
    expect((await ines.post(`${portal}/exports/visits`, asked)).status).toBe(404);
    expect((await ines.post(`${portal}/exports/samplers`, asked)).status).toBe(404);
    expect((await ines.get(`${portal}/jobs`)).body).toEqual({ jobs: [] });
  });

  it('is made with the rights that they have when it is made, and not for who is no member any more', async () => {
    const waiting = async () => {
      const [{ id: ownerId }] = (await Member.findAll({ where: { email: 'mara.lindqvist@example.org' } })) as [Member];
      const begun = await mara.ended(`${portal}/jobs`, `${portal}/exports/visits`, asked);
      return { ownerId, id: begun.id };
    };
    const again = async (id: number) => {
      await Job.update({ state: 'waiting', worker: null, result: null }, { where: { id } });
      // Whatever job comes next wakes the thread.
      await builder.ended(`${bench}/jobs`, `${bench}/members/refresh`);
      return (await builder.get(`${bench}/jobs/${id}`)).body;
    };
    const { id, ownerId } = await waiting();
    const draft = (await builder.get(bench)).body.draft as PortalDefinition;
    const before = structuredClone(draft);
    draft.access.visits!.sampler!.export = undefined;
    const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body;
    await builder.post(`${bench}/versions`, { revision, note: '' });
    const refused = await again(id);
    expect([refused.state, refused.result.problem.status]).toEqual(['failed', 404]);
    const back = (await builder.send('PUT', `${bench}/definition`, before)).body;
    await builder.post(`${bench}/versions`, { revision: back.revision, note: '' });
    expect((await again(id)).state).toBe('done');
    await Member.update({ onRoster: false }, { where: { id: ownerId } });
    await Job.update({ state: 'waiting', worker: null, result: null }, { where: { id } });
    await builder.ended(`${bench}/jobs`, `${bench}/change-report`);
    const gone = (await builder.get(`${bench}/jobs/${id}`)).body;
    expect([gone.state, gone.result.problem.type]).toEqual(['failed', 'urn:stone-porch:problem:no-member']);
    await Member.update({ onRoster: true }, { where: { id: ownerId } });
  });

  it('waits its turn: one member begins three at a time', async () => {
    const [{ id, portalId }] = (await Member.findAll({ where: { email: 'mara.lindqvist@example.org' } })) as [Member];
    const held = { portalId, kind: 'export', ownerKind: 'member' as const, ownerId: id, input: '{}', result: null };
    const running = {
      done: 0,
      total: null,
      cancelWanted: false,
      worker: 'another',
      beatAt: new Date(),
      madeAt: new Date(),
    };
    for (let i = 0; i < 3; i++) await Job.create({ ...held, ...running, state: 'running' });
    const refused = await mara.post(`${portal}/exports/visits`, asked);
    expect([refused.status, refused.body.detail]).toEqual([
      429,
      '3 things are being done for you already. Wait until one is over, or stop one.',
    ]);
    const { jobs } = (await mara.get(`${portal}/jobs`)).body as { jobs: { id: number }[] };
    expect(jobs).toHaveLength(3);
    expect((await mara.post(`${portal}/jobs/${jobs[0]!.id}/cancel`)).body).toEqual({ stops: true });
    await Job.update({ state: 'done' }, { where: { worker: 'another' } });
    const over = Array.from({ length: 40 }, () => ({ ...held, ...running, state: 'done' as const }));
    await Job.bulkCreate(over);
    expect((await mara.post(`${portal}/exports/visits`, asked)).body.detail).toContain('40 things were done for you');
    await Job.destroy({ where: { worker: 'another' } });
    expect((await mara.ended(`${portal}/jobs`, `${portal}/exports/visits`, asked)).state).toBe('done');
  });
});
