import { afterAll, beforeAll, beforeEach, describe, expect, inject, it, vi } from 'vitest';
import { raw } from '../../core/sql/sql';
import type { Client } from '../../test/server';
import { MailedPortal, bench, goodPassword, portal } from '../people/mails.fixture';
import { Member, OutboxMail, SignUpRequest } from '../store/people-models';

let at: MailedPortal;

beforeAll(async () => {
  at = await MailedPortal.open(inject('database'), 'open_door');
});
afterAll(async () => at?.close());
// Tries at the door are counted; each test comes as if for the first time.
beforeEach(async () => {
  await at.run('DELETE FROM open_door_own.sign_in_failures');
  await openTo(['fen-society.example.org']);
});

/** Publishes the portal as open to these domains; guests see wells of one parish, and what their own row says. */
async function openTo(domains: string[]): Promise<void> {
  const changed = await at.draftWith((draft) => {
    if (!draft.roles.some(({ id }) => id === 'guest'))
      draft.roles.push({ id: 'guest', name: 'Guest', withoutRow: true }, { id: 'unmarked', name: 'Unmarked' });
    const see = (where: object, columns: string[]) => ({ see: { where: where as never, columns } });
    const parish = { kind: 'column', path: ['parish'] };
    const compare = (left: object, right: object) => ({ kind: 'compare', left, comparison: '=', right });
    draft.access.wells!.guest = see(compare(parish, { kind: 'text', text: 'Saltby' }), ['code', 'parish']);
    const ownRow = compare({ kind: 'column', path: ['id'] }, { kind: 'member', fact: ['owners', 'id'] });
    draft.access.owners!.guest = see(ownRow, ['name']);
    if (domains.length === 0) delete draft.openTo;
    else draft.openTo = { domains, roles: ['guest', 'unmarked'] };
  });
  expect([changed.status, changed.body.errors]).toEqual([200, undefined]);
  expect((await at.publish()).status).toBe(201);
}

const count = async (text: string): Promise<number> =>
  Number((await at.demo.server.services.sources.get('open_door').rows(raw(text)))[0]![0]);
const ask = (client: Client, email: string) => client.post(`${portal}/open`, { email });
const proofIn = async (email: string) => /prove#([\w-]+)/.exec((await at.newest(email, 0)).parsed.text!)![1]!;
const prove = (client: Client, token: string) => client.post(`${portal}/sign-up/prove`, { token });
/** Comes in with an address of the domain, whole. */
async function come(email: string): Promise<Client> {
  const client = at.client();
  expect((await ask(client, email)).status).toBe(202);
  const { body } = await prove(client, await proofIn(email));
  const used = await client.post(`${portal}/links/use`, { token: body.token, password: goodPassword });
  expect([used.status, used.body.detail]).toEqual([200, undefined]);
  return client;
}
const answered = (email: string, state: SignUpRequest['state']) =>
  vi.waitFor(
    async () => {
      const last = await SignUpRequest.findOne({ where: { email }, order: [['id', 'DESC']], rejectOnEmpty: true });
      expect(last.state).toBe(state);
    },
    { timeout: 20_000 },
  );

describe('a portal that is open to a domain', () => {
  it('lets in whoever proves an address of it, with what is meant for people without a row, no more', async () => {
    const anyone = at.client();
    expect((await anyone.get(`${portal}/door`)).body.openTo).toEqual(['fen-society.example.org']);
    const before = await count('SELECT COUNT(*) FROM owners');
    const client = await come('wren@fen-society.example.org');
    const me = (await client.get(`${portal}/me`)).body;
    expect(me.member.name).toBe('wren@fen-society.example.org');
    const wells = (await client.get(`${portal}/records/wells`)).body;
    expect(wells.total).toBe(await count("SELECT COUNT(*) FROM wells WHERE parish = 'Saltby'"));
    expect(wells.total).toBeGreaterThan(0);
    // Their own row would be NULL: nothing, not everything.
    expect((await client.get(`${portal}/records/owners`)).body.total).toBe(0);
    expect(await count('SELECT COUNT(*) FROM owners')).toBe(before);
    const { members } = (await at.builder.get(`${bench}/members?search=wren`)).body;
    expect(members).toMatchObject([{ roles: ['guest'], withoutRow: true, state: 'active', rosters: [] }]);
    const given = await at.builder.send('PUT', `${bench}/members/${members[0].id}/roles/desk`, { reason: 'a friend' });
    expect([given.status, Object.keys(given.body.fields)]).toEqual([422, ['role']]);
    const byRole = (await at.builder.get(`${bench}/members?role=guest`)).body;
    expect(byRole.total).toBe(1);
    // A refresh leaves them in, and their password is theirs.
    await at.builder.ended(`${bench}/jobs`, `${bench}/members/refresh`);
    const again = at.client();
    const signedIn = await again.post(`${portal}/sign-in`, {
      email: 'wren@fen-society.example.org',
      password: goodPassword,
    });
    expect([signedIn.status, (await again.get(`${portal}/me`)).status]).toEqual([200, 200]);
  });

  it('lets nobody else in, and tells nobody whether an address is known', async () => {
    const client = at.client();
    for (const [email, said] of [
      ['x@example.org', 'Only addresses of fen-society.example.org come in this way.'],
      ['x@sub.fen-society.example.org', 'Only addresses of fen-society.example.org come in this way.'],
      ['no address', 'Type an e-mail address, like name@example.org.'],
    ])
      expect((await ask(client, email!)).body.fields).toEqual({ email: said });
    // Rows that make nobody a member: two of one roster with one address.
    await at.run("UPDATE owners SET email = 'twins@fen-society.example.org' ORDER BY id LIMIT 2");
    const known = await ask(client, 'twins@fen-society.example.org');
    const strange = await ask(client, 'strange@fen-society.example.org');
    expect([known.status, known.body]).toEqual([strange.status, strange.body]);
    await answered('twins@fen-society.example.org', 'nobody');
    expect(await OutboxMail.count({ where: { recipient: 'twins@fen-society.example.org' } })).toBe(0);
    // One that was asked for before a row came leads in by the row, once it counts.
    const proof = await proofIn('strange@fen-society.example.org');
    await at.run("UPDATE owners SET email = 'strange@fen-society.example.org' ORDER BY id LIMIT 2");
    expect((await prove(client, proof)).status).toBe(409);
    expect((await prove(client, proof)).status).toBe(404);
    expect(await Member.count({ where: { email: 'strange@fen-society.example.org' } })).toBe(0);
  });

  it('lets suspended and gone ones not come back this way', async () => {
    const suspended = await come('linnet@fen-society.example.org');
    const id = await at.idOf('linnet@fen-society.example.org');
    await at.builder.send('PUT', `${bench}/members/${id}/suspension`, { reason: 'left the society' });
    expect((await suspended.get(`${portal}/me`)).status).toBe(401);
    const mails = await OutboxMail.count({ where: { recipient: 'linnet@fen-society.example.org' } });
    await ask(at.client(), 'linnet@fen-society.example.org');
    await answered('linnet@fen-society.example.org', 'nobody');
    await Member.update({ suspended: null, onRoster: false, goneSince: new Date() }, { where: { id } });
    await ask(at.client(), 'linnet@fen-society.example.org');
    await vi.waitFor(async () => {
      const where = { email: 'linnet@fen-society.example.org', state: 'nobody' };
      expect(await SignUpRequest.count({ where })).toBe(2);
    });
    expect(await OutboxMail.count({ where: { recipient: 'linnet@fen-society.example.org' } })).toBe(mails);
  });

  it('makes them whom a row says as soon as one comes, and lets them go with it', async () => {
    const client = await come('teal@fen-society.example.org');
    const id = await at.idOf('teal@fen-society.example.org');
    expect((await client.get(`${portal}/records/owners`)).body.total).toBe(0);
    const row =
      "name = 'Teal Marsh', postal_address = '1 Fen Lane', parish = 'Saltby', email = 'teal@fen-society.example.org'";
    await at.run(`INSERT INTO owners SET ${row}`);
    // At the next request, with nothing pressed.
    expect((await client.get(`${portal}/me`)).body.member.roles).toEqual(['Well owner']);
    expect((await client.get(`${portal}/records/owners`)).body.records[0].values.name).toBe('Teal Marsh');
    expect((await Member.findByPk(id, { rejectOnEmpty: true })).withoutRow).toBe(false);
    await at.run("DELETE FROM owners WHERE email = 'teal@fen-society.example.org'");
    expect((await client.get(`${portal}/me`)).status).toBe(401);
    // Who is gone does not come back by the domain.
    const wrong = { email: 'teal@fen-society.example.org', password: goodPassword };
    expect((await at.client().post(`${portal}/sign-in`, wrong)).status).toBe(401);
  });

  it('is shut at the next click once it is open to another domain or to none', async () => {
    const client = await come('snipe@fen-society.example.org');
    expect((await client.get(`${portal}/me`)).status).toBe(200);
    await openTo([]);
    expect((await client.get(`${portal}/me`)).status).toBe(401);
    expect((await ask(at.client(), 'snipe@fen-society.example.org')).status).toBe(404);
    const wrong = { email: 'snipe@fen-society.example.org', password: goodPassword };
    expect((await at.client().post(`${portal}/sign-in`, wrong)).status).toBe(401);
    await openTo(['elsewhere.example.org']);
    expect((await at.client().post(`${portal}/sign-in`, wrong)).status).toBe(401);
  });

  it('makes one member of two who prove the same address at the same moment', async () => {
    const [one, two] = [at.client(), at.client()];
    await ask(one, 'pair@fen-society.example.org');
    const first = await proofIn('pair@fen-society.example.org');
    await ask(two, 'pair@fen-society.example.org');
    const second = /prove#([\w-]+)/.exec((await at.newest('pair@fen-society.example.org', 1)).parsed.text!)![1]!;
    const came = await Promise.all([prove(one, first), prove(two, second)]);
    expect(came.some(({ status }) => status === 200)).toBe(true);
    expect(came.every(({ status }) => [200, 409].includes(status))).toBe(true);
    expect(await Member.count({ where: { email: 'pair@fen-society.example.org' } })).toBe(1);
  });
});
