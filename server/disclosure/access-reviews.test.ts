import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { hashPassword } from '../sessions/passwords';
import { Builder } from '../store/models';
import { Member, OutboxMail } from '../store/people-models';

/** Access reviews: sent, signed line by line by whom they were sent to, and the next time only what changed. */

interface Line {
  role: string;
  table: string | null;
  rights: { whole: string[]; rows: string } | null;
  wasRights: { whole: string[] } | null;
  people: { all: number; came: string[]; went: string[]; isFirst: boolean } | null;
  signed: { says: string; remark: string } | null;
  carried: boolean;
}

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
let auditor: Client;
let auditorId = 0;
const bench = '/builder/portals/alder-fen';
const reviews = `${bench}/access-reviews`;

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'reviews', 'reviews_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  const passwordHash = await hashPassword(demoPassword);
  const email = 'auditor@example.org';
  ({ id: auditorId } = await Builder.create({
    email,
    name: 'Ottilie Vane',
    right: 'reader',
    portals: null,
    passwordHash,
  }));
  auditor = demo.client();
  expect((await auditor.post('/builder/sign-in', { email, password: demoPassword })).status).toBe(200);
});
afterAll(async () => demo?.server.close());

const linesOf = async (id: number): Promise<Line[]> =>
  ((await builder.get(`${reviews}/${id}`)).body as { lines: Line[] }).lines;
const begin = async (): Promise<number> => {
  const answer = await builder.post(reviews, { builder: auditorId });
  expect(answer.status).toBe(201);
  return (answer.body as { id: number }).id;
};
const sign = (id: number, line: number, says: string, remark = '', who = auditor) =>
  who.send('PUT', `${reviews}/${id}/lines/${line}`, { says, remark });
const openOf = async (id: number) =>
  ((await builder.get(`${reviews}/${id}`)).body as { review: { open: number } }).review.open;

it('is sent to a colleague, who alone signs it, each line once', async () => {
  const id = await begin();
  const mail = await OutboxMail.findOne({ where: { recipient: 'auditor@example.org' }, order: [['id', 'DESC']] });
  expect(mail?.subject).toBe('Who sees what in Alder Fen Wells');
  const lines = await linesOf(id);
  expect(lines.every(({ signed, carried }) => signed === null && !carried)).toBe(true);
  // Each role that members have has a line of its people, and one of each table of which it sees or may do something.
  const owner = lines.filter(({ role }) => role === 'well_owner');
  expect(owner[0]!.people).toMatchObject({ isFirst: true, went: [] });
  expect(owner[0]!.people!.all).toBe(owner[0]!.people!.came.length);
  expect(owner.find(({ table }) => table === 'wells')!.rights!.whole).toContain('depth_m');

  expect((await sign(id, 0, 'right', '', builder)).status).toBe(403);
  expect((await sign(id, 0, 'wrong')).status).toBe(400);
  expect((await sign(id, lines.length, 'right')).status).toBe(404);
  expect((await sign(id, 0, 'wrong', 'two of them have left')).body).toEqual({ done: false });
  expect((await sign(id, 0, 'right')).status).toBe(409);
  for (let line = 1; line < lines.length; line++)
    expect((await sign(id, line, 'right')).body).toEqual({ done: line === lines.length - 1 });
  const { entries } = (await builder.get(`${bench}/log?what=signed%20an%20access%20review`)).body as {
    entries: { who: string; about: string }[];
  };
  expect(entries.map(({ who, about }) => [who, about])).toEqual([
    ['Ottilie Vane <auditor@example.org>', 'of version 1: 1 wrong'],
  ]);
  const file = String((await builder.get(`${reviews}/${id}/file`)).body);
  expect(file.split('\r\n').length).toBe(lines.length + 2);
  expect(file).toContain('two of them have left');
});

it('asks the next time only what was wrong or is another since, and says what it was', async () => {
  const { draft } = (await builder.get(bench)).body as { draft: PortalDefinition };
  const see = draft.access.wells!.well_owner!.see!;
  see.columns = see.columns.filter((column) => column !== 'depth_m');
  const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body as { revision: number };
  const published = await builder.post(`${bench}/versions`, { revision, note: '', despite: 'a test' });
  expect(published.status).toBe(201);
  const ines = await Member.findOne({ where: { email: 'ines.brannock@example.org' }, rejectOnEmpty: true });
  const role = `${bench}/members/${ines.id}/roles/desk`;
  expect((await builder.send('PUT', role, { reason: 'stands in' })).status).toBe(204);

  const id = await begin();
  const lines = await linesOf(id);
  const asked = lines.filter(({ carried }) => !carried);
  expect(asked.map(({ role: of, table }) => [of, table])).toEqual(
    expect.arrayContaining([
      ['well_owner', 'wells'],
      ['desk', null],
    ]),
  );
  // The line that was wrong, the one that is another, and whom the role was given.
  expect(asked.length).toBe(3);
  const wells = asked.find(({ table }) => table === 'wells')!;
  expect([wells.wasRights!.whole.includes('depth_m'), wells.rights!.whole.includes('depth_m')]).toEqual([true, false]);
  expect(asked.find(({ role: of }) => of === 'desk')!.people).toMatchObject({
    came: ['Ines Brannock'],
    went: [],
    isFirst: false,
  });
  expect(await openOf(id)).toBe(3);
  for (const [place, line] of lines.entries()) if (!line.carried) await sign(id, place, 'right');
  // All is as signed: of a third nothing is open.
  const third = await begin();
  expect(await openOf(third)).toBe(0);
  expect((await linesOf(third)).every(({ carried, signed }) => carried && signed?.says === 'right')).toBe(true);
});
