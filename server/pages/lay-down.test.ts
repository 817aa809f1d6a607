import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { lensOf } from '../../core/access/lens';
import type { PortalDefinition } from '../../core/definition/definition';
import { demoPassword } from '../../demo/load';
import { layDown, proposals } from '../../sections/lay-down';
import { demoServer, type Client } from '../../test/server';

/** Pages that are laid down from what a role sees: they hold nothing that it doesn't, and answer whoever has it. */

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
const bench = '/builder/portals/alder-fen';

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'laid', 'laid_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
});
afterAll(async () => demo?.server.close());

/** Everyone at the demo's door, and a visitor, by the role that they stand for. */
const people: [role: string, email: string][] = [
  ['well_owner', 'ines.brannock'],
  ['sampler', 'mara.lindqvist'],
  ['desk', 'odile.fennimore'],
  ['accounts', 'philippa.crane'],
  ['steward', 'anton.wray'],
  ['public', ''],
];

it('names what the role sees alone, is found fault with by no check, and answers', async () => {
  const { draft } = (await builder.get(bench)).body as { draft: PortalDefinition };
  const { catalogue } = await demo.server.services.sources.of(draft);
  // The demo's records are arranged for other roles, which is no reason to show this one's pages faulty.
  const without = { ...draft, pages: [] };
  let asked = 0;
  for (const [role, name] of people) {
    const laid: PortalDefinition = structuredClone(without);
    const all = proposals(laid, catalogue, role);
    layDown(laid, all);
    const seen = catalogue.tables.filter((table) => {
      const lens = lensOf(draft, catalogue, table, role);
      return lens !== null && lens.rows !== 'no row' && lens.columns.size > 0;
    });
    // A list of each table that it sees, but for its own record, which it gets as such.
    const tables = new Set(all.map(({ table }) => table));
    expect([role, [...tables].sort()]).toEqual([role, seen.map(({ name: table }) => table).sort()]);
    expect(new Set(laid.pages.map(({ id }) => id)).size).toBe(laid.pages.length);
    expect((await builder.send('PUT', `${bench}/definition`, laid)).status).toBe(200);
    const { findings } = (await builder.get(`${bench}/findings`)).body as {
      findings: { title: string; kind: string; place: { stage: string; page?: string } }[];
    };
    const ofPages = findings.filter(({ place }) => place.page !== undefined).map(({ title }) => title);
    expect([role, ofPages]).toEqual([role, []]);

    const found = name === '' ? null : (await builder.get(`${bench}/members?search=${name}`)).body.members[0].id;
    const as = `${bench}/as/${found ?? 'visitor'}`;
    const { pages } = (await builder.get(`${as}/me`)).body;
    expect([role, pages.length]).toEqual([role, all.length]);
    for (const page of pages)
      for (const section of page.sections) {
        const way = { figure: '/figure', chart: '/chart' }[section.kind as string] ?? '?size=5';
        const answer = await builder.get(`${as}/pages/${page.id}/${section.id}${way}`);
        expect([role, page.id, section.id, answer.status, answer.body.detail]).toEqual([
          role,
          page.id,
          section.id,
          200,
          undefined,
        ]);
        asked++;
        const [first] = answer.body.records ?? [];
        if (!first) continue;
        const columns = section.sheet.map(({ path }: { path: string }) => path).join(',');
        const record = await builder.get(`${as}/records/${section.table}/${first.id}?columns=${columns}`);
        expect([role, page.id, record.status]).toEqual([role, page.id, 200]);
        for (const { relation } of section.linked ?? []) {
          const linked = await builder.get(`${as}/records/${section.table}/${first.id}/related/${relation}`);
          expect([role, page.id, relation, linked.status]).toEqual([role, page.id, relation, 200]);
        }
      }
  }
  expect(asked).toBeGreaterThan(40);
});

it('begins with the member’s own record, and leaves sheets alone that are arranged', async () => {
  const { draft } = (await builder.get(bench)).body as { draft: PortalDefinition };
  const { catalogue } = await demo.server.services.sources.of(draft);
  const laid = structuredClone({ ...draft, pages: [], sheets: { wells: { columns: ['code'] } } });
  const all = proposals(laid, catalogue, 'well_owner');
  expect(all.slice(0, 2).map(({ what, table }) => [what, table])).toEqual([
    ['about me', 'owners'],
    ['dashboard', 'visits'],
  ]);
  layDown(laid, all);
  layDown(laid, all.slice(0, 1));
  expect(laid.sheets.wells).toEqual({ columns: ['code'] });
  expect(laid.pages.filter(({ title }) => title === 'About me').map(({ id }) => id)).toEqual([
    'about-me',
    'about-me-2',
  ]);
  expect(proposals(laid, catalogue, 'nobody')).toEqual([]);
});
