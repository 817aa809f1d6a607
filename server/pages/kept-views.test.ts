import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
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

const plain = { view: '', columns: '', search: '', filter: '', sort: '' };
const keep = (who: string, name: string, standing: object, roles: string[] = []) =>
  people[who]!.post(at, { name, roles, standing: { ...plain, ...standing } });
const viewsOf = async (who: string) => (await people[who]!.get(at)).body;

it('a view is kept by whoever made it, as it stands, and by nobody else', async () => {
  const standing = { columns: 'name,email', filter: "parish = 'Harrow End'", sort: '-parish,name', search: 'a' };
  const made = await keep('Programme desk', 'Harrow End', standing);
  expect(made.status).toBe(201);
  expect(await viewsOf('Programme desk')).toEqual({
    views: [{ id: made.body.id, name: 'Harrow End', mine: true, roles: [], standing: { ...plain, ...standing } }],
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
  expect((await keep('Programme desk', 'Wrong', { filter: 'nothing = 1' })).status).toBe(400);
  expect((await keep('Programme desk', 'Wrong', { filter: "tax_number = '1'" })).status).toBe(400);
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
  expect(await theirs()).toEqual([{ id: made.body.id, name: 'With a phone', mine: false, roles: [], standing }]);
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
  expect(await theirs()).toEqual([{ id: made.body.id, name: 'With a phone', mine: false, roles: [], standing: null }]);
  expect((await viewsOf('Programme desk')).views[0].standing).toEqual(standing);
  await publish((draft) => {
    draft.masks = draft.masks.filter(({ id }) => id !== 'phones');
    inList(draft, (list) => delete list.shares);
  });
  expect(await theirs()).toEqual([]);
  await publish((draft) => inList(draft, (list) => (list.shares = ['desk'])));
  expect(await theirs()).toHaveLength(1);
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

it('goes with whoever kept it', async () => {
  expect(await KeptView.count()).toBeGreaterThan(0);
  const [kept] = await KeptView.findAll();
  await demo.server.services.store.sequelize.query(`DELETE FROM members WHERE id = ${kept!.memberId}`);
  expect(await KeptView.count()).toBe(0);
});
