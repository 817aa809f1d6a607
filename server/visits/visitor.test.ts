import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { dayIn } from '../../core/access/person';
import type { PortalDefinition } from '../../core/definition/definition';
import { raw } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';

/** What is open of a portal without signing in: its public pages, what visitors see, and nothing to change. */

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
let visitor: Client;
const open = '/portals/alder-fen/public';
const bench = '/builder/portals/alder-fen';

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'visitor', 'visitor_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  visitor = demo.client();
});
afterAll(async () => demo?.server.close());

async function publish(change: (draft: PortalDefinition) => void): Promise<void> {
  const { draft } = (await builder.get(bench)).body as { draft: PortalDefinition };
  change(draft);
  const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body as { revision: number };
  expect((await builder.post(`${bench}/versions`, { revision, note: '' })).status).toBe(201);
}

it('gives visitors the public pages and the records that they see there, as SQL has them', async () => {
  expect((await visitor.get('/portals/alder-fen/door')).body.isPublic).toBe(true);
  const me = (await visitor.get(`${open}/me`)).body;
  expect([me.member, me.pages.map(({ id }: { id: string }) => id)]).toEqual([
    { kind: 'visitor', name: 'Visitor', email: null, roles: ['Visitor'] },
    ['advisories', 'ask', 'doubt'],
  ]);
  const [section] = me.pages[0].sections;
  // Nobody makes or deletes anything without signing in.
  expect(section.may.filter((act: string) => act !== 'export')).toEqual([]);
  const where = `published = TRUE AND (valid_until IS NULL OR valid_until >= '${dayIn(new Date(), 'Europe/London')}')`;
  const rows = await demo.server.services.sources
    .get('visitor')
    .rows(raw(`SELECT id FROM advisories WHERE ${where} ORDER BY id`));
  const list = await visitor.get(`${open}/pages/advisories/${section.id}?size=100`);
  const ids = (list.body.records as { id: string }[]).map(({ id }) => Number(id)).sort((a, b) => a - b);
  expect([list.status, ids]).toEqual([200, rows.map(([id]) => Number(id))]);
  expect(ids.length).toBeGreaterThan(0);
  const record = await visitor.get(`${open}/records/advisories/${ids[0]}`);
  expect([record.status, record.body.record.editable, record.body.record.deletable]).toEqual([200, [], false]);
  const [[hidden]] = (await demo.server.services.sources
    .get('visitor')
    .rows(raw('SELECT MIN(id) FROM advisories WHERE published = FALSE'))) as [[number]];
  expect((await visitor.get(`${open}/records/advisories/${hidden}`)).status).toBe(404);
});

it('opens nothing else, and lets nothing be changed', async () => {
  const asked = async (path: string) => (await visitor.get(`${open}${path}`)).status;
  expect(await asked('/records/wells')).toBe(404);
  expect(await asked('/records/wells/1/comments')).toBe(404);
  expect(await asked('/pages/my-wells/wells')).toBe(404);
  expect(await asked('/tables/owners')).toBe(404);
  // There are no views, jobs or own sign-in to ask for without one.
  expect(await asked('/pages/advisories/advisories/views')).toBe(404);
  expect((await visitor.post(`${open}/figures/owners`, { measures: [{ what: 'count' }] })).status).toBe(404);
  const counted = await visitor.post(`${open}/figures/advisories`, { measures: [{ what: 'count' }] });
  expect(counted.status).toBe(200);
  await publish((draft) => {
    draft.access.advisories!.public!.edit = { where: 'as seen', columns: ['title'] };
    draft.access.advisories!.public!.delete = { where: 'as seen' };
  });
  const [first] = (await visitor.get(`${open}/records/advisories?size=1`)).body.records as { id: string }[];
  const { record } = (await visitor.get(`${open}/records/advisories/${first!.id}`)).body;
  expect([record.editable, record.deletable]).toEqual([[], false]);
  // Test requests may be made by visitors one day, by a form that is guarded; not by whoever calls.
  for (const [method, path, body] of [
    ['POST', '/records/test_requests', { values: { name: 'A', email: 'a@example.org', parish: 'Harrow End' } }],
    ['PATCH', `/records/advisories/${first!.id}`, { changes: { title: { from: 'a', to: 'b' } } }],
    ['DELETE', `/records/advisories/${first!.id}`, { seen: {} }],
    ['POST', '/records/wells/1/comments', { text: 'x', circle: 'forAll' }],
  ] as const)
    expect([path, (await visitor.send(method, `${open}${path}`, body)).status]).toEqual([path, 401]);
  // A member's pages are not there by this way, whoever asks.
  const ines = demo.client();
  await ines.post('/portals/alder-fen/sign-in', { email: 'ines.brannock@example.org', password: demoPassword });
  expect((await ines.get(`${open}/records/wells`)).status).toBe(404);
  expect((await ines.get('/portals/alder-fen/me')).body.member.kind).toBe('member');
});

it('is shut where no page names visitors: everyone is everyone who signs in', async () => {
  const { draft } = (await builder.get(bench)).body as { draft: PortalDefinition };
  const audience = draft.pages.find(({ id }) => id === 'advisories')!.audience.roles;
  await publish((next) => {
    next.pages = next.pages.filter(({ id }) => id !== 'ask' && id !== 'doubt');
    next.pages.find(({ id }) => id === 'advisories')!.audience.roles = 'everyone';
  });
  expect((await visitor.get('/portals/alder-fen/door')).body.isPublic).toBe(false);
  const shut = await visitor.get(`${open}/me`);
  expect([shut.status, shut.body.detail]).toEqual([404, 'There is nothing public at this address.']);
  expect((await visitor.get('/portals/never-was/public/me')).body.detail).toBe(shut.body.detail);
  expect((await visitor.get(`${open}/records/advisories`)).status).toBe(404);
  // As a builder sees it before it is published.
  expect((await builder.get(`${bench}/as/visitor/me`)).body.pages).toEqual([]);
  await publish((next) => {
    next.pages.find(({ id }) => id === 'advisories')!.audience.roles = audience;
  });
  expect((await visitor.get(`${open}/me`)).status).toBe(200);
});

it('asks whoever asks too much to wait, and nobody else', async () => {
  // All at once, so that a slow machine asks them within the minute, too.
  const all = await Promise.all(Array.from({ length: 1300 }, () => visitor.get(`${open}/tables/nothing`)));
  const waiting = all.filter(({ status }) => status === 429);
  expect(all.every(({ status }) => [404, 429].includes(status))).toBe(true);
  expect(waiting.length).toBeGreaterThanOrEqual(50);
  expect(Number(waiting[0]!.headers.get('retry-after'))).toBeGreaterThan(0);
  expect((await visitor.get('/portals/alder-fen/door')).status).toBe(200);
});
