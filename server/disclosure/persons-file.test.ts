import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { raw } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { emptyDefinition } from '../../core/definition/definition';
import { Builder, Portal } from '../store/models';
import { Member } from '../store/people-models';

/** A person's file: all of theirs, held against plain SQL, and nothing of anybody else. */

interface PersonsFile {
  person: { name: string; email: string };
  roles: { now: string[] };
  rowsOfRosters: { table: string; key: string; values: Record<string, unknown> }[];
  comments: { text?: string; record: string }[];
  changesTheyMade: { table: string; record: string; made: string }[];
  recordsShownAsTheirs: { table: string; id: string; values: Record<string, unknown> }[];
  inTheLog: { who: string; what: string; about: string }[];
}

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
let ines: Client;
let member = 0;
const bench = '/builder/portals/alder-fen';
const portal = '/portals/alder-fen';

const rows = (text: string) => demo.server.services.sources.get('disclosure').rows(raw(text));

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'disclosure', 'disclosure_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  ines = demo.client();
  const email = 'ines.brannock@example.org';
  expect((await ines.post(`${portal}/sign-in`, { email, password: demoPassword })).status).toBe(200);
  member = (await Member.findOne({ where: { email }, rejectOnEmpty: true })).id;
});
afterAll(async () => demo?.server.close());

it('holds all that is theirs and what the log knows of them, and nothing of others', async () => {
  const [[well, owner]] = (await rows("SELECT id, owner_id FROM wells WHERE code = 'AF-0232'")) as [[number, number]];
  const at = `${portal}/records/wells/${well}`;
  const said = 'The lid is „loose“, 50 % of it.\nSee to it.';
  expect((await ines.post(`${at}/comments`, { text: said, circle: 'forAll' })).status).toBe(201);
  const { record } = (await ines.get(`${at}?columns=treatment`)).body as {
    record: { values: { treatment: string[] } };
  };
  const to = record.values.treatment.includes('UV') ? [] : ['UV'];
  const changes = { treatment: { from: record.values.treatment, to } };
  expect((await ines.send('PATCH', at, { changes })).status).toBe(200);
  await builder.get(`${bench}/as/${member}/records/wells?size=1`);

  const answer = await builder.get(`${bench}/members/${member}/file`);
  expect([answer.status, answer.headers.get('content-disposition')]).toEqual([
    200,
    `attachment; filename=alder-fen-person-${member}.json`,
  ]);
  const text = typeof answer.body === 'string' ? answer.body : JSON.stringify(answer.body);
  const file = (typeof answer.body === 'string' ? JSON.parse(text) : answer.body) as PersonsFile;
  expect(file.person).toMatchObject({ email: 'ines.brannock@example.org' });
  expect(file.roles.now.length).toBeGreaterThan(0);
  const [row] = await rows(`SELECT phone, parish FROM owners WHERE id = ${owner}`);
  const own = file.rowsOfRosters.find(({ table }) => table === 'Owners')!;
  expect([own.key, own.values.Phone, own.values.Parish]).toEqual([String(owner), ...row!]);
  expect(file.comments.map((each) => [each.record, each.text])).toContainEqual([String(well), said]);
  expect(file.changesTheyMade).toMatchObject([{ table: 'wells', record: String(well), made: 'changed' }]);
  expect(file.inTheLog.map(({ what }) => what)).toEqual(expect.arrayContaining(['signed in', 'read as', 'exported']));
  // Their wells and visits are those that plain SQL says are theirs; a sampler's role of theirs may add others.
  const ids = (table: string) => file.recordsShownAsTheirs.filter((each) => each.table === table).map(({ id }) => id);
  const wells = (await rows(`SELECT id FROM wells WHERE owner_id = ${owner} ORDER BY id`)).map(([id]) => String(id));
  const visits = (
    await rows(`SELECT v.id FROM visits v JOIN wells w ON w.id = v.well_id WHERE w.owner_id = ${owner} ORDER BY v.id`)
  ).map(([id]) => String(id));
  expect([ids('Wells').toSorted(), ids('Visits').toSorted()]).toEqual([wells.toSorted(), visits.toSorted()]);
  expect(wells.length).toBeGreaterThan(0);
  // Of other owners nothing is in it.
  for (const [email, phone] of await rows(`SELECT email, phone FROM owners WHERE id <> ${owner} AND email <> ''`)) {
    expect(text).not.toContain(String(email));
    if (phone) expect(text).not.toContain(String(phone));
  }
});

it('is for those who see personal data, and stands in the log', async () => {
  const { entries } = (await builder.get(`${bench}/log?what=exported`)).body as { entries: { about: string }[] };
  expect(entries[0]!.about).toMatch(/^the file of Ines Brannock </);
  await Builder.update({ seesPersonal: false }, { where: { email: 'builder@example.org' } });
  expect((await builder.get(`${bench}/members/${member}/file`)).status).toBe(403);
  await Builder.update({ seesPersonal: true }, { where: { email: 'builder@example.org' } });
  expect((await builder.get(`${bench}/members/999999/file`)).status).toBe(404);
  // Another portal that knows the address is told to those alone who build it.
  const draft = JSON.stringify(
    emptyDefinition({ slug: 'other', name: 'Other', timeZone: 'UTC', colour: '#1f5f85' }, 'x'),
  );
  const other = await Portal.create({ slug: 'other', draft, revision: 1, publishedVersion: null });
  const email = 'ines.brannock@example.org';
  await Member.create({ portalId: other.id, email, name: 'Ines', onRoster: true, passwordHash: null });
  const alsoIn = async () => {
    const { body } = await builder.get(`${bench}/members/${member}/file`);
    return (typeof body === 'string' ? JSON.parse(body) : body) as { alsoIn: string[] };
  };
  expect((await alsoIn()).alsoIn).toEqual(['other']);
  const mine = await Portal.findOne({ where: { slug: 'alder-fen' }, rejectOnEmpty: true });
  await Builder.update(
    { portals: JSON.stringify([mine.id]), right: 'builder' },
    { where: { email: 'builder@example.org' } },
  );
  expect((await alsoIn()).alsoIn).toEqual([]);
  expect((await ines.get(`${bench}/members/${member}/file`)).status).toBe(401);
});
