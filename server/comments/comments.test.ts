import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
import { raw } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { Comment, DiscussedRecord } from '../store/comment-models';
import { Builder } from '../store/models';
import { closeTalkOfGone } from './look-after-talk';

/** What is said of records: read, written and taken out by those whom grants let, as long as the record is there. */

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
const people: Record<string, Client> = {};
const portal = '/portals/alder-fen';
const bench = '/builder/portals/alder-fen';
let well = '';
let heir = 0;

const rows = (text: string) => demo.server.services.sources.get('talk').rows(raw(text));
const write = (text: string) => demo.server.services.sources.get('talk').write(raw(text));

async function publish(change: (draft: PortalDefinition) => void): Promise<void> {
  const { draft } = (await builder.get(bench)).body as { draft: PortalDefinition };
  // A well changes hands here, which one of them forbids.
  draft.promises = [];
  change(draft);
  const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body as { revision: number };
  const answer = await builder.post(`${bench}/versions`, { revision, note: '' });
  expect([answer.status, answer.body.detail]).toEqual([201, undefined]);
}

async function signedIn(email: string): Promise<Client> {
  const client = demo.client();
  expect((await client.post(`${portal}/sign-in`, { email, password: demoPassword })).status).toBe(200);
  return client;
}

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'talk', 'talk_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  for (const name of ['ines.brannock', 'mara.lindqvist', 'odile.fennimore'])
    people[name.split('.')[0]!] = await signedIn(`${name}@example.org`);
  [[well]] = (await rows("SELECT id FROM wells WHERE code = 'AF-0232'")) as [[string]];
  well = String(well);
  const [[id, email]] = (await rows(
    "SELECT id, email FROM owners WHERE email LIKE '%@example.org' AND email <> 'ines.brannock@example.org' LIMIT 1",
  )) as [[number, string]];
  heir = Number(id);
  people.heir = await signedIn(email);
});
afterAll(async () => demo?.server.close());

const at = (table: string, id: string) => `${portal}/records/${table}/${id}/comments`;
const say = (who: string, text: string, circle = 'forAll', where = at('wells', well)) =>
  people[who]!.post(where, { text, circle });
const said = async (who: string, where = at('wells', well)): Promise<[string | null, string][]> =>
  (
    (await people[who]!.get(where)).body.comments as {
      mine: boolean;
      name: string | null;
      role: string;
      text: string;
    }[]
  ).map(({ mine, name, role, text }) => [mine ? 'me' : (name ?? role), text]);

describe('comments', () => {
  it('are read by those of the circle, under the names that each of them sees', async () => {
    expect((await say('ines', ' The pump hums.\r\nSince May.\n')).status).toBe(201);
    expect((await say('odile', 'Noted.')).status).toBe(201);
    expect((await say('odile', 'She called twice.', 'amongUs')).status).toBe(201);
    // An owner is shown no row of the staff.
    expect(await said('ines')).toEqual([
      ['me', 'The pump hums.\nSince May.'],
      ['Programme desk', 'Noted.'],
    ]);
    expect(await said('odile')).toEqual([
      ['Ines Brannock', 'The pump hums.\nSince May.'],
      ['me', 'Noted.'],
      ['me', 'She called twice.'],
    ]);
    const { body } = await people.ines!.get(at('wells', well));
    expect([body.writes, body.earlier]).toEqual([['forAll'], 0]);
    expect((await people.odile!.get(at('wells', well))).body.writes).toEqual(['forAll', 'amongUs']);
    // Samplers are granted no comments on wells, and others' wells are nobody's: the same as a record that never was.
    for (const [who, id] of [
      ['mara', well],
      ['heir', well],
      ['ines', '999999'],
      ['odile', '999999'],
    ] as const) {
      const { status, body: problem } = await people[who]!.get(at('wells', id));
      expect([who, status, problem.detail]).toEqual([
        who,
        404,
        (await people.odile!.get(at('wells', '0'))).body.detail,
      ]);
      expect((await say(who, 'x', 'forAll', at('wells', id))).status).toBe(404);
    }
  });

  it('are not there for whoever has the record by a role that reads none', async () => {
    // Whoever samples a well is shown it; as an owner they read comments on others.
    const [[both, email]] = (await rows(
      `SELECT v.well_id, s.email FROM visits v JOIN samplers s ON s.id = v.sampler_id
        JOIN owners o ON LOWER(o.email) = LOWER(s.email) JOIN wells w ON w.id = v.well_id AND w.owner_id <> o.id
      LIMIT 1`,
    )) as [[number, string]];
    people.both = await signedIn(email);
    expect((await people.both.get(`${portal}/records/wells/${both}`)).status).toBe(200);
    expect((await people.both.get(at('wells', String(both)))).status).toBe(404);
  });

  it('are refused where they may not be said, or are nothing that can be read', async () => {
    expect((await say('ines', 'x', 'amongUs')).status).toBe(403);
    for (const text of ['', '  \n ', 'a\u0000b', 'a\u202eb', 'x'.repeat(4001)])
      expect([text.slice(0, 5), (await say('ines', text)).status]).toEqual([text.slice(0, 5), 400]);
    expect((await say('ines', 'x', 'everyone')).status).toBe(400);
    expect((await demo.client().get(at('wells', well))).status).toBe(401);
    expect((await builder.get(`${bench}/records/wells/${well}/comments`)).status).toBe(404);
  });

  it('say that a value is wrong to those who are shown it; whoever may change it puts in what was meant', async () => {
    const doubt = (who: string, wrong: object, text = '', circle = 'forAll') =>
      people[who]!.post(at('wells', well), { text, circle, wrong });
    const told = async (who: string) =>
      ((await people[who]!.get(at('wells', well))).body.comments as { id: number; wrong?: Record<string, unknown> }[])
        .filter(({ id }) => id === made)
        .map(({ wrong }) => wrong && { ...wrong, column: (wrong.column as { path: string }).path });
    await write(`UPDATE wells SET depth_m = 30.5 WHERE id = ${well}`);
    const faults: [string, object, number][] = [
      // It says so; it is no depth; nothing is said; they change it themselves; it isn't theirs to see; no column.
      ['ines', { column: 'depth_m', meant: '30.50' }, 422],
      ['ines', { column: 'depth_m', meant: 'deep' }, 422],
      ['ines', { column: 'depth_m' }, 422],
      ['ines', { column: 'treatment', meant: ['UV'] }, 409],
      ['ines', { column: 'latitude', meant: '50' }, 404],
      ['ines', { column: 'owner.name', meant: 'x' }, 404],
      ['ines', { column: 'depth', meant: '1' }, 404],
      ['heir', { column: 'depth_m', meant: '41.5' }, 404],
    ];
    for (const [who, wrong, status] of faults)
      expect([wrong, (await doubt(who, wrong)).status]).toEqual([wrong, status]);
    expect((await doubt('ines', { column: 'depth_m', meant: '41.5' }, '', 'amongUs')).status).toBe(403);
    const before = (await said('odile')).length;
    const { status, body } = await doubt('ines', { column: 'depth_m', meant: '41.5' });
    expect(status).toBe(201);
    const made = body.id as number;
    const open = { column: 'depth_m', was: '30.5', meant: '41.5', now: '30.5', isRight: false };
    expect(await told('ines')).toEqual([{ ...open, takes: false }]);
    expect(await told('odile')).toEqual([{ ...open, takes: true }]);
    // Under masks and hidden columns the words about them are kept as well, but from whoever wrote them.
    await publish((draft) => {
      const { see } = draft.access.wells!.desk!;
      see!.columns = see!.columns.filter((column) => column !== 'depth_m');
      draft.access.wells!.desk!.edit!.columns = ['parish'];
    });
    expect([await told('odile'), (await said('odile')).length]).toEqual([[], before]);
    expect((await people.odile!.send('DELETE', `${at('wells', well)}/${made}`)).status).toBe(404);
    await publish((draft) => {
      draft.access.wells!.desk!.see!.columns.push('depth_m');
      draft.access.wells!.desk!.edit!.columns = ['depth_m'];
      const { see } = draft.access.wells!.well_owner!;
      see!.columns = see!.columns.filter((column) => column !== 'depth_m');
    });
    expect(await told('ines')).toEqual([undefined]);
    await publish((draft) => draft.access.wells!.well_owner!.see!.columns.push('depth_m'));
    const column = (to: string, from: string) =>
      builder.post(`${bench}/shape/tables/wells/columns/${from}/rename`, { to });
    expect((await column('deep_m', 'depth_m')).status).toBe(204);
    expect(await told('odile')).toEqual([{ ...open, column: 'deep_m', takes: true }]);
    expect((await column('depth_m', 'deep_m')).status).toBe(204);
    // What is put in is an edit as any other.
    const changes = { depth_m: { from: '30.5', to: '41.5' } };
    expect((await people.odile!.send('PATCH', `${portal}/records/wells/${well}`, { changes })).status).toBe(200);
    expect(await told('odile')).toEqual([{ ...open, now: '41.5', isRight: true, takes: false }]);
    await Comment.destroy({ where: { id: made } });
  });

  it('are taken out by whoever wrote them, or may take out any; what is not read can’t be', async () => {
    const mine = (await say('ines', 'Wrong well.')).body.id as number;
    const desks = (await say('odile', 'For you.')).body.id as number;
    const inner = (await say('odile', 'Not for you.', 'amongUs')).body.id as number;
    const takeOut = async (who: string, id: number) =>
      (await people[who]!.send('DELETE', `${at('wells', well)}/${id}`)).status;
    expect([await takeOut('ines', desks), await takeOut('ines', inner), await takeOut('heir', mine)]).toEqual([
      403, 404, 404,
    ]);
    // By way of another record of their own it is not found either.
    const [[other]] = (await rows(
      `SELECT MIN(w.id) FROM wells w JOIN owners o ON o.id = w.owner_id WHERE o.email = 'ines.brannock@example.org'`,
    )) as [[string]];
    expect((await people.ines!.send('DELETE', `${at('wells', String(other))}/${mine}`)).status).toBe(404);
    expect([await takeOut('odile', mine), await takeOut('odile', mine)]).toEqual([204, 404]);
    expect([await takeOut('odile', desks), await takeOut('odile', inner)]).toEqual([204, 204]);
  });

  it('of a former owner stay theirs: the next reads what is said from then on', async () => {
    const give = (owner: string) => write(`UPDATE wells SET owner_id = ${owner} WHERE id = ${well}`);
    const ines = "(SELECT id FROM owners WHERE email = 'ines.brannock@example.org')";
    await give(String(heir));
    expect(await said('heir')).toEqual([]);
    expect((await people.ines!.get(at('wells', well))).status).toBe(404);
    await say('heir', 'It is ours now.');
    await say('odile', 'Welcome.');
    expect(await said('heir')).toEqual([
      ['me', 'It is ours now.'],
      ['Programme desk', 'Welcome.'],
    ]);
    expect((await said('odile')).length).toBe(5);
    await publish((draft) => (draft.access.wells!.well_owner!.comments!.earlier = true));
    expect((await said('heir')).map(([, text]) => text)).toEqual([
      'The pump hums.\nSince May.',
      'Noted.',
      'It is ours now.',
      'Welcome.',
    ]);
    await publish((draft) => delete draft.access.wells!.well_owner!.comments!.earlier);
    await give(ines);
    expect((await said('ines')).map(([, text]) => text)).toEqual(['The pump hums.\nSince May.', 'Noted.']);
  });

  it('are told in pieces, from the newest', async () => {
    const where = at('wells', well);
    const before = (await said('odile')).length;
    for (let i = 0; i < 55; i++) await say('odile', `No. ${i}`);
    const newest = (await people.odile!.get(where)).body;
    expect([newest.comments.length, newest.earlier]).toEqual([50, before + 5]);
    const older = (await people.odile!.get(`${where}?before=${newest.comments[0].id}`)).body;
    expect([older.comments.length, older.earlier, older.comments.at(-1).text]).toEqual([before + 5, 0, 'No. 4']);
    await Comment.destroy({ where: { text: Array.from({ length: 55 }, (_, i) => `No. ${i}`) } });
  });

  it('are looked at in Seen by and not changed; without sight of personal data they say nothing', async () => {
    const { members } = (await builder.get(`${bench}/members?search=ines.brannock`)).body as {
      members: { id: number }[];
    };
    const seen = `${bench}/as/${members[0]!.id}/records/wells/${well}/comments`;
    const { status, body } = await builder.get(seen);
    expect([status, body.comments[0].text, body.comments[0].mine]).toEqual([200, 'The pump hums.\nSince May.', true]);
    await Builder.update({ seesPersonal: false }, { where: {} });
    const unseen = (await builder.get(seen)).body.comments as { text: string | null; role: string }[];
    expect(unseen.map(({ text, role }) => [text, role])).toEqual([
      [null, 'Well owner'],
      [null, 'Programme desk'],
    ]);
    await Builder.update({ seesPersonal: true }, { where: {} });
    expect((await builder.post(seen, { text: 'x', circle: 'forAll' })).status).toBe(403);
    expect((await builder.send('DELETE', `${seen}/${body.comments[0].id}`)).status).toBe(403);
  });

  it('follow their table and the columns that tell records apart and whose they are to new names', async () => {
    const before = await said('ines');
    const rename = (path: string, to: string) => builder.post(`${bench}/shape/tables/${path}/rename`, { to });
    expect((await rename('wells/columns/owner_id', 'holder_id')).status).toBe(204);
    expect((await rename('wells/columns/id', 'number')).status).toBe(204);
    expect((await rename('wells', 'boreholes')).status).toBe(204);
    expect(await said('ines', at('boreholes', well))).toEqual(before);
    expect((await said('odile', at('boreholes', well))).length).toBe(5);
    expect((await rename('boreholes', 'wells')).status).toBe(204);
    expect((await rename('wells/columns/number', 'id')).status).toBe(204);
    expect((await rename('wells/columns/holder_id', 'owner_id')).status).toBe(204);
  });

  it('follow a record whose address is another column from now on', async () => {
    const before = await said('ines');
    await publish((draft) => (draft.tables.wells!.address = 'code'));
    const [[code]] = (await rows(`SELECT code FROM wells WHERE id = ${well}`)) as [[string]];
    const by = at('wells', encodeURIComponent(code));
    expect(await said('ines', by)).toEqual(before);
    await say('ines', 'By its code.', 'forAll', by);
    expect((await said('ines', by)).length).toBe(before.length + 1);
    await publish((draft) => delete draft.tables.wells!.address);
    expect((await said('ines')).length).toBe(before.length + 1);
  });

  it('come back when the deletion is undone by whoever deleted it, to the very same record alone', async () => {
    await publish((draft) => {
      draft.access.visits!.desk!.delete = { where: 'as seen' };
      draft.access.visits!.desk!.create!.columns.push('paid');
      draft.stamps = (draft.stamps ?? []).filter(({ table }) => table !== 'visits');
    });
    const others = 'well_id, asked_on, state, fee';
    const made = async (id: number, fee: number) => {
      await write(`INSERT INTO visits (id, ${others}) VALUES (${id}, ${well}, '2026-11-01', 'asked', ${fee})`);
      await say('odile', `Of ${id}.`, 'forAll', at('visits', String(id)));
    };
    const several = (who: string, body: object[]) =>
      people[who]!.post(`${portal}/records/visits/several`, { writes: body, mode: 'each by itself' });
    const again = async (was: number, fee: string): Promise<string> => {
      const create = { well_id: Number(well), asked_on: '2026-11-01', fee, paid: false };
      const answer = await several('odile', [{ create, inPlaceOf: String(was) }]);
      expect([answer.status, answer.body.outcomes[0].detail]).toEqual([200, undefined]);
      return answer.body.outcomes[0].id as string;
    };
    const talk = async (id: string) => (await said('odile', at('visits', id))).map(([, text]) => text);
    for (const [id, fee] of [
      [90_001, 10],
      [90_002, 20],
    ] as const)
      await made(id, fee);
    const gone = await several('odile', [{ delete: '90001' }, { delete: '90002' }]);
    expect(gone.body.outcomes.map(({ done }: { done: boolean }) => done)).toEqual([true, true]);
    // Another record than it was: not its talk.
    expect(await talk(await again(90_001, '10.01'))).toEqual([]);
    const back = await again(90_001, '10.00');
    expect(await talk(back)).toEqual(['Of 90001.']);
    // Once.
    expect(await talk(await again(90_001, '10.00'))).toEqual([]);
    // Not to whom something of the record is hidden: they would learn by trying what it held.
    await publish((draft) => {
      draft.access.visits!.desk!.see!.columns = draft.access.visits!.desk!.see!.columns.filter(
        (name) => name !== 'fee',
      );
    });
    await made(91_003, 30);
    await several('odile', [{ delete: '91003' }]);
    expect(await talk(await again(91_003, '30.00'))).toEqual([]);
    await publish((draft) => draft.access.visits!.desk!.see!.columns.push('fee'));
    // Not for somebody else, even if theirs is the same.
    await DiscussedRecord.update({ closedBy: 1 }, { where: { recordKey: '90002' } });
    expect(await talk(await again(90_002, '20.00'))).toEqual([]);
  });

  it('are over when the record is gone, whoever deletes it; a key that is used again begins anew', async () => {
    await publish((draft) => {
      draft.access.wells!.desk!.delete = { where: 'as seen' };
      draft.access.wells!.desk!.create!.columns.push('id');
    });
    const others = 'owner_id, address, postcode, parish, latitude, longitude, depth_m, casing, state, treatment';
    const make = (id: number) =>
      write(`INSERT INTO wells (id, code, ${others}) SELECT ${id}, 'N-${id}', ${others} FROM wells WHERE id = ${well}`);
    const talk = async (id: number) => (await said('odile', at('wells', String(id)))).map(([, text]) => text);
    for (const id of [70_001, 70_002]) {
      await make(id);
      await say('odile', `Of ${id}.`, 'forAll', at('wells', String(id)));
    }
    // Through the portal at once.
    expect((await people.odile!.send('DELETE', `${portal}/records/wells/70001`, {})).status).toBe(204);
    await make(70_001);
    expect(await talk(70_001)).toEqual([]);
    // By another program: seen when it is looked at, which is now and then.
    await write('DELETE FROM wells WHERE id = 70002');
    const later = () => new Date(Date.now() + 3600_000);
    await closeTalkOfGone(demo.server.services, later());
    await make(70_002);
    expect(await talk(70_002)).toEqual([]);
    // What is there stays.
    expect((await said('odile')).length).toBe(6);
    // Most of many are gone: another database stands in the place of theirs, and nothing is closed.
    for (let id = 70_100; id < 70_125; id++) {
      await make(id);
      await say('odile', 'One of many.', 'forAll', at('wells', String(id)));
    }
    await write('DELETE FROM wells WHERE id BETWEEN 70100 AND 70124');
    await closeTalkOfGone(demo.server.services, new Date(Date.now() + 3600_000 * 2));
    expect(await DiscussedRecord.count({ where: { closed: 0, recordKey: '70100' } })).toBe(1);
    // A database that can't be asked says nothing of its records.
    await say('odile', 'Still there.', 'forAll', at('wells', '70002'));
    await write('RENAME TABLE wells TO wells_away');
    await closeTalkOfGone(demo.server.services, new Date(Date.now() + 7200_000));
    await write('RENAME TABLE wells_away TO wells');
    expect(await DiscussedRecord.count({ where: { closed: 0, tableName: 'wells', recordKey: '70002' } })).toBe(1);
  });
});
