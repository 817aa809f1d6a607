import { Op } from 'sequelize';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
import { raw } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { sendMails } from '../outbox/send-mails';
import { OutboxMail } from '../store/people-models';
import { KeptPress } from '../store/press-model';

/** Presses as they come over the API, on the demo; what is in its tables is read with plain SQL. */

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
const people: Record<string, Client> = {};
const portal = '/portals/alder-fen';
let samplersAddress = '';
let ownersAddress = '';

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'actions', 'actions_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  const doors = (await demo.client().get(`${portal}/door`)).body.demo.people as { email: string; role: string }[];
  for (const role of ['Accounts', 'Sampler', 'Well owner']) {
    people[role] = demo.client();
    const { email } = doors.find((each) => each.role === role)!;
    if (role === 'Sampler') samplersAddress = email;
    if (role === 'Well owner') ownersAddress = email;
    await people[role].post(`${portal}/sign-in`, { email, password: demoPassword });
  }
});
afterAll(async () => demo?.server.close());

const source = () => demo.server.services.sources.get('actions');
const plain = async (sql: string) => source().rows(raw(sql));
const planned = async (id: number) =>
  String((await plain(`SELECT DATE_FORMAT(planned_for, '%Y-%m-%d %H:%i') p FROM visits WHERE id = ${id}`))[0]![0]);
const idsOf = async (where: string) =>
  (await plain(`SELECT id FROM visits WHERE ${where} ORDER BY id`)).map(([id]) => Number(id));

const daysLater = (moment: string, days: number) =>
  new Date(Date.parse(`${moment.replace(' ', 'T')}Z`) + days * 86_400_000).toISOString().slice(0, 16).replace('T', ' ');

it('a press that comes twice, or ten times at once, is done once; another one is another', async () => {
  const [id] = (await idsOf("state = 'planned' AND planned_for IS NOT NULL")) as [number];
  const at = `${portal}/records/visits/${id}/actions/put-off`;
  const before = await planned(id);
  const answers = await Promise.all(
    Array.from({ length: 10 }, () => people.Accounts!.post(at, { press: 'the-same-press-of-this-test' })),
  );
  expect(await planned(id)).toBe(daysLater(before, 14));
  expect(answers.some(({ status }) => status === 200)).toBe(true);
  // Those that came in between are told that it is being done, and nothing else.
  for (const { status, body } of answers)
    expect(status === 200 || String(body.type).endsWith(':being-done')).toBe(true);
  const again = await people.Accounts!.post(at, { press: 'the-same-press-of-this-test' });
  expect([again.status, String(again.body.record.values.planned_for).slice(0, 16)]).toEqual([
    200,
    daysLater(before, 14),
  ]);
  expect((await people.Accounts!.post(at, { press: 'another-press-of-this-test' })).status).toBe(200);
  expect(await planned(id)).toBe(daysLater(before, 28));
  // What was seen of a record is not kept beside the press.
  for (const { answer } of await KeptPress.findAll()) expect(answer).not.toContain('planned');
});

it('what was refused is not counted as pressed, and what nobody knows is not done again', async () => {
  const [id] = (await idsOf("state = 'reported'")) as [number];
  const at = `${portal}/records/visits/${id}/actions/put-off`;
  for (let i = 0; i < 2; i++)
    expect((await people.Accounts!.post(at, { press: 'refused-press-of-this-test' })).status).toBe(403);
  const [other] = (await idsOf("state = 'planned' AND planned_for IS NOT NULL")) as [number];
  const before = await planned(other);
  const to = `${portal}/records/visits/${other}/actions/put-off`;
  expect((await people.Accounts!.post(to, { press: 'lost-press-of-this-test' })).status).toBe(200);
  // As if the server had been stopped before it could say what came of it, a while ago.
  await KeptPress.update({ answer: null, begunAt: new Date(Date.now() - 600_000) }, { where: {} });
  const lost = await people.Accounts!.post(to, { press: 'lost-press-of-this-test' });
  expect([lost.status, lost.body.type]).toEqual([409, 'urn:stone-porch:problem:outcome-unknown']);
  expect(await planned(other)).toBe(daysLater(before, 14));
});

it('several are done each by itself, and every one that is not is named with its reason', async () => {
  const open = (await idsOf("state = 'asked' AND planned_for IS NOT NULL OR state = 'planned'")).slice(0, 40);
  const shut = (await idsOf("state = 'reported'")).slice(0, 3);
  const before = await Promise.all(open.map(planned));
  const answer = await people.Accounts!.post(`${portal}/records/visits/actions/put-off`, {
    ids: [...shut, ...open].map(String),
    press: 'many-of-this-test',
  });
  const outcomes = answer.body.outcomes as { id: string; done: boolean; detail?: string }[];
  expect(outcomes.filter(({ done }) => !done)).toEqual(
    shut.map((id) => expect.objectContaining({ id: String(id), detail: "This can't be done with this record now." })),
  );
  expect(await Promise.all(open.map(planned))).toEqual(before.map((each) => daysLater(each, 14)));
  const alone = await people.Sampler!.post(`${portal}/records/visits/actions/close-visit`, { ids: ['1'] });
  expect(alone.status).toBe(404);
});

it('with many it is a job, in one transaction, which is begun once however often it is pressed', async () => {
  const open = (await idsOf("state IN ('asked', 'planned') AND planned_for IS NOT NULL")).slice(0, 40);
  const shut = (await idsOf("state = 'reported'")).slice(0, 3);
  const at = `${portal}/records/visits/actions/put-off/job`;
  const before = await Promise.all(open.map(planned));
  const order = { ids: [...open, ...shut].map(String), press: 'a-job-of-this-test' };
  const begun = await Promise.all([people.Accounts!.post(at, order), people.Accounts!.post(at, order)]);
  const [first] = begun.filter(({ status }) => status === 202);
  for (const { status, body } of begun)
    expect(status === 202 ? body.id === first!.body.id : String(body.type).endsWith(':being-done')).toBe(true);
  // Pressed once more it is the same job.
  const { id: again, state, result } = await people.Accounts!.ended(`${portal}/jobs`, at, order);
  expect(again).toBe(first!.body.id);
  expect([state, result]).toMatchObject([
    'done',
    {
      done: open.length,
      refused: shut.map(String),
      reasons: shut.map((id) => ({ id: String(id), detail: "This can't be done with this record now." })),
    },
  ]);
  expect(await Promise.all(open.map(planned))).toEqual(before.map((each) => daysLater(each, 14)));
  const foreign = await people['Well owner']!.post(at, { ids: open.map(String) });
  expect([foreign.status, (await people.Sampler!.get(`${portal}/jobs/${String(first!.body.id)}`)).status]).toEqual([
    404, 404,
  ]);
  expect((await people.Accounts!.post(at, { ids: [String(open[0])], asked: { stray: 1 } })).status).toBe(400);
});

it('a relation of what is made leads to the record, and is stamped as everything made there', async () => {
  const definition = (await builder.get('/builder/portals/alder-fen/definition')).body as PortalDefinition;
  definition.actions!.push({
    id: 'ask-at-once',
    name: 'Ask at once',
    table: 'wells',
    roles: ['well_owner'],
    asks: [{ id: 'access_note', table: 'visits', column: 'access_note' }],
    steps: [
      {
        kind: 'make',
        table: 'visits',
        values: {
          well_id: { kind: 'this' },
          asked_on: { kind: 'clock', what: 'today' },
          access_note: { kind: 'asked', ask: 'access_note' },
        },
      },
    ],
  });
  const { revision } = (await builder.send('PUT', '/builder/portals/alder-fen/definition', definition)).body;
  expect((await builder.post('/builder/portals/alder-fen/versions', { revision, note: '' })).status).toBe(201);
  const own = (
    await people['Well owner']!.get(`${portal}/records/wells?size=50&filter=${encodeURIComponent("state = 'active'")}`)
  ).body.records as { id: string }[];
  const [mine] = own;
  const count = async () => Number((await plain(`SELECT COUNT(*) FROM visits WHERE well_id = ${mine!.id}`))[0]![0]);
  const before = await count();
  const done = await people['Well owner']!.post(`${portal}/records/wells/${mine!.id}/actions/ask-at-once`, {
    asked: { access_note: 'The gate sticks.' },
  });
  expect(await count()).toBe(before + 1);
  expect([done.status, done.body.made[0].table]).toEqual([200, 'visits']);
  const [row] = await plain(
    `SELECT state, access_note, asked_on IS NOT NULL FROM visits WHERE well_id = ${mine!.id} ORDER BY id DESC LIMIT 1`,
  );
  expect(row!.map(String)).toEqual(['asked', 'The gate sticks.', '1']);
});

it('a press is taken back by whoever pressed, once, as long as nobody changed what it wrote', async () => {
  const undo = (who: string, action: string, press: string, id: number | null) =>
    people[who]!.post(`${portal}/records/visits/actions/${action}/undo`, {
      press,
      id: id === null ? null : String(id),
    });
  const ids = (await idsOf("state = 'planned' AND planned_for IS NOT NULL")).slice(5, 9) as [number, number, number];
  const before = await Promise.all(ids.map(planned));
  const later = before.map((each) => daysLater(each, 14));
  const [id] = ids;
  const press = 'taken-back-of-this-test';
  const done = await people.Accounts!.post(`${portal}/records/visits/${id}/actions/put-off`, { press });
  expect([done.body.undoable, await planned(id)]).toEqual([true, later[0]]);
  // What stood there lies with the press, and is read by nobody else.
  const [kept] = await KeptPress.findAll({ order: [['id', 'DESC']], limit: 1 });
  expect([typeof kept!.takesBack, kept!.takesBack!.includes(before[0]!.slice(0, 10))]).toEqual(['string', false]);
  for (const [who, action, by, of] of [
    ['Sampler', 'put-off', press, id],
    ['Accounts', 'put-off', 'a-press-that-never-was', id],
    ['Accounts', 'put-off', press, ids[1]],
    ['Accounts', 'close-visit', press, id],
  ] as const)
    expect([who, (await undo(who, action, by, of)).status]).toEqual([who, 404]);
  // Somebody else writes there in between, and then what stood there before that.
  const write = (moment: string) => source().write(raw(`UPDATE visits SET planned_for = '${moment}' WHERE id = ${id}`));
  await write('2030-01-01 10:00');
  const refused = await undo('Accounts', 'put-off', press, id);
  expect([refused.status, refused.body.detail, await planned(id)]).toEqual([
    403,
    'It was changed since, so it was not taken back.',
    '2030-01-01 10:00',
  ]);
  await write(later[0]!);
  const both = await Promise.all([undo('Accounts', 'put-off', press, id), undo('Accounts', 'put-off', press, id)]);
  expect([both.map(({ status }) => status).toSorted(), await planned(id)]).toEqual([[200, 404], before[0]]);

  const several = { ids: ids.map(String), press: 'several-back-of-this-test' };
  const all = await people.Accounts!.post(`${portal}/records/visits/actions/put-off`, several);
  expect(all.body.undoable).toBe(true);
  await write('2030-01-01 10:00');
  const back = await undo('Accounts', 'put-off', several.press, null);
  expect(back.body.outcomes.map((each: { done: boolean }) => each.done)).toEqual([false, true, true, true]);
  expect(await Promise.all(ids.map(planned))).toEqual(['2030-01-01 10:00', ...before.slice(1)]);
  await write(before[0]!);

  // With its move: the visit is planned again, with no seal.
  const [[own], [another]] = (await plain(
    "SELECT v.id FROM visits v JOIN samplers s ON s.id = v.sampler_id WHERE v.state = 'planned' AND s.email = " +
      `'${samplersAddress}' LIMIT 2`,
  )) as [[number], [number]];
  // What it asks may be a file: whoever may be asked for it can send one, and nobody else's is taken.
  const form = new FormData();
  form.append('file', new Blob([Buffer.from('89504e470d0a1a0a', 'hex')], { type: 'image/png' }), 'seal.png');
  expect((await people.Accounts!.form(`${portal}/records/visits/files/seal_photo`, form)).status).toBe(404);
  const sent = (await people.Sampler!.form(`${portal}/records/visits/files/seal_photo`, form)).body.file as string;
  const closing = (asked: Record<string, unknown>, visit = own) =>
    people.Sampler!.post(`${portal}/records/visits/${visit}/actions/close-visit`, {
      press: `closed-visit-${visit}-of-this-test`,
      asked: { planned_for: '2026-05-06 10:00', seal_number: 'S-00-TEST', ...asked },
    });
  const guessed = await closing({ seal_photo: '0'.repeat(32) });
  expect([guessed.status, guessed.body.fields]).toEqual([422, { seal_photo: 'Choose a file and send it.' }]);
  const withPhoto = await closing({ seal_photo: sent, seal_number: 'S-01-TEST' }, another);
  expect([withPhoto.status, withPhoto.body.undoable]).toEqual([200, false]);
  expect(await plain(`SELECT state, seal_photo FROM visits WHERE id = ${another}`)).toEqual([['sampled', sent]]);
  const closed = await closing({});
  expect([closed.status, closed.body.undoable]).toEqual([200, true]);
  const stands = async () => (await plain(`SELECT state, seal_number FROM visits WHERE id = ${own}`))[0];
  expect(await stands()).toEqual(['sampled', 'S-00-TEST']);
  expect((await undo('Sampler', 'close-visit', `closed-visit-${own}-of-this-test`, Number(own))).status).toBe(200);
  expect(await stands()).toEqual(['planned', null]);
});

it('on a page an action is done with the row of whoever presses, where it is theirs to do', async () => {
  interface Button {
    to: { action?: string; record?: { id: string; values: Record<string, unknown> } };
  }
  const offered = async (who: string) => {
    const { body } = await people[who]!.get(`${portal}/me`);
    const sections = (body.pages as { sections: { kind: string; buttons: Button[] }[] }[]).flatMap(
      (page) => page.sections,
    );
    return sections.flatMap((each) => (each.kind === 'buttons' ? each.buttons : [])).filter(({ to }) => to.action);
  };
  const [{ to }, ...more] = (await offered('Well owner')) as [Button, ...Button[]];
  expect(more).toEqual([]);
  const [[own, phone]] = (await plain(`SELECT id, phone FROM owners WHERE email = '${ownersAddress}'`)) as [
    [number, string],
  ];
  expect([to.action, to.record!.id, to.record!.values.phone]).toEqual(['call-me', String(own), phone]);
  expect(await offered('Sampler')).toEqual([]);
  const at = (id: unknown) => `${portal}/records/owners/${id}/actions/call-me`;
  const press = { press: 'call-me-of-this-test', asked: { phone: '0300 12' } };
  const done = await people['Well owner']!.post(at(own), press);
  expect([done.status, done.body.undoable, done.body.record.values.phone]).toEqual([200, false, '0300 12']);
  expect((await people['Well owner']!.post(at(Number(own) === 1 ? 2 : 1), press)).status).toBe(404);
  const mails = await OutboxMail.findAll({ where: { subject: { [Op.like]: '%asks to be called' } } });
  expect(mails.map(({ text }) => text.includes('0300 12'))).toContain(true);
});

it('in Seen by a press is tried and taken back, and nothing else', async () => {
  const member = (await builder.get('/builder/portals/alder-fen/members?search=philippa.crane')).body.members[0].id;
  const [id] = (await idsOf("state = 'planned' AND planned_for IS NOT NULL")) as [number];
  const at = `/builder/portals/alder-fen/as/${member}/records/visits/${id}/actions/put-off`;
  const before = await planned(id);
  expect((await builder.post(`${at}?trial=true`)).status).toBe(200);
  expect((await builder.post(at)).status).toBe(403);
  expect(await planned(id)).toBe(before);
});

it('a mail goes out once what it tells of is kept, as whoever pressed sees it, never of what was refused', async () => {
  const [[id, name, email]] = (await plain('SELECT id, name, email FROM test_requests ORDER BY id LIMIT 1')) as [
    [number, string, string],
  ];
  const desk = demo.client();
  await desk.post(`${portal}/sign-in`, { email: 'odile.fennimore@example.org', password: demoPassword });
  const at = `${portal}/records/test_requests/${id}/actions/answer-request`;
  const where = { kind: 'action', subject: { [Op.like]: 'We come%' } };
  const mails = async () => OutboxMail.findAll({ where, order: [['id', 'ASC']] });
  expect((await desk.post(at, { press: 'mail-of-this-test', asked: {} })).status).toBe(422);
  expect(await mails()).toEqual([]);
  for (let i = 0; i < 3; i++)
    expect((await desk.post(at, { press: 'mail-of-this-test', asked: { wished_for: '2027-02-03' } })).status).toBe(200);
  const [sent, ...more] = await mails();
  expect(more).toEqual([]);
  expect([sent!.recipient, ['waiting', 'sending', 'sent'].includes(sent!.state)]).toEqual([email, true]);
  expect(sent!.text).toContain(`Hello ${name}`);
  expect(sent!.text).toContain('2027-02-03');
  expect(sent!.text).toContain('Odile Fennimore, Alder Fen Wells');
  // Tried in Seen by, nothing is written.
  const member = (await builder.get('/builder/portals/alder-fen/members?search=odile.fennimore')).body.members[0].id;
  const bench = `/builder/portals/alder-fen/as/${member}`;
  const asSeen = `${bench}/records/test_requests/${id}/actions/answer-request?trial=true`;
  const tried = await builder.post(asSeen, { asked: { wished_for: '2027-02-04' } });
  expect([tried.status, tried.body.wouldLeave]).toEqual([
    200,
    [{ kind: 'mail', to: email, what: expect.stringContaining('We come to your well in') }],
  ]);
  // To nobody else what would leave is told.
  const own = await desk.post(`${at}?trial=true`, { asked: { wished_for: '2027-02-04' } });
  expect([own.status, own.body.wouldLeave]).toEqual([200, []]);
  expect(await mails()).toHaveLength(1);
  // A server that goes down before it is known whether the record was kept leaves the mail unsent, and says so.
  const { outbox, mailServers, log } = demo.server.services;
  await outbox.hold(
    [
      {
        portalId: sent!.portalId,
        memberId: null,
        kind: 'action',
        recipient: email,
        subject: 'Lost',
        text: 'Lost',
        html: '<p>Lost</p>',
        secret: null,
        onceKey: 'act/lost',
      },
    ],
    false,
  );
  await OutboxMail.update({ madeAt: new Date(Date.now() - 600_000) }, { where: { onceKey: 'act/lost' } });
  const sending = sendMails({ outbox, servers: mailServers, log, keepSecrets: () => Promise.resolve(false) });
  try {
    await expect
      .poll(async () => (await OutboxMail.findOne({ where: { onceKey: 'act/lost' } }))?.state, { timeout: 20_000 })
      .toBe('unsure');
  } finally {
    await sending.close();
  }
});

it('what is made first is what the next belongs to, and of one that can’t be made nothing stays', async () => {
  const [[id, email]] = (await plain(
    'SELECT id, email FROM test_requests WHERE message IS NOT NULL ORDER BY id DESC LIMIT 1',
  )) as [[number, string]];
  const desk = demo.client();
  await desk.post(`${portal}/sign-in`, { email: 'odile.fennimore@example.org', password: demoPassword });
  const asked = { code: 'AF-0231', address: '9 Fen Row', postcode: 'AF9', latitude: '52.1', longitude: '0.2' };
  const press = (more: object) =>
    desk.post(`${portal}/records/test_requests/${id}/actions/take-on`, { asked: { ...asked, ...more } });
  const made = () =>
    plain(
      'SELECT o.email, w.code, w.state, v.state FROM owners o LEFT JOIN wells w ON w.owner_id = o.id ' +
        "LEFT JOIN visits v ON v.well_id = w.id WHERE o.postal_address = '9 Fen Row'",
    );
  // The code is another well's, so there is no owner either.
  const refused = await press({});
  expect([refused.status, Object.keys(refused.body.fields as object)]).toEqual([422, ['code']]);
  expect(await made()).toEqual([]);
  const done = await press({ code: 'AF-9100' });
  expect([done.status, done.body.made.map(({ table }: { table: string }) => table)]).toEqual([
    200,
    ['owners', 'wells', 'visits'],
  ]);
  expect(await made()).toEqual([[email, 'AF-9100', 'active', 'asked']]);
  const [mail] = await OutboxMail.findAll({ where: { kind: 'action', subject: 'Your well is in the programme' } });
  expect(mail!.recipient).toBe(email);
});

it('nobody is told of an action that is not theirs', async () => {
  const me = async (who: string) =>
    ((await people[who]!.get(`${portal}/me`)).body.actions as { id: string }[]).map(({ id }) => id);
  expect([await me('Accounts'), await me('Sampler'), await me('Well owner')]).toEqual([
    ['put-off'],
    ['close-visit', 'to-the-lab'],
    ['ask-for-visit', 'call-me', 'ask-at-once'],
  ]);
});
