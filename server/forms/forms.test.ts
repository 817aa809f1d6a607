import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import type { Form } from '../../core/definition/form';
import type { PortalDefinition } from '../../core/definition/definition';
import { raw } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import type { Person } from '../../core/access/person';
import { FormSent, TurnedAway } from '../store/form-models';
import { KeptPress } from '../store/press-model';
import { forgetOldPresses } from '../presses/presses';
import { readReceipt } from './receipts';
import { inPlace, whySentEnough } from './sent-enough';
import { PublicForms } from './at-the-public-form';

/** Forms sent over the API, by members and by whoever comes; what is in the tables is read with plain SQL. */

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
let desk: Client;
const portal = '/portals/alder-fen';
const bench = '/builder/portals/alder-fen';
const open = `${portal}/public/pages/ask/form/form`;

async function publish(change: (draft: PortalDefinition) => void): Promise<void> {
  const { draft } = (await builder.get(bench)).body as { draft: PortalDefinition };
  change(draft);
  const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body as { revision: number };
  expect((await builder.post(`${bench}/versions`, { revision, note: '' })).status).toBe(201);
}

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'forms', 'forms_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  desk = demo.client();
  await desk.post(`${portal}/sign-in`, { email: 'odile.fennimore@example.org', password: demoPassword });
  await publish((draft) => {
    const asked = draft.forms!.find(({ id }) => id === 'test-request')!;
    const visit: Form = {
      id: 'new-visit',
      title: 'A new visit',
      table: 'visits',
      steps: [
        {
          id: 'one',
          title: 'The visit',
          parts: [
            { kind: 'input', column: 'well_id' },
            { kind: 'input', column: 'asked_on', first: { kind: 'clock', what: 'today' } },
            { kind: 'input', column: 'seal_number' },
          ],
        },
      ],
      fills: { access_note: { kind: 'member', fact: ['email'] } },
      oneEach: true,
    };
    draft.forms = [asked, visit];
    draft.pages.push({
      id: 'visit-form',
      title: 'A visit',
      intro: '',
      audience: { roles: ['desk'] },
      sections: [{ id: 'form', kind: 'form', form: 'new-visit' }],
    });
  });
});
afterAll(async () => demo?.server.close());
const rows = async (where: string) =>
  (await demo.server.services.sources
    .get('forms')
    .rows(
      raw(`SELECT name, email, parish, phone, message FROM test_requests WHERE ${where} ORDER BY id`),
    )) as unknown[][];
const opened = (client: Client, ago = 60_000) =>
  client
    .get(open)
    .then(({ body }) => {
      expect(body.ticket).toMatch(/^\d+\./);
      return body.ticket as string;
    })
    .then((ticket) => (ago === 0 ? ticket : aged(ago)));
/** As the server said it a while ago. */
const aged = (ago: number) => demo.server.services.publicForms.ticket(1, 'test-request', new Date(Date.now() - ago));

const asking = { name: 'Ada Reed', email: 'ada@example.org', parish: 'Harrow End', phone: '', message: 'Is it hard?' };

it('whoever comes sends a public form, once however often it is sent, and sees nothing of what is there', async () => {
  const visitor = demo.client();
  const ticket = await opened(visitor);
  const body = { values: asking, ticket, press: 'first-press-of-this-test' };
  const answers = await Promise.all(Array.from({ length: 5 }, () => visitor.post(open, body)));
  expect(answers.filter(({ status }) => status === 200).length).toBeGreaterThan(0);
  expect((await visitor.post(open, body)).status).toBe(200);
  expect(await rows("name = 'Ada Reed'")).toEqual([['Ada Reed', 'ada@example.org', 'Harrow End', null, 'Is it hard?']]);
  const { body: sent } = answers.find(({ status }) => status === 200)!;
  expect([sent.id, sent.says]).toEqual([null, expect.stringContaining('Thank you')]);
  expect((await visitor.get(`${portal}/public/records/test_requests`)).status).toBe(404);
  expect((await visitor.post(`${portal}/public/records/test_requests`, { values: asking })).status).toBe(401);
});

it('faults are said by column, what is not asked never arrives, what the form does not know is refused', async () => {
  const visitor = demo.client();
  const ticket = await opened(visitor);
  const send = (values: object) => visitor.post(open, { values, ticket });
  const empty = await send({ name: '', email: 'not an address', parish: '' });
  expect([empty.status, Object.keys(empty.body.fields as object).sort()]).toEqual([422, ['email', 'name', 'parish']]);
  // Without a number the day is not asked for.
  expect((await send({ ...asking, name: 'No Day', wished_for: '2027-01-05' })).status).toBe(200);
  const [[day]] = (await demo.server.services.sources
    .get('forms')
    .rows(raw("SELECT wished_for FROM test_requests WHERE name = 'No Day'"))) as [[unknown]];
  expect(day).toBeNull();
  expect((await send({ ...asking, id: 7 })).status).toBe(400);
});

it('what was sent is corrected by its receipt, until somebody takes it up or half an hour is over', async () => {
  const visitor = demo.client();
  const send = async (name: string) => {
    const answer = await visitor.post(open, { values: { ...asking, name }, ticket: await opened(visitor) });
    return answer.body.receipt as string;
  };
  const receipt = await send('Bo Fen');
  const correct = (by: string, name: string) =>
    visitor.send('PATCH', open, { receipt: by, values: { ...asking, name } });
  expect((await correct(receipt, 'Bo Fenn')).status).toBe(204);
  expect((await correct(receipt, '')).status).toBe(422);
  expect(await rows("name LIKE 'Bo%'")).toHaveLength(1);
  expect((await correct('somebody-elses', 'Mallory')).status).toBe(410);
  const { portalId } = (await KeptPress.findOne())!;
  await expect(readReceipt(portalId, 'another-form', receipt)).rejects.toMatchObject({ status: 410 });
  expect(await readReceipt(portalId, 'test-request', receipt)).toMatchObject({ id: expect.any(String) });
  // The server keeps no receipt itself; whoever sends the same again gets the same one.
  const pressed = {
    values: { ...asking, name: 'Di Twice' },
    ticket: await opened(visitor),
    press: 'twice-of-this-test',
  };
  const [one, other] = [await visitor.post(open, pressed), await visitor.post(open, pressed)];
  expect([one.body, (await rows("name = 'Di Twice'")).length]).toEqual([other.body, 1]);
  const kept = JSON.stringify(await KeptPress.findAll());
  for (const secret of [receipt, one.body.receipt as string]) expect(kept).not.toContain(secret);

  const [[id]] = (await demo.server.services.sources
    .get('forms')
    .rows(raw("SELECT id FROM test_requests WHERE name = 'Bo Fenn'"))) as [[number]];
  await demo.server.services.sources
    .get('forms')
    .write(raw(`UPDATE test_requests SET message = 'seen to' WHERE id = ${Number(id)}`));
  expect((await correct(receipt, 'Bo Changed')).status).toBe(403);
  const late = await send('Cy Late');
  await KeptPress.update({ begunAt: new Date(Date.now() - 30 * 60_000 - 1) }, { where: {} });
  expect((await correct(late, 'Cy Later')).status).toBe(410);
  // And soon nothing of it is kept, while the press is known still.
  await forgetOldPresses(new Date());
  for (const { receiptHash, correctable, answer } of await KeptPress.findAll())
    expect([receiptHash, correctable, answer]).toEqual([null, null, expect.any(String)]);
  expect((await rows("name LIKE 'Cy%' OR name LIKE 'Bo%'")).map(([name]) => name)).toEqual(['Bo Fenn', 'Cy Late']);
});

it('robots are turned away, each with its reason, and nothing is noted of who they were', async () => {
  const visitor = demo.client();
  const count = async () => (await rows('TRUE')).length;
  const before = await count();
  await TurnedAway.destroy({ where: {} });
  const trapped = await visitor.post(open, { values: asking, ticket: await opened(visitor), further: 'http://spam' });
  expect([trapped.status, trapped.body.says]).toEqual([200, expect.stringContaining('Thank you')]);
  expect((await visitor.post(open, { values: asking, ticket: await opened(visitor, 0) })).status).toBe(429);
  expect((await visitor.post(open, { values: asking, ticket: '1.forged' })).status).toBe(409);
  expect((await visitor.post(open, { values: asking })).status).toBe(409);
  const often = await Promise.all(
    Array.from({ length: 30 }, (_, i) =>
      visitor.post(open, { values: { ...asking, name: `Robot ${i}` }, ticket: aged(60_000) }),
    ),
  );
  expect(often.filter(({ status }) => status === 429).length).toBeGreaterThan(5);
  expect(await count()).toBe(before + often.filter(({ status }) => status === 200).length);
  const noted = await TurnedAway.findAll();
  const times = (reason: string) =>
    noted.filter(({ why }) => why === reason).reduce((sum, each) => sum + each.times, 0);
  expect(new Set(noted.map(({ why }) => why))).toEqual(
    new Set(['filled the trap', 'too quick', 'without a ticket', 'too often']),
  );
  const told = (await builder.get(`${bench}/forms/test-request/turned-away`)).body.turnedAway as {
    why: string;
    times: number;
  }[];
  expect(Object.fromEntries(told.map(({ why, times }) => [why, times]))).toEqual({
    'filled the trap': 1,
    'too quick': 1,
    'without a ticket': 2,
    'too often': times('too often'),
  });
  expect(JSON.stringify(noted)).not.toMatch(/127\\.0\\.0\\.1|::1/);
});

it('in all no more is taken than is said, whoever sends', async () => {
  const forms = new PublicForms(Buffer.alloc(32), { byAll: 3, least: 0 });
  const at = { portalId: 1, form: 'test-request' };
  const now = new Date();
  const tries = Array.from({ length: 5 }, (_, i) =>
    forms.refuse({}, at, { address: `10.0.0.${i}`, trap: '', ticket: forms.ticket(1, 'test-request', now), now }).then(
      () => 'taken',
      (error: Error) => error.message,
    ),
  );
  expect((await Promise.all(tries)).filter((each) => each === 'taken')).toHaveLength(3);
});

it('of those who want the last place at the same moment one gets it', async () => {
  const at = { portalId: 1, person: { kind: 'visitor' as const, id: null } as Person };
  const few = { id: 'few', most: 3 } as Form;
  const tries = Array.from({ length: 12 }, (_, i) =>
    inPlace(at, few, async () => {
      if (i === 0) throw new Error('not kept');
      return 'kept';
    }).catch((error: Error) => error.message),
  );
  const came = await Promise.all(tries);
  expect(came.filter((each) => each === 'kept').length).toBeLessThanOrEqual(3);
  // What was not kept holds no place, and whoever comes after gets it.
  while ((await whySentEnough(at, few)) === null) await inPlace(at, few, () => Promise.resolve());
  await expect(inPlace(at, few, () => Promise.resolve())).rejects.toThrow('as often as it can be');
  expect(await FormSent.count({ where: { form: 'few' } })).toBe(3);
});

it('a form is no right: what somebody may not fill is not asked, what is filled unseen is the server’s', async () => {
  const me = (await desk.get(`${portal}/me`)).body as {
    pages: { id: string; sections: { form: { steps: { parts: object[] }[]; first: object } }[] }[];
  };
  const { form } = me.pages.find(({ id }) => id === 'visit-form')!.sections[0]!;
  expect(form.steps[0]!.parts).toEqual([
    { kind: 'input', column: 'well_id', required: true },
    { kind: 'input', column: 'asked_on', required: true },
  ]);
  expect(form.first).toMatchObject({ asked_on: expect.stringMatching(/^\d{4}-\d{2}-\d{2}$/) as string });
  const at = `${portal}/pages/visit-form/form/form`;
  const send = (values: object) => desk.post(at, { values });
  expect((await send({ well_id: 231, asked_on: '2026-11-20', access_note: 'forged' })).status).toBe(400);
  const tried = await builder.post(`${bench}/as/1/pages/visit-form/form/form`, { values: {} });
  expect(tried.status).toBeGreaterThanOrEqual(400);
  const sent = await send({ well_id: 231, asked_on: '2026-11-20' });
  expect([sent.status, typeof sent.body.id]).toEqual([200, 'string']);
  const [[note]] = (await demo.server.services.sources
    .get('forms')
    .rows(raw(`SELECT access_note FROM visits WHERE id = ${Number(sent.body.id)}`))) as [[string]];
  expect(note).toBe('odile.fennimore@example.org');
  // Once by each.
  const again = await send({ well_id: 231, asked_on: '2026-11-21' });
  expect([again.status, again.body.detail]).toEqual([409, 'You have sent this form already.']);
  expect((await demo.client().post(at, { values: {} })).status).toBe(401);
});

it('what a form takes from a link alone is what the link says, which only the server makes', async () => {
  await publish((draft) => {
    const parts: Form['steps'][number]['parts'] = [
      { kind: 'input', column: 'well_id', signed: true },
      { kind: 'input', column: 'access_note' },
      { kind: 'input', column: 'asked_on', first: { kind: 'clock', what: 'today' } },
    ];
    const steps = [{ id: 'one', title: 'The visit', parts }];
    draft.forms!.push({ id: 'to-a-well', title: 'A visit to a well', table: 'visits', corrects: true, steps });
    draft.pages.find(({ id }) => id === 'visit-form')!.sections.push({ id: 'linked', kind: 'form', form: 'to-a-well' });
  });
  const make = (well_id: unknown, until: string | null = null) =>
    builder.post(`${bench}/forms/to-a-well/links`, { page: 'visit-form', values: { well_id }, until });
  const wrong = await make('no well');
  expect([wrong.status, Object.keys(wrong.body.fields as object)]).toEqual([422, ['well_id']]);
  const signedIn = async (until?: string) =>
    new URL(String((await make(231, until)).body.link)).searchParams.get('signed')!;
  const signed = await signedIn();
  const at = `${portal}/pages/visit-form/linked/form`;
  const values = { well_id: 5, access_note: 'by a link', asked_on: '2026-11-20' };
  const [text, proof] = signed.split('.') as [string, string];
  const forged = Buffer.from(Buffer.from(text, 'base64url').toString().replace('231', '5')).toString('base64url');
  const others = [undefined, `${forged}.${proof}`, 'x', `${text}.`, await signedIn('2020-01-01')];
  const answers: number[] = [];
  for (const each of others) answers.push((await desk.post(at, { values, signed: each })).status);
  expect(answers).toEqual([403, 403, 403, 403, 410]);
  const kept = () =>
    demo.server.services.sources
      .get('forms')
      .rows(raw("SELECT well_id, access_note FROM visits WHERE access_note LIKE 'by a link%'"));
  expect(await kept()).toEqual([]);
  // Whatever stands in what is sent, the link is what counts.
  const sent = await desk.post(at, { values, signed });
  expect([sent.status, await kept()]).toEqual([200, [[231, 'by a link']]]);
  const { receipt } = sent.body;
  const corrected = { receipt, values: { ...values, access_note: 'by a link, corrected' } };
  expect((await desk.send('PATCH', at, corrected)).status).toBe(403);
  expect((await desk.send('PATCH', at, { ...corrected, signed })).status).toBe(204);
  expect(await kept()).toEqual([[231, 'by a link, corrected']]);
  // Of another form, or another portal, it says nothing.
  const { signedLinks } = demo.server.services;
  const form = { id: 'to-a-well', steps: [{ parts: [{ kind: 'input', column: 'well_id', signed: true }] }] } as Form;
  expect(signedLinks.read(1, form, signed, '2026-11-20')).toEqual({ well_id: 231 });
  expect(() => signedLinks.read(2, form, signed, '2026-11-20')).toThrow('made for you');
  expect(() => signedLinks.read(1, { ...form, id: 'other' }, signed, '2026-11-20')).toThrow('made for you');
});
