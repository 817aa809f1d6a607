import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { raw } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import type { Client } from '../../test/server';
import { MailedPortal, bench, portal } from '../people/mails.fixture';
import { hashPassword } from '../sessions/passwords';
import { saveAddress } from '../mail/own-address';
import { AuditEntry, Setting } from '../store/models';
import { Member, OutboxMail } from '../store/people-models';

let at: MailedPortal;
const anton = 'anton.wray@example.org';
const people = `${portal}/people/parish-owners`;
const owner = (id: string | number) => `${portal}/records/owners/${id}`;

beforeAll(async () => {
  at = await MailedPortal.open(inject('database'), 'stewards');
  const passwordHash = await hashPassword(demoPassword);
  await Member.update({ passwordHash }, { where: {} });
});
afterAll(async () => at?.close());

const rows = async (text: string): Promise<unknown[][]> =>
  at.demo.server.services.sources.get('stewards').rows(raw(text));
const signedIn = async (email: string): Promise<Client> => {
  const client = at.client();
  const { status } = await client.post(`${portal}/sign-in`, { email, password: demoPassword });
  expect([email, status]).toEqual([email, 200]);
  return client;
};
const change = (client: Client, id: string | number, changes: object) => client.send('PATCH', owner(id), { changes });
/** Owners of the steward's parish and of another, by plain SQL, with an address that is theirs alone. */
const ownersOf = async (where: string) =>
  (
    await rows(
      `SELECT id, email, name, phone FROM owners o WHERE ${where} AND email IS NOT NULL AND
        (SELECT COUNT(*) FROM owners x WHERE x.email = o.email) = 1 AND email NOT IN (SELECT email FROM samplers)
        ORDER BY id`,
    )
  ).map(([id, email, name, phone]) => ({ id: String(id), email: String(email), name: String(name), phone }));
const log = async () => (await AuditEntry.findAll({ order: [['id', 'DESC']], limit: 1 }))[0]!;

describe('a steward who looks after people', () => {
  it('sees those of the slice, counted by plain SQL, and how they stand', async () => {
    const client = await signedIn(anton);
    const [[count]] = (await rows("SELECT COUNT(*) FROM owners WHERE parish = 'Harrow End'")) as [[unknown]];
    const { body } = await client.get(`${people}?size=3`);
    expect([body.total, body.records.length]).toEqual([Number(count), 3]);
    expect(new Set(Object.keys(body.people))).toEqual(new Set(body.records.map(({ id }: { id: string }) => id)));
    expect(new Set(Object.values(body.people).map((each) => (each as { state: string }).state))).toEqual(
      new Set(['known']),
    );
    expect(Object.keys(body.records[0].values)).toEqual(['name', 'email', 'phone', 'postal_address', 'contact_by']);
    const found = (await client.get(`${people}?search=Ines%20Brannock`)).body;
    expect(found.records.map(({ id }: { id: string }) => id)).toEqual(['17']);
  });

  it('gets nothing of anybody else, whatever is asked: the same as of somebody who never was', async () => {
    const client = await signedIn(anton);
    const [foreign] = await ownersOf("parish = 'Saltby'");
    for (const id of [foreign!.id, '99999']) {
      const asked: [string, string, object?][] = [
        ['GET', owner(id)],
        ['PATCH', owner(id), { changes: { phone: { from: '1', to: '2' } } }],
        ['PUT', `${people}/${id}/suspension`, { reason: 'because' }],
        ['DELETE', `${people}/${id}/suspension`],
        ['DELETE', `${people}/${id}/sessions`],
        ['POST', `${people}/${id}/password-link`],
        ['POST', `${people}/${id}/invitation`, {}],
      ];
      for (const [method, path, body] of asked) {
        const { status, body: said } = await client.send(method, path, body);
        expect([method, path, status, said?.detail]).toEqual([
          method,
          path,
          404,
          "There is no such record, or it isn't open to you.",
        ]);
      }
    }
    const [total] = (await client.get(`${people}?search=${encodeURIComponent(foreign!.email)}`)).body.records;
    expect(total).toBeUndefined();
    // Nor does anybody else get anywhere by the steward's addresses.
    const ines = await signedIn('ines.brannock@example.org');
    expect((await ines.get(people)).status).toBe(404);
    expect((await ines.post(`${people}/17/invitation`)).status).toBe(404);
  });

  it('changes what may be changed, and nobody into somebody else', async () => {
    const client = await signedIn(anton);
    const [one, other] = await ownersOf("parish = 'Harrow End' AND id > 17");
    const [foreign] = await ownersOf("parish = 'Saltby'");
    const [[sampler]] = (await rows('SELECT email FROM samplers WHERE id = 9')) as [[string]];
    expect((await change(client, one!.id, { name: { from: one!.name, to: 'Another Name' } })).status).toBe(200);
    const elsewhere = await change(client, one!.id, { parish: { from: 'Harrow End', to: 'Saltby' } });
    expect([elsewhere.status, elsewhere.body.fields]).toEqual([403, { parish: "This can't be changed by you." }]);
    // An address that stands anywhere is told to be nobody's in particular.
    const answers = [];
    for (const taken of [other!.email, foreign!.email, sampler, sampler.toUpperCase(), anton]) {
      const { status, body } = await change(client, one!.id, { email: { from: one!.email, to: taken } });
      answers.push([status, body.fields]);
    }
    const same = { email: "This address can't be used for somebody here. Choose another." };
    expect(answers).toEqual(answers.map(() => [422, same]));
    const none = await change(client, one!.id, { email: { from: one!.email, to: 'no address' } });
    expect([none.status, Object.keys(none.body.fields)]).toEqual([422, ['email']]);
    // A new address: the same member, who proves anew who they are.
    const theirs = await signedIn(one!.email);
    const { id } = await Member.findOne({ where: { email: one!.email, onRoster: true }, rejectOnEmpty: true });
    const moved = await change(client, one!.id, { email: { from: one!.email, to: 'one.new@example.org' } });
    expect(moved.status).toBe(200);
    expect((await theirs.get(`${portal}/me`)).status).toBe(401);
    const now = await Member.findByPk(id, { rejectOnEmpty: true });
    expect([now.email, now.onRoster, now.passwordHash]).toEqual(['one.new@example.org', true, null]);
    // The address that was theirs is told; who was never written to is told nothing, nor is anybody by a refresh.
    expect((await at.settled(one!.email, 'sent')).kind).toBe('changed address');
    const told = await at.newest(one!.email, 0);
    expect(told.parsed.text).toMatch(/now knows you by another e-mail address/);
    expect(told.parsed.text).not.toContain('one.new');
    const [never, byHand] = (await ownersOf("parish = 'Harrow End' AND id > 120")).slice(-2);
    const another = { email: { from: never!.email, to: 'never.in@example.org' } };
    expect((await change(client, never!.id, another)).status).toBe(200);
    await signedIn(byHand!.email);
    await at.run(`UPDATE owners SET email = 'by.hand@example.org' WHERE id = ${byHand!.id}`);
    await at.builder.ended(`${bench}/jobs`, `${bench}/members/refresh`);
    const toldOf = () => OutboxMail.count({ where: { kind: 'changed address' } });
    expect(await toldOf()).toBe(1);
    // Written among several it is told as well, and not once more when it is written again and again.
    const [further] = (await ownersOf("parish = 'Harrow End' AND id > 60")).slice(-3);
    await signedIn(further!.email);
    let from = further!.email;
    for (const to of ['further.one@example.org', 'further.two@example.org']) {
      const writes = [{ edit: further!.id, changes: { email: { from, to } } }];
      const answer = await client.post(`${portal}/records/owners/several`, { mode: 'all or nothing', writes });
      expect([answer.status, answer.body.outcomes[0].done]).toEqual([200, true]);
      from = to;
    }
    expect(await toldOf()).toBe(2);
    // Where nobody can be told, what was written stands and is answered so.
    await Setting.destroy({ where: { name: 'address' } });
    const last = await change(client, further!.id, { email: { from, to: 'further.three@example.org' } });
    await saveAddress('https://wells.example.org');
    expect([last.status, await toldOf()]).toEqual([200, 2]);
  });

  it('leaves those alone who are more than that, by hand or by another roster', async () => {
    const client = await signedIn(anton);
    const [, byHand, alsoSampler] = await ownersOf("parish = 'Harrow End' AND id > 30");
    const member = await Member.findOne({ where: { email: byHand!.email, onRoster: true }, rejectOnEmpty: true });
    const given = await at.builder.send('PUT', `${bench}/members/${member.id}/roles/accounts`, { reason: 'helps out' });
    expect(given.status).toBe(204);
    await at.run(`UPDATE samplers SET email = '${alsoSampler!.email}' WHERE id = 10`);
    await at.builder.ended(`${bench}/jobs`, `${bench}/members/refresh`);
    for (const { id, email, name } of [byHand!, alsoSampler!]) {
      for (const changes of [
        { email: { from: email, to: 'taken.over@example.org' } },
        { name: { from: name, to: 'X' } },
      ])
        expect((await change(client, id, changes)).body.detail).toBe(
          'This person is looked after by the people who run this portal. Ask them.',
        );
      expect((await client.post(`${people}/${id}/password-link`)).status).toBe(403);
      expect((await client.send('PUT', `${people}/${id}/suspension`, { reason: 'because' })).status).toBe(403);
    }
    expect(await rows("SELECT COUNT(*) FROM owners WHERE email = 'taken.over@example.org'")).toEqual([[0n]]);
  });

  it('adds somebody to their own slice, without a mail; then invites them, once', async () => {
    const client = await signedIn(anton);
    const mails = await OutboxMail.count();
    const values = { name: 'Newly Come', email: 'newly.come@example.org', postal_address: '1 Fen Lane' };
    const made = await client.post(`${portal}/records/owners`, { values });
    expect(made.status).toBe(201);
    expect(await rows(`SELECT parish FROM owners WHERE id = ${made.body.id}`)).toEqual([['Harrow End']]);
    const elsewhere = await client.post(`${portal}/records/owners`, { values: { ...values, parish: 'Saltby' } });
    expect(elsewhere.status).toBe(403);
    expect((await client.post(`${portal}/records/owners`, { values })).body.fields).toEqual({
      email: "This address can't be used for somebody here. Choose another.",
    });
    expect(await OutboxMail.count()).toBe(mails);
    const stands = async () => (await client.get(`${people}?search=Newly%20Come`)).body.people[made.body.id];
    expect(await stands()).toMatchObject({ state: 'known' });
    const invite = (body: object) => client.post(`${people}/${made.body.id}/invitation`, body);
    expect((await invite({})).body.outcome).toEqual({ queued: 1, skipped: {} });
    expect(await log()).toMatchObject({
      what: 'invited',
      who: 'Anton Wray <anton.wray@example.org>, Parish steward, looking after Well owner',
    });
    expect((await invite({})).body.outcome).toEqual({ queued: 0, skipped: { 'was invited': 1 } });
    expect((await invite({ again: true })).body.outcome.queued).toBe(1);
    expect(await stands()).toMatchObject({ state: 'invited' });
    await at.newest('newly.come@example.org', 1);
  });

  it('shuts somebody out at once and lets them in again, ends sessions, sends a link to a new password', async () => {
    const client = await signedIn(anton);
    const [, , , , one] = await ownersOf("parish = 'Harrow End' AND id > 60");
    const theirs = await signedIn(one!.email);
    const page = async () => (await theirs.get(`${portal}/me`)).status;
    expect(await page()).toBe(200);
    expect((await client.send('PUT', `${people}/${one!.id}/suspension`, { reason: 'moved away' })).status).toBe(204);
    expect(await page()).toBe(401);
    expect((await theirs.post(`${portal}/sign-in`, { email: one!.email, password: demoPassword })).status).toBe(401);
    expect((await client.send('DELETE', `${people}/${one!.id}/suspension`)).status).toBe(204);
    const again = await signedIn(one!.email);
    expect((await client.send('DELETE', `${people}/${one!.id}/sessions`)).body).toEqual({ ended: 1 });
    expect((await again.get(`${portal}/me`)).status).toBe(401);
    expect((await client.post(`${people}/${one!.id}/password-link`)).status).toBe(202);
    await at.newest(one!.email, 0);
  });

  it('may do no more than is said, and loses it with the role, at the next request', async () => {
    const client = await signedIn(anton);
    const one = (await ownersOf("parish = 'Harrow End' AND id > 90"))[0]!;
    await at.draftWith((draft) => {
      const steward = draft.stewards!.find(({ id }) => id === 'parish-owners')!;
      Object.assign(steward, { may: ['invite'], changes: ['contact_by'] });
    });
    expect((await at.publish()).body).not.toHaveProperty('detail');
    const refused = await client.send('PUT', `${people}/${one.id}/suspension`, { reason: 'because' });
    expect([refused.status, refused.body.detail]).toEqual([
      403,
      'You may not do this for the people whom you look after.',
    ]);
    expect((await change(client, one.id, { name: { from: one.name, to: 'X' } })).status).toBe(403);
    await at.run(`UPDATE staff SET duty = 'accounts' WHERE email = '${anton}'`);
    expect((await client.get(people)).status).toBe(404);
    await at.run(`UPDATE staff SET duty = 'parish steward' WHERE email = '${anton}'`);
    expect((await client.get(people)).status).toBe(200);
  });
});

describe('a lab that looks after its own', () => {
  it('has the couriers of its own lab, and makes no chemist of anybody', async () => {
    const [[lead, lab]] = (await rows('SELECT email, lab_id FROM lab_staff WHERE leads AND lab_id = 1')) as [
      [string, number],
    ];
    const client = await signedIn(lead);
    const couriers = `${portal}/people/lab-couriers`;
    const theirs = await rows(`SELECT id FROM lab_staff WHERE kind = 'courier' AND lab_id = ${lab} ORDER BY name`);
    expect((await client.get(couriers)).body.records.map(({ id }: { id: string }) => id)).toEqual(
      theirs.map(([id]) => String(id)),
    );
    const values = { name: 'Swift Newcomer', email: 'swift@example.org' };
    const made = await client.post(`${portal}/records/lab_staff`, { values });
    expect(made.status).toBe(201);
    expect(await rows(`SELECT kind, lab_id FROM lab_staff WHERE id = ${made.body.id}`)).toEqual([['courier', lab]]);
    expect((await client.post(`${portal}/records/lab_staff`, { values: { ...values, kind: 'chemist' } })).status).toBe(
      403,
    );
    const [[self]] = (await rows(`SELECT id FROM lab_staff WHERE email = '${lead}'`)) as [[number]];
    for (const [id] of await rows(
      `SELECT id FROM lab_staff WHERE id = ${self} OR kind = 'chemist' OR lab_id <> ${lab}`,
    ))
      expect([id, (await client.get(`${portal}/records/lab_staff/${String(id)}`)).status]).toEqual([id, 404]);
  });
});

describe('a hand-over', () => {
  const path = `${portal}/hand-over/visits-of-samplers`;
  const open = (sampler: string) =>
    rows(`SELECT id FROM visits WHERE sampler_id = ${sampler} AND state IN ('asked', 'planned') ORDER BY id`);

  it('gives all that is to come to a colleague, and takes it back but for what changed since', async () => {
    const client = await signedIn('odile.fennimore@example.org');
    const before = await open('9');
    const others = await open('3');
    expect(before.length).toBeGreaterThan(3);
    const { people: choices } = (await client.get(`${path}/people?search=Mara%20Lindqvist`)).body;
    expect(choices).toEqual([{ id: '9', name: 'Mara Lindqvist' }]);
    expect((await client.get(`${path}/counts?from=9`)).body.tables).toEqual([
      { table: 'visits', records: before.length },
    ]);
    const done = await client.post(path, { from: '9', to: '3' });
    expect([done.status, done.body.tables, done.body.undone]).toEqual([
      201,
      [{ table: 'visits', records: before.length }],
      null,
    ]);
    expect(await open('9')).toEqual([]);
    expect((await open('3')).length).toBe(before.length + others.length);
    expect(await log()).toMatchObject({
      what: 'handed over',
      about: expect.stringContaining(`${before.length} visits from Mara`),
    });
    // One was worked on since, and one given on.
    await at.run(`UPDATE visits SET access_note = 'the gate is green' WHERE id = ${String(before[0]![0])}`);
    await at.run(`UPDATE visits SET sampler_id = 5 WHERE id = ${String(before[1]![0])}`);
    const undone = (await client.post(`${path}/${done.body.id}/undo`)).body;
    expect([
      undone.undone.back,
      undone.undone.left.map(({ id, why }: { id: string; why: string }) => [id, why]),
    ]).toEqual([
      before.length - 2,
      [
        [String(before[0]![0]), 'changed since'],
        [String(before[1]![0]), 'changed since'],
      ],
    ]);
    expect(await open('9')).toEqual(before.slice(2));
    expect((await client.post(`${path}/${done.body.id}/undo`)).status).toBe(409);
    expect((await client.get(path)).body.done).toMatchObject([{ id: done.body.id, until: null }]);
  });

  it('goes to nobody outside of the slice, nobody who is shut out, and nobody does it who may not', async () => {
    await at.draftWith((draft) => {
      const steward = draft.stewards!.find(({ id }) => id === 'visits-of-samplers')!;
      Object.assign(steward, {
        where: {
          kind: 'in',
          left: { kind: 'column', path: ['id'] },
          list: [9, 3, 6].map((id) => ({ kind: 'number', digits: String(id) })),
        },
      });
    });
    expect((await at.publish()).body).not.toHaveProperty('detail');
    const client = await signedIn('odile.fennimore@example.org');
    const before = await open('9');
    const hand = async (from: string, to: string) => {
      const { status, body } = await client.post(path, { from, to });
      return [status, Object.keys(body.fields ?? {}).length > 0 ? body.fields : body.detail];
    };
    expect(await hand('9', '5')).toEqual([
      403,
      'At least one of these records may not be theirs, so none was handed over. Choose somebody else.',
    ]);
    expect(await hand('9', '9')).toEqual([422, { to: 'Choose another person than the one they come from.' }]);
    expect(await hand('9', '777')).toEqual([422, { to: 'Choose somebody from the list.' }]);
    expect((await hand('5', '3'))[0]).toBe(409);
    const [[email]] = (await rows('SELECT email FROM samplers WHERE id = 6')) as [[string]];
    await at.builder.send('PUT', `${bench}/members/${await at.idOf(email)}/suspension`, { reason: 'is ill' });
    expect(await hand('9', '6')).toEqual([422, { to: 'They are suspended, so nobody would work on it.' }]);
    expect(await open('9')).toEqual(before);
    const mara = await signedIn('mara.lindqvist@example.org');
    expect((await mara.post(path, { from: '9', to: '3' })).status).toBe(404);
    // Somebody else's is not theirs to take back.
    const bertram = await signedIn('bertram.hask@example.org');
    const done = await client.post(path, { from: '9', to: '3' });
    expect((await bertram.post(`${path}/${done.body.id}/undo`)).status).toBe(404);
    expect((await client.post(`${path}/${done.body.id}/undo`)).body.undone).toMatchObject({
      back: before.length,
      left: [],
    });
  });
});

describe('before a builder', () => {
  it('Seen by shows it and changes nothing; who sees what and why say through what', async () => {
    const seen = `${bench}/as/${await at.idOf(anton)}`;
    const { body } = await at.builder.get(`${seen}/people/parish-owners?size=1`);
    const [{ id }] = body.records;
    expect((await at.builder.post(`${seen}/people/parish-owners/${id}/invitation`)).status).toBe(403);
    const who = (await at.builder.get(`${bench}/who?table=owners&column=email`)).body;
    const steward = who.found[0].roles.find(({ role }: { role: string }) => role === 'steward');
    expect(steward.reach).toMatchObject({ level: 'shown', create: true, stewards: ['parish-owners'] });
    const why = (await at.builder.get(`${seen}/why/owners/${id}?column=email`)).body;
    expect(why.roles.map((each: { role: string; steward?: string }) => [each.role, each.steward])).toEqual([
      ['steward', undefined],
      ['steward', 'parish-owners'],
    ]);
  });
});
