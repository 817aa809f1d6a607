import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { parseCondition } from '../../core/condition/parse';
import type { PortalDefinition } from '../../core/definition/definition';
import { raw } from '../../core/sql/sql';
import type { ListSection } from '../../sections/list/spec';
import { demoPassword } from '../../demo/load';
import { listOf } from '../../test/pages';
import { demoServer, type Client } from '../../test/server';
import { KeptView } from '../store/kept-view-model';

/** Views of lists that members keep, and share with those alone whom they tell nothing new. */

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
const people: Record<string, Client> = {};
const portal = '/portals/alder-fen';
const bench = '/builder/portals/alder-fen';
const at = `${portal}/pages/owners-of-wells/owners/views`;

async function publish(change: (draft: PortalDefinition) => void): Promise<void> {
  const { draft } = (await builder.get(bench)).body as { draft: PortalDefinition };
  change(draft);
  const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body as { revision: number };
  const answer = await builder.post(`${bench}/versions`, { revision, note: '' });
  expect([answer.status, answer.body.detail]).toEqual([201, undefined]);
}

const inList = (draft: PortalDefinition, change: (list: ListSection) => void) =>
  change(draft.pages.find(({ id }) => id === 'owners-of-wells')!.sections[0] as ListSection);

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'views', 'views_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  await publish((draft) => {
    draft.pages.push({
      id: 'owners-of-wells',
      title: 'Owners of wells',
      intro: '',
      audience: { roles: ['desk', 'sampler'] },
      sections: [listOf('owners', ['name', 'parish'], { shares: ['desk'] })],
    });
  });
  const doors = (await demo.client().get(`${portal}/door`)).body.demo.people as { email: string; role: string }[];
  for (const role of ['Programme desk', 'Sampler', 'Well owner']) {
    people[role] = demo.client();
    const { email } = doors.find((each) => each.role === role)!;
    await people[role].post(`${portal}/sign-in`, { email, password: demoPassword });
  }
});
afterAll(async () => demo?.server.close());

const plain = { view: '', columns: '', search: '', filter: '', sort: '', chart: '' };
const keep = (who: string, name: string, standing: object, roles: string[] = []) =>
  people[who]!.post(at, { name, roles, standing: { ...plain, ...standing } });
const viewsOf = async (who: string) => (await people[who]!.get(at)).body;

it('a view is kept by whoever made it, as it stands, and by nobody else', async () => {
  const standing = { columns: 'name,email', filter: "parish = 'Harrow End'", sort: '-parish,name', search: 'a' };
  const made = await keep('Programme desk', 'Harrow End', standing);
  expect(made.status).toBe(201);
  expect(await viewsOf('Programme desk')).toEqual({
    views: [
      { id: made.body.id, name: 'Harrow End', mine: true, roles: [], people: [], standing: { ...plain, ...standing } },
    ],
    shareWith: [
      { id: 'sampler', name: 'Sampler' },
      { id: 'desk', name: 'Programme desk' },
    ],
  });
  expect(await viewsOf('Sampler')).toEqual({ views: [], shareWith: null });
  expect((await people['Well owner']!.get(at)).status).toBe(404);
  const { id } = made.body;
  const body = { name: 'Mine', roles: [], standing: plain };
  expect((await people.Sampler!.send('PUT', `${at}/${id}`, body)).status).toBe(404);
  expect((await people.Sampler!.send('DELETE', `${at}/${id}`)).status).toBe(404);
  expect((await keep('Programme desk', 'Wrong', { filter: 'nothing = 1' })).status).toBe(422);
  expect((await keep('Programme desk', 'Wrong', { chart: 'bars;count;;tax_number;' })).status).toBe(400);
  expect((await keep('Programme desk', 'Wrong', { filter: "tax_number = '1'" })).status).toBe(422);
  expect((await people['Programme desk']!.send('DELETE', `${at}/${id}`)).status).toBe(204);
  expect((await viewsOf('Programme desk')).views).toEqual([]);
});

it('is shared by those who may, with those who see whole what its filter asks, and opens for them alone', async () => {
  const refused = async (who: string, standing: object, roles: string[]) => {
    const { status, body } = await keep(who, 'Shared', standing, roles);
    return [status, body.detail];
  };
  expect(await refused('Sampler', {}, ['sampler'])).toEqual([
    403,
    'You may keep views of this list, and not share them.',
  ]);
  expect(await refused('Programme desk', {}, ['well_owner'])).toEqual([422, "Well owner doesn't get this list."]);
  // A sampler is shown no e-mail of owners: its constants would tell of it.
  expect(await refused('Programme desk', { filter: "email LIKE '%@example.org'" }, ['sampler'])).toEqual([
    422,
    "The filter asks a column that Sampler doesn't see whole, and would tell them of it.",
  ]);
  expect(await refused('Programme desk', { search: 'brannock' }, ['desk'])).toEqual([
    422,
    'What is looked for is not shared. Clear the search, or filter by a column.',
  ]);
  const made = await keep('Programme desk', 'With a phone', { filter: 'phone IS NOT NULL' }, ['sampler', 'desk']);
  expect(made.status).toBe(201);
  const theirs = async () => (await viewsOf('Sampler')).views;
  const standing = { ...plain, filter: 'phone IS NOT NULL' };
  expect(await theirs()).toEqual([
    { id: made.body.id, name: 'With a phone', mine: false, roles: [], people: [], standing },
  ]);
  // The phone is masked for samplers from now on: what was shared doesn't open, and its filter is not told.
  await publish((draft) => {
    draft.masks.push({
      id: 'phones',
      table: 'owners',
      column: 'phone',
      mask: { style: 'all' },
      to: ['sampler'],
      exceptRoles: [],
    });
  });
  expect(await theirs()).toEqual([
    { id: made.body.id, name: 'With a phone', mine: false, roles: [], people: [], standing: null },
  ]);
  expect((await viewsOf('Programme desk')).views[0].standing).toEqual(standing);
  await publish((draft) => {
    draft.masks = draft.masks.filter(({ id }) => id !== 'phones');
    inList(draft, (list) => delete list.shares);
  });
  expect(await theirs()).toEqual([]);
  await publish((draft) => inList(draft, (list) => (list.shares = ['desk'])));
  expect(await theirs()).toHaveLength(1);
});

it('opens for nobody whom its tab is not for, and tells nobody a column that is hidden from them', async () => {
  await publish((draft) =>
    inList(draft, (list) => {
      list.tabs = [
        { id: 'all', name: 'All', where: 'every row' },
        {
          id: 'north',
          name: 'North',
          where: parseCondition("parish = 'Harrow End'").condition,
          audience: { roles: ['desk'] },
        },
      ];
    }),
  );
  const of = async (who: string, called: string) =>
    (await viewsOf(who)).views.find(({ name }: { name: string }) => name === called);
  await keep('Programme desk', 'In the north', { view: 'north' }, ['sampler', 'desk']);
  expect([
    (await of('Programme desk', 'In the north')).standing.view,
    (await of('Sampler', 'In the north')).standing,
  ]).toEqual(['north', null]);
  const standing = { columns: 'name,email,parish', sort: 'email,-name', chart: 'bars;count;;email;' };
  await keep('Programme desk', 'With columns', standing, ['sampler', 'desk']);
  expect((await of('Programme desk', 'With columns')).standing).toMatchObject({ view: '', ...standing });
  expect((await of('Sampler', 'With columns')).standing).toEqual({ ...plain, columns: 'name,parish', sort: '-name' });
  // The tab is taken out: the view never opens wider instead.
  await publish((draft) => inList(draft, (list) => list.tabs!.pop()));
  expect((await of('Programme desk', 'In the north')).standing).toBeNull();
  await publish((draft) => inList(draft, (list) => delete list.tabs));
});

it('is shared with people by their addresses, of whom nothing is told', async () => {
  const { member } = (await people.Sampler!.get(`${portal}/me`)).body;
  const give = async (name: string, standing: object, addresses: string[]) =>
    (
      await people['Programme desk']!.post(at, {
        name,
        roles: [],
        people: addresses,
        standing: { ...plain, ...standing },
      })
    ).status;
  const of = async (who: string, name: string) =>
    (await viewsOf(who)).views.find((each: { name: string }) => each.name === name);
  const filter = "parish = 'Harrow End'";
  expect(await give('For Mara', { filter }, [` ${member.email.toUpperCase()}`])).toBe(400);
  expect(await give('For Mara', { filter }, [member.email.toUpperCase()])).toBe(201);
  expect(await of('Sampler', 'For Mara')).toMatchObject({ mine: false, people: [], standing: { ...plain, filter } });
  expect(await of('Programme desk', 'For Mara')).toMatchObject({ mine: true, people: [member.email] });
  // Whether there is such a member, and whether they get the list, changes no answer.
  expect(await give('For nobody', { filter }, ['nobody@example.org'])).toBe(201);
  expect(await of('Sampler', 'For nobody')).toBeUndefined();
  // What they don't see whole is not told by a filter either: it doesn't open.
  expect(await give('By e-mail', { filter: "email LIKE '%@example.org'" }, [member.email])).toBe(201);
  expect((await of('Sampler', 'By e-mail')).standing).toBeNull();
  expect(await give('Looked for', { search: 'brannock' }, [member.email])).toBe(422);
  expect(
    (await people.Sampler!.post(at, { name: 'Mine', roles: [], people: ['x@example.org'], standing: plain })).status,
  ).toBe(403);
});

it('compares with what is one’s own, and is everyone’s own where it is shared', async () => {
  const filter = 'sampler_id = :member.samplers.id';
  const counted = async (client: Client, where = filter) => {
    const { status, body } = await client.get(`${portal}/records/visits?${new URLSearchParams({ filter: where })}`);
    return status === 200 ? (body.total as number) : status;
  };
  // No sampler sees their own record so far: to compare with it would tell them of it.
  expect(await counted(people.Sampler!)).toBe(422);
  await publish((draft) => {
    const where = parseCondition('id = :member.samplers.id').condition;
    draft.access.samplers!.sampler = { see: { where, columns: ['id', 'name'] } };
    draft.pages.push({
      id: 'round',
      title: 'Round',
      intro: '',
      audience: { roles: ['sampler', 'desk'] },
      sections: [listOf('visits', ['well_id', 'sampler_id'], { shares: ['sampler'] })],
    });
  });
  const round = `${portal}/pages/round/visits`;
  const [first, second] = [people.Sampler!, demo.client()];
  const addresses = await demo.server.services.sources.get('views').rows(
    raw(`SELECT s.email, (SELECT COUNT(*) FROM visits v WHERE v.sampler_id = s.id) FROM samplers s
      WHERE s.active GROUP BY s.id`),
  );
  const own = new Map(addresses.map(([email, count]) => [String(email), Number(count)]));
  const mara = (await first.get(`${portal}/me`)).body.member.email as string;
  const other = [...own].find(([email, count]) => email !== mara && count !== own.get(mara))![0];
  await second.post(`${portal}/sign-in`, { email: other, password: demoPassword });
  expect([await counted(first), await counted(second)]).toEqual([own.get(mara), own.get(other)]);
  expect(await counted(people['Programme desk']!)).toBe(422);
  // The rest of their record is not theirs to see.
  expect(await counted(first, 'well.parish = :member.samplers.district')).toBe(422);
  const { pages } = (await first.get(`${portal}/me`)).body as {
    pages: { id: string; sections: { columns: { own?: object }[] }[] }[];
  };
  const list = pages.find(({ id }) => id === 'round')!.sections[0];
  expect(list!.columns.map(({ own: theirs }) => theirs)).toEqual([
    undefined,
    { value: ':member.samplers.id', said: 'you' },
  ]);
  const made = await first.post(`${round}/views`, {
    name: 'Mine',
    roles: ['sampler', 'desk'],
    standing: { ...plain, filter },
  });
  expect([made.status, made.body.detail]).toEqual([201, undefined]);
  const told = async (client: Client) => (await client.get(`${round}/views`)).body.views[0].standing;
  expect([await told(second), await told(people['Programme desk']!)]).toEqual([{ ...plain, filter }, null]);
});

it('has a name that hides nothing', async () => {
  for (const name of ['', ' ', 'a\u0000b', '\u202eevil', 'x'.repeat(61)])
    expect([name, (await keep('Sampler', name, {})).status]).toEqual([name, 400]);
});

it('is refused where the list could not be asked so, and changes nothing at another list', async () => {
  const before = JSON.stringify(await KeptView.findAll());
  // As the list itself would refuse it.
  for (const wrong of [
    { columns: 'name,nothing' },
    { columns: 'tax_number' },
    { sort: 'tax_number' },
    { sort: '__proto__' },
    { filter: ':member.owners.parish = parish' },
    { filter: "EXISTS (secrets WHERE x = '1')" },
  ] as Record<string, string>[]) {
    const list = `${portal}/pages/owners-of-wells/owners?${new URLSearchParams(wrong).toString()}`;
    const asked = await people['Programme desk']!.get(list);
    const { status, body } = await keep('Programme desk', 'Wrong', wrong);
    expect([wrong, status, body.detail]).toEqual([wrong, asked.status, asked.body.detail]);
    expect(status).toBeGreaterThanOrEqual(400);
  }
  const own = (await viewsOf('Programme desk')).views[0];
  const body = { name: 'Elsewhere', roles: [], standing: plain };
  const other = at.replace('owners-of-wells/owners', 'all-visits/visits');
  expect((await people['Programme desk']!.send('PUT', `${other}/${own.id}`, body)).status).toBe(404);
  expect((await people['Programme desk']!.send('DELETE', `${other}/${own.id}`)).status).toBe(404);
  expect((await people.Sampler!.send('DELETE', `${at}/${own.id}`)).status).toBe(404);
  expect(JSON.stringify(await KeptView.findAll())).toBe(before);
  // A mask that spares whoever shares it spares nobody else.
  const { member } = (await people['Programme desk']!.get(`${portal}/me`)).body;
  const phones = { id: 'phones', table: 'owners', column: 'phone', mask: { style: 'all' as const }, exceptRoles: [] };
  await publish((draft) => void draft.masks.push({ ...phones, to: ['desk'], exceptMembers: [member.email] }));
  const shared = await keep('Programme desk', 'By phone', { filter: 'phone IS NOT NULL' }, ['desk']);
  expect([shared.status, shared.body.detail]).toEqual([
    422,
    "The filter asks a column that Programme desk doesn't see whole, and would tell them of it.",
  ]);
  await publish((draft) => void (draft.masks = draft.masks.filter(({ id }) => id !== 'phones')));
});

it('is not of a list of another table that has its list’s name', async () => {
  const names = async () => (await viewsOf('Programme desk')).views.length;
  const before = await names();
  expect(before).toBeGreaterThan(0);
  const kept: ListSection[] = [];
  await publish((draft) => {
    inList(draft, (list) => kept.push(structuredClone(list)));
    inList(draft, (list) => Object.assign(list, listOf('visits', ['state'], { id: 'owners' })));
  });
  expect(await names()).toBe(0);
  await publish((draft) => inList(draft, (list) => Object.assign(list, kept[0])));
  expect(await names()).toBe(before);
});

it('follows its columns to new names', async () => {
  await keep('Programme desk', 'By parish', {
    columns: 'parish,name',
    sort: '-parish',
    filter: "parish = 'Harrow End' AND name LIKE 'I%'",
  });
  const renamed = await builder.post(`${bench}/shape/tables/owners/columns/parish/rename`, { to: 'district' });
  expect([renamed.status, renamed.body]).toEqual([204, null]);
  const found = (await viewsOf('Programme desk')).views.find(({ name }: { name: string }) => name === 'By parish');
  expect(found.standing).toMatchObject({
    columns: 'district,name',
    sort: '-district',
    filter: "district = 'Harrow End' AND name LIKE 'I%'",
  });
  const kept = encodeURIComponent(found.standing.filter);
  const list = await people['Programme desk']!.get(`${portal}/pages/owners-of-wells/owners?filter=${kept}`);
  expect([list.status, list.body.total > 0]).toEqual([200, true]);
});

it('goes along with its page to another address, and back', async () => {
  const before = await KeptView.count({ where: { page: 'owners-of-wells' } });
  expect(before).toBeGreaterThan(0);
  const move = (from: string, to: string) =>
    publish((draft) => void (draft.pages.find(({ id }) => id === from)!.id = to));
  await move('owners-of-wells', 'who-owns-wells');
  expect(await KeptView.count({ where: { page: 'who-owns-wells' } })).toBe(before);
  await move('who-owns-wells', 'owners-of-wells');
  expect(await KeptView.count({ where: { page: 'owners-of-wells' } })).toBe(before);
  // Two that are alike: it can't be told which of them it is now, so nothing is moved to a stranger's page.
  await publish((draft) => {
    const page = draft.pages.find(({ id }) => id === 'owners-of-wells')!;
    draft.pages.push({ ...structuredClone(page), id: 'one' }, { ...structuredClone(page), id: 'other' });
    draft.pages = draft.pages.filter(({ id }) => id !== 'owners-of-wells');
  });
  expect(await KeptView.count({ where: { page: 'owners-of-wells' } })).toBe(before);
});

it('goes with whoever kept it', async () => {
  expect(await KeptView.count()).toBeGreaterThan(0);
  const [kept] = await KeptView.findAll();
  await demo.server.services.store.sequelize.query(`DELETE FROM members WHERE id = ${kept!.memberId}`);
  expect(await KeptView.count({ where: { memberId: kept!.memberId } })).toBe(0);
});
