import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
import { raw } from '../../core/sql/sql';
import type { FigureSection } from '../../sections/figure/spec';
import type { ColumnInfo } from '../columns/column-info';
import type { ListPage, ViewRecord } from '../gate/gate';
import { demoPassword } from '../../demo/load';
import { listOf } from '../../test/pages';
import { demoServer, type Client } from '../../test/server';
import { when } from '../../test/wells';

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
let ines: Client;
const bench = '/builder/portals/alder-fen';
const portal = '/portals/alder-fen';

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'pages', 'pages_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  ines = demo.client();
  await ines.post(`${portal}/sign-in`, { email: 'ines.brannock@example.org', password: demoPassword });
});
afterAll(async () => demo?.server.close());

async function publish(change: (draft: PortalDefinition) => void): Promise<void> {
  const { draft } = (await builder.get(bench)).body as { draft: PortalDefinition };
  change(draft);
  const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body as { revision: number };
  const answer = await builder.post(`${bench}/versions`, { revision, note: '' });
  expect([answer.status, answer.body.detail]).toEqual([201, undefined]);
}

const pageOf = async (id: string) =>
  (await ines.get(`${portal}/me`)).body.pages.find((page: { id: string }) => page.id === id);

describe('a text', () => {
  it("says the reader's own values as they see them, and nothing of what they don't", async () => {
    await publish((draft) => {
      const page = draft.pages.find(({ id }) => id === 'my-wells')!;
      page.sections = page.sections.filter(({ kind }) => kind === 'list');
      page.sections.push({
        id: 'words',
        kind: 'text',
        title: 'For you',
        text: [
          'For {:member.owners.name} <b>&</b> {:member.email},',
          'number {:member.owners.tax_number}, born {:member.owners.birth_date},',
          'not {:member.samplers.district} nor {:member.owners.nothing}.',
        ].join(' '),
      });
    });
    const { sections } = await pageOf('my-wells');
    // The tax number is masked for owners, and the birth date shows the year alone.
    expect(sections[1]).toEqual({
      id: 'words',
      kind: 'text',
      title: 'For you',
      text: 'For Ines Brannock <b>&</b> ines\\.brannock\\@example\\.org, number ••••••739, born 1938, not  nor .',
    });
    const findings = (await builder.get(`${bench}/findings`)).body.findings as { kind: string; title: string }[];
    expect(findings.filter(({ kind }) => kind === 'section does not work').map(({ title }) => title)).toEqual([
      'My wells says {:member.owners.nothing}, and there is no column nothing in owners',
    ]);
  });

  it('says what they see also where the key of their row is hidden from them', async () => {
    const draft = (await builder.get(bench)).body.draft as PortalDefinition;
    const seen = draft.access.owners!.well_owner!.see!;
    const { columns } = seen;
    await publish((next) => {
      const see = next.access.owners!.well_owner!.see!;
      see.columns = columns.filter((column) => column !== 'id');
    });
    const answer = await ines.get(`${portal}/me`);
    expect(answer.status).toBe(200);
    expect((await pageOf('my-wells')).sections[1].text).toContain('For Ines Brannock');
    await publish((next) => {
      next.access.owners!.well_owner!.see!.columns = columns;
    });
  });
});

describe('a text that follows a relation', () => {
  it('says what the reader sees there, and nothing where they see nothing of it', async () => {
    await publish((draft) => {
      draft.access.lab_staff!.lab_chemist = {
        see: { where: when('id = :member.lab_staff.id'), columns: ['id', 'lab_id'] },
      };
      draft.pages
        .find((page) => page.id === 'lab-bottles')!
        .sections.push({
          id: 'words',
          kind: 'text',
          text: 'At {:member.lab_staff.lab.name}, number {:member.lab_staff.lab.id}.',
        });
    });
    const { demo: door } = (await demo.client().get(`${portal}/door`)).body;
    const { email } = (door.people as { email: string; role: string }[]).find(({ role }) => role === 'Lab chemist')!;
    const chemist = demo.client();
    await chemist.post(`${portal}/sign-in`, { email, password: demoPassword });
    const { pages } = (await chemist.get(`${portal}/me`)).body;
    const page = pages.find((each: { id: string }) => each.id === 'lab-bottles');
    const [lab] = (await chemist.get(`${portal}/records/labs`)).body.records;
    // The lab's name is granted to chemists, its number is not.
    expect(page.sections[1].text).toBe(`At ${lab.values.name}, number .`);
  });
});

describe('a sheet', () => {
  it('stands in groups, each for its audience alone: of others neither the heading nor a column is told', async () => {
    const arranged = async (whom: string[]) => {
      await publish((draft) => {
        draft.sheets.wells = {
          columns: ['code', 'address', 'depth_m', 'casing'],
          groups: [
            { id: 'shaft', title: 'The shaft', columns: ['depth_m', 'casing'], across: 2, audience: { roles: whom } },
          ],
          linked: [
            {
              table: 'visits',
              column: 'well_id',
              columns: ['state'],
              audience: { roles: whom },
              figures: [
                { measure: 'sum', column: 'fee' },
                { measure: 'maximum', column: 'planned_by' },
              ],
            },
          ],
        };
      });
      const { sheet, groups, linked } = (await pageOf('my-wells')).sections[0];
      return [
        sheet.map(({ path }: { path: string }) => path),
        groups.map(({ title, columns }: { title: string; columns: string[] }) => [title, ...columns]),
        linked.map(({ figures }: { figures: { column: { path: string } }[] }) =>
          figures.map(({ column }) => column.path),
        ),
      ];
    };
    const draft = (await builder.get(bench)).body.draft as PortalDefinition;
    expect(await arranged(['well_owner'])).toEqual([
      ['code', 'address', 'depth_m', 'casing'],
      [['The shaft', 'depth_m', 'casing']],
      // Nothing is reckoned of what she doesn't see.
      [['fee']],
    ]);
    expect(await arranged(['desk'])).toEqual([['code', 'address'], [], []]);
    // What is not on the sheet can't be chosen as a column of the list either, where the list hasn't it itself.
    const chosen = async (columns: string) =>
      (await ines.get(`${portal}/pages/my-wells/wells?columns=${columns}`)).status;
    expect([await chosen('code,depth_m'), await chosen('code,casing')]).toEqual([200, 400]);
    await publish((next) => {
      next.sheets.wells = draft.sheets.wells!;
    });
  });
});

describe('sections', () => {
  it('stand beside each other, each with its own records and its own way of showing one', async () => {
    await publish((draft) => {
      const page = draft.pages.find((each) => each.id === 'my-wells')!;
      page.sections.push(
        listOf('wells', ['code'], { id: 'deep', where: when('depth_m > 0'), sheet: { columns: ['code'] } }),
        listOf('visits', ['planned_for'], { title: 'Visits' }),
      );
    });
    const { sections } = await pageOf('my-wells');
    const [wells, , deep, visits] = sections as { id: string; sheet: { path: string }[] }[];
    expect([wells!.sheet.length, deep!.sheet.map(({ path }) => path), visits!.sheet.length]).toEqual([9, ['code'], 8]);
    const records = async (id: string) => (await ines.get(`${portal}/pages/my-wells/${id}`)).body;
    expect([(await records('wells')).total, (await records('visits')).records.length > 0]).toEqual([3, true]);
    // A text lists nothing.
    expect((await ines.get(`${portal}/pages/my-wells/words`)).status).toBe(404);
  });

  it('and pages are for their audience alone: to others they are not there', async () => {
    await publish((draft) => {
      const page = draft.pages.find((each) => each.id === 'my-wells')!;
      const audience = (parish: string) => ({
        roles: 'everyone' as const,
        where: when(`:member.owners.parish = '${parish}'`),
      });
      for (const section of page.sections)
        if (section.id === 'deep') section.audience = audience('Elsewhere');
        else if (section.id === 'visits') section.audience = audience('Harrow End');
      draft.pages.find((each) => each.id === 'visits')!.audience.where = when(":member.owners.parish <> 'Harrow End'");
      // What nobody can be asked is nobody.
      draft.pages.find((each) => each.id === 'my-results')!.audience.where = when(":member.owners.gone = 'x'");
    });
    const me = (await ines.get(`${portal}/me`)).body;
    expect(me.pages.map((page: { id: string }) => page.id)).toEqual([
      'home',
      'my-wells',
      'my-details',
      'advisories',
      'ask-visit',
      'doubt',
    ]);
    expect(me.pages[1].sections.map((section: { id: string }) => section.id)).toEqual(['wells', 'words', 'visits']);
    expect((await ines.get(`${portal}/pages/my-wells/visits`)).status).toBe(200);
    for (const path of ['my-wells/deep', 'visits/visits', 'my-results/results'])
      expect((await ines.get(`${portal}/pages/${path}`)).status).toBe(404);
    const findings = (await builder.get(`${bench}/findings`)).body.findings as { kind: string; title: string }[];
    expect(findings.filter(({ kind }) => kind === 'audience does not work').map(({ title }) => title)).toEqual([
      "Who gets Results can't be told: there is no column gone in owners",
    ]);
  });
});

describe('a figure', () => {
  const figure = (id: string, over: Partial<FigureSection> = {}): FigureSection => ({
    id,
    kind: 'figure',
    table: 'visits',
    measure: 'count',
    where: 'every row',
    ...over,
  });
  const taken = async (id: string, client = ines) =>
    (await client.get(`${portal}/pages/my-wells/${id}/figure`)).body as { taken: unknown; against: unknown };
  const sql = async (text: string): Promise<unknown[]> =>
    (await demo.server.services.sources.get('pages').rows(raw(text)))[0]!.map((value) => value);

  it('is reckoned over what the person sees, as plain SQL says, and held against other records', async () => {
    await publish((draft) => {
      const page = draft.pages.find(({ id }) => id === 'my-wells')!;
      page.sections.push(
        figure('mine', { against: { label: 'reported', where: when("state = 'reported'") } }),
        figure('fees', { measure: 'sum', column: 'fee', where: when('paid = TRUE') }),
        figure('few', { smallestGroup: 1000 }),
        figure('numbers', { table: 'owners', measure: 'distinct', column: 'tax_number' }),
        figure('unseen', { measure: 'maximum', column: 'planned_by' }),
        figure('closed', { table: 'staff' }),
      );
    });
    const own =
      'FROM visits v JOIN wells w ON w.id = v.well_id JOIN owners o ON o.id = w.owner_id ' +
      "WHERE o.email = 'ines.brannock@example.org'";
    const [many, done, fees] = await sql(
      `SELECT COUNT(*), SUM(v.state = 'reported'), SUM(CASE WHEN v.paid THEN v.fee END) ${own}`,
    );
    expect(Number(many)).toBeGreaterThan(0);
    expect(await taken('mine')).toEqual({
      taken: { number: Number(many), leftOut: 0 },
      against: { number: Number(done), leftOut: 0 },
    });
    const { taken: sum } = (await taken('fees')) as { taken: { number: string } };
    expect(Number(sum.number)).toBe(Number(fees));
    expect(await taken('few')).toEqual({ taken: { tooFew: true }, against: null });
    const told = (await pageOf('my-wells')).sections as { id: string; open?: boolean }[];
    const open = (id: string) => told.find((section) => section.id === id)!.open;
    expect(['mine', 'fees', 'few', 'unseen', 'closed'].map(open)).toEqual([true, true, true, false, false]);
    expect((await ines.get(`${portal}/pages/my-wells/closed/figure`)).status).toBe(404);
    expect((await ines.get(`${portal}/pages/my-wells/unseen/figure`)).status).toBeGreaterThanOrEqual(400);
    // A list has no number, and a page that is for others no figure.
    expect((await ines.get(`${portal}/pages/my-wells/wells/figure`)).status).toBe(404);
    const other = demo.client();
    await other.post(`${portal}/sign-in`, { email: 'odile.fennimore@example.org', password: demoPassword });
    expect((await other.get(`${portal}/pages/my-wells/mine/figure`)).status).toBe(404);
    // What is masked is not reckoned with.
    const hidden = await ines.get(`${portal}/pages/my-wells/numbers/figure`);
    expect(JSON.stringify(hidden.body)).not.toMatch(/\d{4,}/);
  });
});

describe('the columns of a list', () => {
  it('lead to records by their titles, say what stored values mean, and are called as the list says', async () => {
    await publish((draft) => {
      draft.tables.wells = { ...draft.tables.wells, titleFurther: ['parish', 'depth_m'] };
      draft.tables.visits = { columns: { paid: { labels: { true: 'settled', false: 'open' } } } };
      draft.pages
        .find((page) => page.id === 'my-wells')!
        .sections.push(listOf('visits', ['well_id', 'planned_for', 'paid'], { id: 'led', headings: { paid: 'Bill' } }));
    });
    const led = (await pageOf('my-wells')).sections.find((each: { id: string }) => each.id === 'led');
    const [well, planned, paid] = led.columns as ColumnInfo[];
    expect(well!.relation).toEqual({
      name: 'well',
      table: 'wells',
      title: 'well.code',
      further: ['well.parish', 'well.depth_m'],
      opens: true,
    });
    expect([planned!.relation, paid!.label, paid!.labels]).toEqual([
      undefined,
      'Bill',
      { true: 'settled', false: 'open' },
    ]);
    const { records } = (await ines.get(`${portal}/pages/my-wells/led`)).body as ListPage;
    const wells = (await ines.get(`${portal}/records/wells`)).body.records as ViewRecord[];
    const { candidates } = (await builder.get(`${bench}/all/lookups/visits/well?search=AF-0231`)).body;
    expect(candidates.map(({ label }: { label: string }) => label)).toEqual([
      expect.stringMatching(/^AF-0231 · [A-Z][a-z ]+ · \d/i),
    ]);
    const codes = new Map(wells.map((each) => [Number(each.id), each.values.code]));
    expect(records.length).toBeGreaterThan(0);
    expect(records.map((each) => each.values['well.code'])).toEqual(
      records.map((each) => codes.get(each.values.well_id as number)),
    );
  });

  it('say nothing of a record that the reader does not see, nor what a masked value means', async () => {
    await publish((draft) => {
      draft.promises = [];
      draft.access.wells!.well_owner!.see!.where = when("code = 'none'");
      draft.masks.push({
        id: 'paid',
        table: 'visits',
        column: 'paid',
        mask: { style: 'all' },
        to: 'everyone',
        exceptRoles: [],
      });
    });
    const led = (await pageOf('my-wells')).sections.find((each: { id: string }) => each.id === 'led');
    expect((led.columns as ColumnInfo[]).map(({ labels, veiled }) => [labels, veiled])).toEqual([
      [undefined, false],
      [undefined, false],
      [undefined, true],
    ]);
    const { records } = (await ines.get(`${portal}/pages/my-wells/led`)).body as ListPage;
    expect(new Set(records.map((each) => each.values['well.code']))).toEqual(new Set([undefined]));
  });
});
