import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
const bench = '/builder/portals/alder-fen';
const portal = '/portals/alder-fen';

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'led', 'led_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
});
afterAll(async () => demo?.server.close());

const own = JSON.stringify({ kind: 'member', fact: ['lab_staff', 'lab_id'] });
const along = JSON.stringify({ kind: 'member', fact: ['lab_staff', 'lab', 'id'] });

const draft = async () => (await builder.get(bench)).body.draft as PortalDefinition;
const publish = async () => {
  const { revision } = (await builder.get(bench)).body;
  expect((await builder.post(`${bench}/versions`, { revision, note: '' })).status).toBe(201);
};

/** What members of two labs see of what is their lab's. */
async function seen(): Promise<unknown[]> {
  const { demo: door } = (await demo.client().get(`${portal}/door`)).body;
  const staff = (door.people as { email: string; role: string }[]).filter(({ role }) => role.startsWith('Lab'));
  expect(staff.length).toBeGreaterThan(1);
  const lists = staff.map(async ({ email }) => {
    const client = demo.client();
    await client.post(`${portal}/sign-in`, { email, password: demoPassword });
    const tables = ['samples', 'results', 'labs', 'visits', 'lab_staff'].map(async (table) => {
      const { status, body } = await client.get(`${portal}/records/${table}?size=50`);
      return [email, table, status, body.total, body.records];
    });
    return Promise.all(tables);
  });
  return (await Promise.all(lists)).flat();
}

describe('what a relation of the roster row leads to', () => {
  it('is a fact as its own columns are: for lists, for many persons at once, and in the change report', async () => {
    const before = await seen();
    const text = JSON.stringify(await draft());
    expect(text.split(own).length).toBeGreaterThan(8);
    const led = JSON.parse(text.replaceAll(own, along)) as PortalDefinition;
    expect((await builder.send('PUT', `${bench}/definition`, led)).status).toBe(200);
    // Nothing changes for anybody, and no promise is broken by it.
    expect((await builder.ended(`${bench}/jobs`, `${bench}/change-report`)).result.groups).toEqual([]);
    const { outcomes } = (await builder.get(`${bench}/promises`)).body as { outcomes: { kept: boolean }[] };
    expect(outcomes.filter(({ kept }) => !kept)).toEqual([]);
    await publish();
    expect(await seen()).toEqual(before);
    const counts = await Promise.all(
      ['lab_id = :member.lab_staff.lab_id', 'lab_id = :member.lab_staff.lab.id'].map(
        async (condition) =>
          (
            await builder.post(`${bench}/condition`, {
              table: 'samples',
              text: condition,
              member: null,
              role: 'lab_chemist',
              all: true,
            })
          ).body.role,
      ),
    );
    expect(counts[1]).toEqual(counts[0]);
    expect(counts[0].most).toBeGreaterThan(0);
  });

  it('is compared as its column is, and what nobody may read there is asked by no rule', async () => {
    const ask = async (text: string) => builder.post(`${bench}/condition`, { table: 'labs', text, member: null });
    expect((await ask('name = :member.lab_staff.lab.name')).status).toBe(200);
    for (const [text, reason] of [
      ['name = :member.lab_staff.lab.id', /is text and can't be compared/],
      ['name = :member.lab_staff.nowhere.name', /there is no relation nowhere in lab_staff/],
      ['name = :member.lab_staff.lab.nothing', /there is no column nothing in labs/],
      ['name = :member.labs.samples.id', /there is no relation samples in labs/],
    ] as const)
      expect((await ask(text)).body.detail).toMatch(reason);
    const ceiling = { where: '', create: true, edit: true, delete: true, export: true, columns: { name: 'nothing' } };
    await builder.send('PUT', `${bench}/ceilings/labs`, ceiling);
    expect((await ask('id = 1 AND accreditation_number = :member.lab_staff.lab.name')).body.detail).toMatch(
      /the ceiling lets nobody read labs.name, so no rule may ask it/,
    );
    await builder.send('PUT', `${bench}/ceilings/labs`, { ...ceiling, columns: {} });
  });

  it('follows a rename, and whoever can write what it is made of is found', async () => {
    const change = await draft();
    change.access.labs!.desk = { see: { where: 'every row', columns: ['id', 'name'] } };
    change.access.labs!.desk.edit = { where: 'every row', columns: ['name'] };
    change.access.labs!.lab_courier!.see!.where = {
      kind: 'compare',
      left: { kind: 'column', path: ['name'] },
      comparison: '=',
      right: { kind: 'member', fact: ['lab_staff', 'lab', 'name'] },
    };
    await builder.send('PUT', `${bench}/definition`, change);
    const { findings } = (await builder.get(`${bench}/findings`)).body as { findings: { id: string }[] };
    expect(findings.map(({ id }) => id)).toContain('written/labs/desk/name/edit');
    const renamed = await builder.post(`${bench}/shape/tables/lab_staff/columns/lab_id/rename`, { to: 'house_id' });
    expect([renamed.status, renamed.body?.detail]).toEqual([204, undefined]);
    const text = JSON.stringify(await draft());
    expect([text.includes('"lab_staff","lab",'), text.includes('"lab_staff","house","name"')]).toEqual([false, true]);
    await builder.post(`${bench}/shape/tables/lab_staff/columns/house_id/rename`, { to: 'lab_id' });
  });
});
