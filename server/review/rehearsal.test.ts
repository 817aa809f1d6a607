import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
import { raw } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { listOf } from '../../test/pages';
import { demoServer, type Client } from '../../test/server';
import { when } from '../../test/wells';
import type { Named, Rehearsal } from './rehearsal';

/** What everybody would find on the pages of the draft, held against SQL and against whoever really signs in. */

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
/** Of all pages, once. */
let told: Rehearsal;
const bench = '/builder/portals/alder-fen';

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'rehearsed', 'rehearsed_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
});
afterAll(async () => demo?.server.close());

const rehearse = async (): Promise<Rehearsal> => (await builder.ended(`${bench}/jobs`, `${bench}/rehearsal`)).result;

async function change(edit: (draft: PortalDefinition) => void): Promise<void> {
  const { draft } = (await builder.get(bench)).body as { draft: PortalDefinition };
  edit(draft);
  expect((await builder.send('PUT', `${bench}/definition`, draft)).status).toBe(200);
}

/** Members who are owners and of whose rows this is true, by name. */
async function owners(where: string): Promise<string[]> {
  const rows = await demo.server.services.sources.get('rehearsed').rows(
    raw(`SELECT m.name FROM rehearsed_own.members m JOIN rehearsed_own.memberships r ON r.member_id = m.id AND r.holds
      JOIN owners o ON r.roster_table = 'owners' AND r.row_key = o.id WHERE m.on_roster AND ${where}`),
  );
  return rows.map(([name]) => String(name)).sort();
}

const names = ({ count, first }: Named) => {
  expect(first.length).toBe(Math.min(count, 200));
  return first.map(({ name }) => name).sort();
};
const pageOf = ({ pages }: Rehearsal, id: string) => pages.find((page) => page.id === id)!;

it('says who gets a page, and for whom it is empty, as SQL does; the draft stays, and nobody is told', async () => {
  const well = 'SELECT 1 FROM wells w WHERE w.owner_id = o.id';
  // Nobody's wells: two owners have none of theirs any more.
  await demo.server.services.sources
    .get('rehearsed')
    .write(raw('UPDATE wells SET owner_id = NULL WHERE owner_id IN (3, 4)'));
  await change((draft) => {
    draft.roles.push({ id: 'nobody', name: 'Nobody' });
    draft.pages.push(
      {
        id: 'no-one',
        title: 'No one',
        intro: '',
        audience: { roles: ['nobody'] },
        sections: [listOf('wells', ['code'])],
      },
      {
        id: 'words',
        title: 'Words',
        intro: '',
        audience: { roles: ['accounts'] },
        sections: [{ id: 'words', kind: 'text', text: 'Hello' }],
      },
      {
        id: 'stuck',
        title: 'Stuck',
        intro: '',
        audience: { roles: ['sampler'] },
        sections: [listOf('wells', ['code'], { where: when("treatment = ''") })],
      },
    );
  });
  told = await rehearse();
  const mine = pageOf(told, 'my-wells');
  expect(mine.gets.count).toBe((await owners('TRUE')).length);
  const empty = await owners(`NOT EXISTS (${well})`);
  expect(empty.length).toBeGreaterThan(1);
  expect(names(mine.empty)).toEqual(empty);
  expect(pageOf(told, 'no-one').gets).toEqual({ count: 0, first: [] });
  // A page of words alone holds no records, and so lacks none.
  expect([pageOf(told, 'words').gets.count > 0, pageOf(told, 'words').empty.count]).toEqual([true, 0]);
  const stuck = pageOf(told, 'stuck');
  expect([stuck.stuck.count, stuck.empty.count]).toEqual([stuck.gets.count, 0]);
  expect(stuck.stuck.why).toMatch(/treatment/);
  expect(pageOf(told, 'advisories').gets.first.some(({ id, name }) => id === null && name === 'Visitor')).toBe(true);
});

it('finds for each what they find once they are in', async () => {
  for (const who of ['ines.brannock', 'mara.lindqvist', 'odile.fennimore', 'philippa.crane']) {
    const client = demo.client();
    await client.post('/portals/alder-fen/sign-in', { email: `${who}@example.org`, password: demoPassword });
    const { member, pages } = (await client.get('/portals/alder-fen/me')).body;
    const among = ({ first }: Named) => first.some(({ name }) => name === member.name);
    const theirs = told.pages.filter(({ gets }) => gets.count <= 200 && among(gets)).map(({ id }) => id);
    const published = new Set(['no-one', 'words', 'stuck']);
    const live = (pages as { id: string; sections: { id: string; kind: string; tabs?: { id: string }[] }[] }[]).filter(
      ({ id }) => (told.pages.find((page) => page.id === id)?.gets.count ?? 0) <= 200,
    );
    expect([who, theirs.filter((id) => !published.has(id))]).toEqual([who, live.map(({ id }) => id)]);
    for (const page of live) {
      const lists = page.sections.filter(({ kind }) => ['list', 'cards', 'record'].includes(kind));
      let some = lists.length === 0;
      for (const { id, tabs = [] } of lists)
        for (const tab of tabs.length > 0 ? tabs : [{ id: '' }])
          some ||=
            (await client.get(`/portals/alder-fen/pages/${page.id}/${id}?size=1&view=${tab.id}`)).body.records.length >
            0;
      expect([who, page.id, among(pageOf(told, page.id).empty)]).toEqual([who, page.id, !some]);
    }
  }
});

it('tells a colleague who is kept from personal data numbers, and nobody’s name', async () => {
  await change((draft) => {
    draft.tables.owners!.columns!.name = { ...draft.tables.owners!.columns!.name, dataClass: 'identity' };
    draft.pages = draft.pages.filter(({ id }) => id === 'my-wells');
  });
  await demo.server.services.store.sequelize.query('UPDATE builders SET sees_personal = FALSE');
  const unseen = await rehearse();
  expect(pageOf(unseen, 'my-wells').gets.first.every(({ name }) => /^#[0-9a-f]{10}$/.test(name))).toBe(true);
  await demo.server.services.store.sequelize.query('UPDATE builders SET sees_personal = TRUE');
});
