import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { raw } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { openBottleTracker } from '../../standins/bottle-tracker/bottle-tracker';
import type { Answer, Door } from '../../standins/receiver/door';
import { demoServer, type Client } from '../../test/server';
import { OutsideCall } from '../store/call-models';
import { Builder } from '../store/models';
import { Member } from '../store/people-models';

/** Calls of the demo, to its stand-in outside; what is in its tables is read with plain SQL. */

let demo: Awaited<ReturnType<typeof demoServer>>;
let tracker: Door;
let builder: Client;
let courier: Client;
const at = '/portals/alder-fen';
const bench = '/builder/portals/alder-fen';

beforeAll(async () => {
  tracker = await openBottleTracker();
  demo = await demoServer(inject('database'), 'outside', 'outside_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  await publishWith((definition) => {
    definition.addresses[0]!.url = `${tracker.address}/hand-overs`;
  });
  const { secret } = (await builder.post(`${bench}/addresses/bottle-tracker/secret`)).body as { secret: string };
  tracker.secrets.push(secret);
  courier = demo.client();
  const doors = (await demo.client().get(`${at}/door`)).body.demo.people as { email: string; role: string }[];
  const { email } = doors.find(({ role }) => role === 'Lab courier')!;
  await courier.post(`${at}/sign-in`, { email, password: demoPassword });
});

afterAll(async () => {
  await demo?.server.close();
  await tracker?.close();
});

interface Known {
  addresses: { url: string }[];
  actions: { id: string; steps: { kind: string; values: Record<string, unknown>; answers?: object }[] }[];
}

async function publishWith(change: (definition: Known) => void): Promise<void> {
  const definition = (await builder.get(`${bench}/definition`)).body as Known;
  change(definition);
  expect((await builder.send('PUT', `${bench}/definition`, definition)).status).toBe(200);
  const { revision } = (await builder.get(bench)).body as { revision: number };
  expect((await builder.post(`${bench}/versions`, { revision, note: '' })).status).toBeLessThan(300);
}

const plain = async (sql: string) => demo.server.services.sources.get('outside').rows(raw(sql));

/** Bottles that the courier may hand over. */
async function waitingBottles(): Promise<string[]> {
  const { body } = await courier.get(
    `${at}/records/samples?size=50&filter=${encodeURIComponent('handed_over_at IS NULL')}`,
  );
  return (body.records as { id: string }[]).map(({ id }) => id);
}

const stands = async (id: string) =>
  (
    await plain(`SELECT handed_over_at IS NOT NULL, temperature_c, tracking_number FROM samples WHERE id = ${id}`)
  )[0]!.map((value) => (value === null ? null : String(value)));

const pressed = (id: string, press?: string) =>
  courier.post(`${at}/records/samples/${id}/actions/hand-over-bottle`, {
    asked: { temperature_c: '4.5' },
    ...(press ? { press } : {}),
  });

it('a press tells what whoever pressed sees, once, and what it is answered goes into the record', async () => {
  const [id] = (await waitingBottles()) as [string];
  const answers = await Promise.all([1, 2, 3].map(() => pressed(id, 'one-press-of-this-test')));
  const done = answers.find(({ status }) => status === 200)!;
  const told = tracker.calls.filter(({ type }) => type === 'samples.hand-over-bottle');
  expect(told).toHaveLength(1);
  const [bottle] = (await plain(`SELECT bottle_code FROM samples WHERE id = ${id}`))[0]!;
  expect(told[0]).toMatchObject({
    isSigned: true,
    data: { bottle, 'temperature-c': '4.5', 'handed-over-at': expect.stringMatching(/^\d{4}-\d\d-\d\d \d\d:\d\d/) },
  });
  const [, , number] = await stands(id);
  expect(number).toMatch(/^BT-5\d{5}$/);
  expect(done.body).toMatchObject({
    calls: [{ to: 'Bottle tracker', state: 'done', problem: null }],
    record: { values: { tracking_number: number } },
  });
});

/** What was told of a bottle, by the ids of the calls. */
async function toldOf(id: string): Promise<string[]> {
  const [bottle] = (await plain(`SELECT bottle_code FROM samples WHERE id = ${id}`))[0]!;
  return tracker.calls.filter(({ data }) => data.bottle === bottle).map((call) => call.id);
}

const callOf = async (id: string) => (await OutsideCall.findOne({ where: { recordId: id }, order: [['id', 'DESC']] }))!;

/** As if its time had come. */
async function tryAgain(id: string): Promise<void> {
  await OutsideCall.update({ nextTry: new Date(Date.now() - 1000) }, { where: { recordId: id, state: 'waiting' } });
  demo.server.services.outsideCalls.wake();
}

const comesTo = (id: string, state: OutsideCall['state']) =>
  expect.poll(async () => (await callOf(id)).state, { timeout: 20_000 }).toBe(state);

it('what fails for now is told again under the same id, and put in then; what fails for good is said', async () => {
  const [down, wrong, led, bare] = (await waitingBottles()) as [string, string, string, string];
  tracker.mood = () => ({ status: 503, headers: { 'retry-after': '1' } });
  const first = (await pressed(down)).body;
  expect(first.calls).toEqual([{ to: 'Bottle tracker', state: 'waiting', problem: null }]);
  // The bottle is handed over: what is told outside takes nothing back.
  expect(await stands(down)).toEqual(['1', '4.5', null]);
  tracker.mood = null;
  await tryAgain(down);
  await comesTo(down, 'done');
  expect((await stands(down))[2]).toMatch(/^BT-/);
  const told = await toldOf(down);
  expect([told.length, new Set(told).size]).toEqual([2, 1]);

  const answers: [string, Answer, string, string][] = [
    [wrong, { status: 422, body: { detail: 'No' } }, 'given up', 'It answered 422.'],
    [led, { status: 307, headers: { location: `${tracker.address}/elsewhere` } }, 'given up', 'It answered 307. What'],
    [bare, { status: 200, body: { receipt: {} } }, 'done', 'There is no receipt.number in its answer.'],
  ];
  for (const [id, answer, state, words] of answers) {
    tracker.mood = () => answer;
    const { calls } = (await pressed(id)).body;
    // Whoever presses is told that it failed; why, its builders.
    expect(calls).toEqual([
      { to: 'Bottle tracker', state: 'failed', problem: expect.stringMatching(/keeper sees why/) },
    ]);
    expect((await callOf(id)).problem).toContain(words);
    expect([(await callOf(id)).state, (await toldOf(id)).length, (await stands(id))[2]]).toEqual([state, 1, null]);
  }
  tracker.mood = null;
  // By hand it is made again, as the same call.
  const given = await callOf(wrong);
  expect((await builder.post(`${bench}/calls/${given.id}/again`)).status).toBe(204);
  await comesTo(wrong, 'done');
  expect(new Set(await toldOf(wrong))).toEqual(new Set([given.onceKey]));
  expect((await builder.post(`${bench}/calls/${given.id}/again`)).status).toBe(409);
});

it('of what was refused nothing is told; what a server left behind is told again, or never', async () => {
  const [id] = (await waitingBottles()) as [string];
  expect((await pressed(id)).status).toBe(200);
  const before = await OutsideCall.count();
  expect((await pressed(id)).status).toBe(403);
  expect((await courier.post(`${at}/records/samples/${id}/actions/hand-over-bottle?trial=true`)).status).not.toBe(200);
  expect(await OutsideCall.count()).toBe(before);

  const [sending, unkept, unknown] = (await waitingBottles()) as [string, string, string];
  const { outsideCalls } = demo.server.services;
  const long = new Date(Date.now() - 600_000);
  const left = async (recordId: string, beside: boolean, change: Partial<OutsideCall>) => {
    const { portalId, memberId, action, step, address, tableName } = await callOf(id);
    const body = JSON.stringify({ type: 'left', data: { bottle: `left-${recordId}` } });
    const more = { portalId, memberId, role: null, action, step, address, tableName, recordId, body, answers: false };
    await outsideCalls.hold([{ ...more, onceKey: `call_left_${recordId}` }], beside);
    await OutsideCall.update(change, { where: { recordId } });
  };
  await left(sending, true, { state: 'sending', takenBy: 'gone', nextTry: long });
  await left(unkept, true, { madeAt: long });
  await left(unknown, false, { madeAt: long });
  outsideCalls.wake();
  await comesTo(sending, 'done');
  await comesTo(unknown, 'unsure');
  expect(await OutsideCall.count({ where: { recordId: unkept } })).toBe(0);
  const came = tracker.calls.filter(({ type }) => type === 'left').map(({ data }) => data.bottle);
  expect(came).toEqual([`left-${sending}`]);
});

it('calls about one record come in their order, and none is put in for somebody who is shut out by then', async () => {
  const [id] = (await waitingBottles()) as [string];
  tracker.mood = () => ({ status: 503 });
  expect((await pressed(id)).status).toBe(200);
  const first = await callOf(id);
  const { portalId, memberId, action, step, address, tableName, recordId } = first;
  const body = JSON.stringify({ type: 'second', data: { bottle: 'second' } });
  const second = { portalId, memberId, role: null, action, step, address, tableName, recordId, body, answers: false };
  await demo.server.services.outsideCalls.hold([{ ...second, onceKey: 'call_second' }], false);
  await demo.server.services.outsideCalls.keep(['call_second']);
  await Member.update({ suspended: 'away' }, { where: { id: memberId! } });
  tracker.mood = null;
  await tryAgain(id);
  const both = { onceKey: [first.onceKey, 'call_second'], state: 'done' as const };
  await expect.poll(() => OutsideCall.count({ where: both }), { timeout: 20_000 }).toBe(2);
  await first.reload();
  expect(first.problem).toBe(
    'What it answered was not put into the record: Whoever began this is no member any more, so it was not done.',
  );
  expect((await stands(id))[2]).toBeNull();
  const ids = tracker.calls.map((call) => call.id).filter((each) => each === first.onceKey || each === 'call_second');
  expect(ids).toEqual([first.onceKey, first.onceKey, 'call_second']);
});

it('a builder who is kept from personal data reads neither what was told nor what was answered', async () => {
  const { calls } = (await builder.get(`${bench}/calls?state=done`)).body as { calls: { id: number }[] };
  const one = await builder.get(`${bench}/calls/${calls.at(-1)!.id}`);
  expect(one.body).toMatchObject({
    state: 'done',
    body: expect.stringContaining('bottle'),
    answer: expect.any(String),
  });
  await Builder.update({ seesPersonal: false }, { where: { email: 'builder@example.org' } });
  const kept = await builder.get(`${bench}/calls/${calls.at(-1)!.id}`);
  await Builder.update({ seesPersonal: true }, { where: { email: 'builder@example.org' } });
  expect(kept.body).toMatchObject({ state: 'done', record: null, body: null, answer: null });
  const tried = await builder.post(`${bench}/addresses/bottle-tracker/try`, { data: { bottle: 'B0' } });
  expect(tried.body).toMatchObject({ fine: true, status: 200, words: expect.stringContaining('receipt') });
});
