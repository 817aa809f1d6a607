import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
import { raw } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { when } from '../../test/wells';
import { OutboxMail } from '../store/people-models';

/** Forms that are opened with a record: made from it, changing it, with lines; what is kept is read with plain SQL. */

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
let owner: Client;
let desk: Client;
const portal = '/portals/alder-fen';
const bench = '/builder/portals/alder-fen';

async function publish(change: (draft: PortalDefinition) => void): Promise<void> {
  const { draft } = (await builder.get(bench)).body as { draft: PortalDefinition };
  change(draft);
  const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body as { revision: number };
  expect((await builder.post(`${bench}/versions`, { revision, note: '' })).status).toBe(201);
}

const signedIn = async (email: string): Promise<Client> => {
  const client = demo.client();
  expect((await client.post(`${portal}/sign-in`, { email, password: demoPassword })).status).toBe(200);
  return client;
};

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'opened', 'opened_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  owner = await signedIn('ines.brannock@example.org');
  desk = await signedIn('odile.fennimore@example.org');
  await publish((draft) => {
    draft.access.samples!.desk!.create = { columns: ['visit_id', 'bottle_code', 'lab_id', 'temperature_c'] };
    draft.access.visits!.public = { create: { columns: ['well_id', 'asked_on'] } };
    draft.access.wells!.public = { see: { where: when("state = 'active'"), columns: ['id', 'code'] } };
    draft.forms!.push(
      {
        id: 'note',
        title: 'A note for the sampler',
        table: 'visits',
        changes: true,
        steps: [
          {
            id: 'one',
            title: 'The note',
            parts: [
              { kind: 'fact', of: 'record', path: ['well', 'code'] },
              { kind: 'fact', of: 'record', path: ['sampler_id'] },
              { kind: 'input', column: 'access_note' },
              { kind: 'input', column: 'fee' },
            ],
          },
        ],
      },
      {
        id: 'with-bottles',
        title: 'A visit with its bottles',
        table: 'visits',
        from: 'wells',
        steps: [
          {
            id: 'one',
            title: 'The visit',
            parts: [
              { kind: 'input', column: 'asked_on', first: { kind: 'clock', what: 'today' } },
              {
                kind: 'lines',
                id: 'bottles',
                table: 'samples',
                by: 'visit_id',
                inputs: [{ column: 'bottle_code' }, { column: 'lab_id' }, { column: 'temperature_c' }],
                least: 1,
                most: 3,
              },
            ],
          },
        ],
        fills: { well_id: { kind: 'this' }, access_note: { kind: 'column', path: ['address'] } },
      },
    );
    const on = (id: string, form: string, roles: string[]) =>
      draft.pages.push({
        id,
        title: id,
        intro: '',
        audience: { roles },
        sections: [{ id: 'form', kind: 'form', form }],
      });
    on('note', 'note', ['well_owner', 'desk']);
    on('bottles', 'with-bottles', ['desk']);
  });
});
afterAll(async () => demo?.server.close());

const rows = async (text: string) =>
  (await demo.server.services.sources.get('opened').rows(raw(text))).map((row) =>
    row.map((value) => (value === null ? null : String(value))),
  );
const wellOf = async (where: string) =>
  (
    await rows(
      "SELECT w.id FROM wells w JOIN owners o ON o.id = w.owner_id WHERE o.email = 'ines.brannock@example.org' AND " +
        where,
    )
  )[0]![0]!;

it('makes a record from the one it is opened with, whose part in it nobody can forge', async () => {
  const id = await wellOf("w.treatment <> ''");
  const at = `${portal}/pages/ask-visit/form/form`;
  const { form } = (await owner.get(`${at}/with/${id}`)).body;
  expect(form.steps.map((step: { id: string }) => step.id)).toEqual(['well', 'treatment', 'day']);
  expect(form.facts['record:code'].value).toMatch(/^AF-/);
  expect(form.facts['member:owners.phone']).toMatchObject({ masked: false, column: { label: 'We ring you at' } });
  expect(Object.keys(form.first as object)).toEqual(['planned_for']);
  expect(JSON.stringify(form)).not.toContain('ofRecord');
  // What is filled unseen is no column of the form.
  const forged = await owner.post(at, { values: { access_note: 'x', well_id: '1' }, record: id });
  expect(forged.status).toBe(400);
  const values = { access_note: 'The gate sticks.', planned_for: '2027-01-12 10:00:00' };
  const before = await rows('SELECT MAX(id) FROM visits');
  expect((await owner.post(at, { values, record: id })).status).toBe(200);
  expect(
    await rows(`SELECT well_id, state, access_note, asked_on IS NOT NULL FROM visits WHERE id > ${before[0]![0]}`),
  ).toEqual([[id, 'asked', 'The gate sticks.', '1']]);
  // A well without any has no such step.
  await demo.server.services.sources
    .get('opened')
    .transaction((runner) => runner.write(raw(`UPDATE wells SET treatment = '' WHERE id = ${id}`)));
  const plain = (await owner.get(`${at}/with/${id}`)).body.form;
  expect(plain.steps.map((step: { id: string }) => step.id)).toEqual(['well', 'day']);
  // Somebody else's is as good as not there, and without one there is no form.
  const [[other]] = (await rows(
    `SELECT id FROM wells WHERE owner_id <> (SELECT owner_id FROM wells WHERE id = ${id}) LIMIT 1`,
  )) as [[string]];
  expect((await owner.get(`${at}/with/${other}`)).status).toBe(404);
  expect((await owner.post(at, { values, record: other })).status).toBe(404);
  expect((await owner.post(at, { values })).status).toBe(404);
});

it('changes the record that it is opened with, in what may be changed, and overwrites nothing unseen', async () => {
  const at = `${portal}/pages/note/form/form`;
  const [[id]] = (await rows(
    'SELECT v.id FROM visits v JOIN wells w ON w.id = v.well_id JOIN owners o ON o.id = w.owner_id ' +
      "WHERE o.email = 'ines.brannock@example.org' AND v.state = 'asked' LIMIT 1",
  )) as [[string]];
  const mine = (await owner.get(`${at}/with/${id}`)).body.form;
  // The fee is not theirs to change, and of the sampler they are shown nothing.
  expect([mine.changes, mine.inputs.map(({ path }: { path: string }) => path), Object.keys(mine.facts)]).toEqual([
    true,
    ['access_note'],
    ['record:well.code'],
  ]);
  const theirs = (await desk.get(`${at}/with/${id}`)).body.form;
  expect(theirs.inputs.map(({ path }: { path: string }) => path)).toEqual(['access_note', 'fee']);
  const seen = mine.first as Record<string, unknown>;
  const sent = (client: Client, values: object, of: object = seen) => client.post(at, { values, record: id, seen: of });
  expect((await sent(owner, { access_note: 'Ring twice.' })).body).toMatchObject({ id, receipt: null });
  expect((await sent(owner, { access_note: 'x', fee: '1' })).status).toBe(400);
  // The desk still has what was there before.
  const late = await sent(desk, { access_note: 'Dog is loose.', fee: '20.00' }, theirs.first as object);
  expect([late.status, late.body.fields.access_note]).toEqual([
    409,
    { was: seen.access_note, now: 'Ring twice.', yours: 'Dog is loose.' },
  ]);
  expect(await rows(`SELECT access_note FROM visits WHERE id = ${id}`)).toEqual([['Ring twice.']]);
  const now = { ...(theirs.first as object), access_note: 'Ring twice.' };
  expect((await sent(desk, { access_note: 'Dog is loose.', fee: '20.00' }, now)).status).toBe(200);
  expect(await rows(`SELECT access_note, fee FROM visits WHERE id = ${id}`)).toEqual([['Dog is loose.', '20.00']]);
  // A press is of one record: under the same id another is another press; what is no value is refused.
  const press = 'one-press-of-this-test';
  const twice = (of: string) =>
    desk
      .post(at, { values: { access_note: 'Pressed.' }, record: of, seen: {}, press })
      .then(({ body }) => body.id as string);
  const [[other]] = (await rows(`SELECT id FROM visits WHERE id <> ${id} LIMIT 1`)) as [[string]];
  expect([await twice(other), await twice(other), await twice(id)]).toEqual([other, other, id]);
  expect((await sent(desk, { access_note: { a: 1 } }, { access_note: [] })).status).toBe(422);
  expect((await sent(desk, { access_note: 'Dog is loose.' }, { access_note: 'Pressed.' })).status).toBe(200);
  // What nobody touched is not written, whoever changed it meanwhile.
  expect((await sent(owner, { access_note: seen.access_note ?? '' }, seen)).status).toBe(200);
  expect(await rows(`SELECT access_note FROM visits WHERE id = ${id}`)).toEqual([['Dog is loose.']]);
});

it('sends lines with it: all are kept or none, and what is wrong is said at its place', async () => {
  const at = `${portal}/pages/bottles/form/form`;
  const [[well, address]] = (await rows("SELECT id, address FROM wells WHERE state = 'active' LIMIT 1")) as [
    [string, string],
  ];
  const { form } = (await desk.get(`${at}/with/${well}`)).body;
  expect(form.lines.bottles.inputs.map(({ path }: { path: string }) => path)).toEqual([
    'bottle_code',
    'lab_id',
    'temperature_c',
  ]);
  // What the database asks for must be given.
  expect(form.steps[0].parts[1].inputs.map((input: { required?: true }) => input.required === true)).toEqual([
    true,
    true,
    false,
  ]);
  const counts = async () => rows('SELECT (SELECT COUNT(*) FROM visits), (SELECT COUNT(*) FROM samples)');
  const before = await counts();
  const send = (bottles: object[], client = desk) =>
    client.post(at, { values: { asked_on: '2026-11-28' }, record: well, lines: { bottles } });
  const bottle = (code: string, more = {}) => ({ bottle_code: code, lab_id: '1', ...more });
  const [[taken]] = (await rows('SELECT bottle_code FROM samples LIMIT 1')) as [[string]];
  const faults = async (bottles: object[]) => {
    const answer = await send(bottles);
    expect(answer.status).toBe(422);
    return Object.keys(answer.body.fields as object);
  };
  expect(await faults([])).toEqual(['~bottles']);
  expect(await faults([1, 2, 3, 4].map((i) => bottle(`X00000${i}`)))).toEqual(['~bottles']);
  expect(await faults([bottle('N0000001'), { lab_id: '1', temperature_c: 'warm' }])).toEqual([
    '~bottles.1.bottle_code',
    '~bottles.1.temperature_c',
  ]);
  // What only the database knows, and a lab that is not there.
  expect(await faults([bottle('N0000001'), bottle(taken)])).toEqual(['~bottles.1.bottle_code']);
  expect(await faults([bottle('N0000001'), bottle('N0000002', { lab_id: '99' })])).toEqual(['~bottles.1.lab_id']);
  expect((await send([bottle('N0000001', { visit_id: '1' })])).status).toBe(200);
  expect(await rows("SELECT COUNT(*) FROM samples WHERE bottle_code = 'N0000001' AND visit_id = 1")).toEqual([['0']]);
  expect((await send([bottle('N0000002'), bottle('N0000003', { temperature_c: '4.5' })])).status).toBe(200);
  const after = await counts();
  expect(after[0]!.map((count, i) => Number(count) - Number(before[0]![i]))).toEqual([2, 3]);
  expect(
    await rows(
      'SELECT s.bottle_code, s.temperature_c, v.well_id, v.access_note FROM samples s ' +
        "JOIN visits v ON v.id = s.visit_id WHERE s.bottle_code IN ('N0000002', 'N0000003') ORDER BY 1",
    ),
  ).toEqual([
    ['N0000002', null, well, address],
    ['N0000003', '4.5', well, address],
  ]);
  expect((await send([bottle('N0000009')], owner)).status).toBe(404);
});

it('a result that is signed is told to the owner of the well, by a service that sees who that is', async () => {
  const lead = await signedIn(
    (await rows("SELECT email FROM lab_staff WHERE kind = 'chemist' AND leads AND lab_id = 1 LIMIT 1"))[0]![0]!,
  );
  const [[id, email, code]] = (await rows(
    'SELECT r.id, o.email, w.code FROM results r JOIN samples s ON s.id = r.sample_id ' +
      'JOIN visits v ON v.id = s.visit_id JOIN wells w ON w.id = v.well_id JOIN owners o ON o.id = w.owner_id ' +
      "WHERE s.lab_id = 1 AND r.state = 'draft' " +
      'AND o.email IS NOT NULL LIMIT 1',
  )) as [[string, string, string]];
  const press = (action: string, asked = {}) =>
    lead.post(`${portal}/records/results/${id}/actions/${action}`, { asked });
  const state = () => rows(`SELECT state, remark FROM results WHERE id = ${id}`);
  expect((await press('sign-result')).status).toBe(403);
  expect((await press('submit-result')).status).toBe(200);
  expect((await press('send-back-result')).status).toBe(422);
  expect((await press('send-back-result', { remark: 'Look at the unit.' })).status).toBe(200);
  expect(await state()).toEqual([['draft', 'Look at the unit.']]);
  expect((await press('submit-result')).status).toBe(200);
  const mails = () => OutboxMail.findAll({ where: { kind: 'action' } });
  expect(await mails()).toEqual([]);
  expect((await press('sign-result')).status).toBe(200);
  expect((await state())[0]![0]).toBe('approved');
  const [mail, ...more] = await mails();
  expect([mail!.recipient, mail!.subject, more]).toEqual([email, `A result of your well ${code}`, []]);
});
