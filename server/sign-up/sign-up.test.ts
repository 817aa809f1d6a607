import { afterAll, beforeAll, beforeEach, describe, expect, inject, it, vi } from 'vitest';
import { raw } from '../../core/sql/sql';
import type { Condition } from '../../core/condition/tree';
import type { SignUp } from '../../core/definition/sign-up';
import type { Client } from '../../test/server';
import { MailedPortal, bench, goodPassword, portal } from '../people/mails.fixture';
import { KeptChange } from '../store/history-model';
import { AuditEntry } from '../store/models';
import { Member, OutboxMail, SignUpRequest } from '../store/people-models';
import { SignUps } from './sign-ups';

let at: MailedPortal;

beforeAll(async () => {
  at = await MailedPortal.open(inject('database'), 'coming');
});
afterAll(async () => at?.close());
// Tries at the door are counted; each test comes as if for the first time.
beforeEach(() => at.run('DELETE FROM coming_own.sign_in_failures'));

const rows = async (text: string): Promise<unknown[][]> =>
  at.demo.server.services.sources.get('coming').rows(raw(text));
const owners = (over: Partial<SignUp> = {}): SignUp => ({
  id: 'owners',
  name: 'For well owners of Saltby',
  roster: 'owners',
  asks: ['name', 'phone', 'postal_address', 'parish', 'email', 'contact_by'],
  fills: [{ column: 'parish', value: { kind: 'text', text: 'Saltby' } }],
  ...over,
});
/** Publishes these sign-ups and gives the link's token of each. */
const withSignUps = async (...signUps: SignUp[]): Promise<string[]> => {
  const drafted = await at.draftWith((draft) => {
    draft.signUps = signUps;
    // What comes in by a sign-up is kept like any change.
    (draft.tables.owners ??= {}).history = {};
  });
  expect(drafted.status).toBe(200);
  expect((await at.publish()).status).toBe(201);
  const { links } = (await at.builder.get(`${bench}/sign-ups`)).body as { links: { id: string; link: string }[] };
  return signUps.map(({ id }) => links.find((each) => each.id === id)!.link.split('#')[1]!);
};
const own: Condition = {
  kind: 'compare',
  left: { kind: 'column', path: ['id'] },
  comparison: '=',
  right: { kind: 'member', fact: ['owners', 'id'] },
};
const values = { name: 'Nora Newell', postal_address: '2 Fen Lane' };
const ask = (client: Client, token: string, email: string, filled: object = values) =>
  client.post(`${portal}/sign-up`, { token, email, values: filled });
const proofIn = async (email: string, before = 0) =>
  /prove#([\w-]+)/.exec((await at.newest(email, before)).parsed.text!)![1]!;
const prove = (client: Client, token: string) => client.post(`${portal}/sign-up/prove`, { token });
const rowOf = (email: string) => rows(`SELECT name, parish FROM owners WHERE email = '${email}'`);

describe('a link to come in', () => {
  it('makes a row of the roster once the address is proven, and lets its owner in to their own', async () => {
    const [token] = await withSignUps(owners());
    const client = at.client();
    const info = (await client.post(`${portal}/sign-up/look`, { token })).body;
    // What decides who somebody is isn't asked.
    expect([info.name, info.waits, info.asks.map(({ path }: { path: string }) => path)]).toEqual([
      'For well owners of Saltby',
      false,
      ['name', 'phone', 'postal_address', 'contact_by'],
    ]);
    expect((await ask(client, token!, 'Nora@Example.org')).status).toBe(202);
    const proof = await proofIn('nora@example.org');
    expect(await rowOf('nora@example.org')).toEqual([]);
    const { status, body } = await prove(client, proof);
    expect([status, body.waits]).toEqual([200, false]);
    expect(await rowOf('nora@example.org')).toEqual([['Nora Newell', 'Saltby']]);
    const kept = await KeptChange.findAll({ where: { tableName: 'owners' }, raw: true });
    expect(kept.map(({ made, memberId }) => [made, memberId])).toEqual([['made', null]]);
    expect((await prove(client, proof)).status).toBe(404);
    const used = await client.post(`${portal}/links/use`, { token: body.token, password: goodPassword });
    expect(used.status).toBe(200);
    const own = (await client.get(`${portal}/records/owners`)).body;
    expect([own.total, own.records[0].values.name]).toEqual([1, 'Nora Newell']);
    const written = await AuditEntry.findAll({ order: [['id', 'DESC']], limit: 2 });
    expect(written.map(({ what, about }) => [what, about])).toEqual([
      ['signed in', 'from 127.0.0.1'],
      ['came by a sign-up', 'For well owners of Saltby'],
    ]);
  });

  it('takes nothing that decides, nothing that does not fit, and nobody by a link that is none', async () => {
    const [token] = await withSignUps(owners({ domains: ['example.org'] }));
    const client = at.client();
    const faulty = await ask(client, token!, 'x@example.org', { ...values, parish: 'Harrow End', tax_number: '1' });
    expect([faulty.status, faulty.body.fields]).toEqual([
      422,
      { parish: "This can't be filled in here.", tax_number: "This can't be filled in here." },
    ]);
    const missing = await ask(client, token!, 'x@example.org', { contact_by: 'pigeon' });
    expect(Object.keys(missing.body.fields).toSorted()).toEqual(['contact_by', 'name', 'postal_address']);
    for (const [email, said] of [
      ['no address', 'Type an e-mail address, like name@example.org.'],
      ['x@sub.example.org', 'Only addresses of example.org come in by this link.'],
    ])
      expect((await ask(client, token!, email!)).body.fields).toEqual({ email: said });
    expect((await client.post(`${portal}/sign-up/look`, { token: 'guessed' })).status).toBe(404);
    expect((await ask(client, 'guessed', 'x@example.org')).status).toBe(404);
    expect(await SignUpRequest.count({ where: { email: 'x@example.org' } })).toBe(0);
  });

  it('tells nobody whether an address is known: who is known gets a mail to sign in, and no row', async () => {
    const [token] = await withSignUps(owners());
    const client = at.client();
    const before = await rows('SELECT COUNT(*) FROM owners');
    const known = await ask(client, token!, 'ines.brannock@example.org');
    const strange = await ask(client, token!, 'strange@example.org');
    expect([known.status, known.body]).toEqual([strange.status, strange.body]);
    const mail = await at.newest('ines.brannock@example.org', 0);
    expect(mail.parsed.subject).toBe('You can come in at Alder Fen Wells already');
    expect(mail.parsed.text).not.toContain('prove#');
    // Whoever shares an address with others, or is suspended, is nobody at the door, and gets no row either.
    const [[shared]] = (await rows('SELECT email FROM owners GROUP BY email HAVING COUNT(*) = 2')) as [[string]];
    await ask(client, token!, shared);
    await vi.waitFor(async () => {
      const last = await SignUpRequest.findOne({ where: { email: shared }, rejectOnEmpty: true });
      expect(last.state).toBe('nobody');
    });
    expect(await OutboxMail.count({ where: { recipient: shared } })).toBe(0);
    expect(await rows('SELECT COUNT(*) FROM owners')).toEqual(before);
  });

  it('is sent to addresses that a builder types, each once, and to nobody who is known', async () => {
    const invite = (addresses: string[]) => at.builder.post(`${bench}/sign-ups/owners/invitations`, { addresses });
    await withSignUps(owners({ id: 'others' }));
    expect((await invite(['typed@lab.example'])).body.detail).toMatch(/Publish the sign-up first/);
    await withSignUps(owners({ domains: ['lab.example'] }));
    await at.run("INSERT INTO owners (name, email, postal_address, parish) VALUES ('K', 'k@lab.example', 'x', 'x')");
    const typed = ['typed@lab.example', 'no address', 'far@example.org', 'K@lab.example'];
    const outcomes = async (addresses: string[]) =>
      (await invite(addresses)).body.outcomes.map(({ outcome }: { outcome: string }) => outcome);
    expect(await outcomes(typed)).toEqual(['sent', 'no address', 'not of its domains', 'known already']);
    expect(await outcomes(['Typed@lab.example'])).toEqual(['written to before']);
    const mail = await at.newest('typed@lab.example', 0);
    const token = /sign-up#([\w-]+)/.exec(mail.parsed.text!)![1]!;
    expect((await at.client().post(`${portal}/sign-up/look`, { token })).body.domains).toEqual(['lab.example']);
    const [line] = (await at.builder.get(`${bench}/log`)).body.entries;
    expect(line).toMatchObject({ what: 'invited to sign up', about: 'typed@lab.example' });
  });

  it('ends on its day, and when as many as can have come; of two at once one does', async () => {
    const [ended, one] = await withSignUps(owners({ id: 'ended', ends: '2026-11-01' }), owners({ id: 'one', uses: 1 }));
    const client = at.client();
    const look = await client.post(`${portal}/sign-up/look`, { token: ended });
    expect([look.status, look.body.detail]).toEqual([410, 'This link has ended. Ask whoever gave it to you.']);
    await ask(client, one!, 'first@example.org');
    await ask(client, one!, 'second@example.org');
    const proofs = [await proofIn('first@example.org'), await proofIn('second@example.org')];
    const came = await Promise.all(proofs.map((proof) => prove(client, proof)));
    expect(came.map(({ status }) => status).toSorted()).toEqual([200, 410]);
    expect(
      await rows("SELECT COUNT(*) FROM owners WHERE email IN ('first@example.org', 'second@example.org')"),
    ).toEqual([[1n]]);
    expect((await ask(client, one!, 'third@example.org')).status).toBe(410);
    // After a month nobody knows who it was; that it was somebody counts still.
    await SignUpRequest.update({ madeAt: new Date('2026-01-01') }, { where: { state: 'done' } });
    await SignUps.forgetOld(new Date());
    expect(await SignUpRequest.count({ where: { email: ['first@example.org', 'second@example.org'] } })).toBe(1);
    expect((await ask(client, one!, 'third@example.org')).status).toBe(410);
  });

  it('is found again where the server was killed while a row was made', async () => {
    const [token] = await withSignUps(owners({ id: 'stopped', uses: 2 }));
    const signUps = new SignUps(at.demo.server.services);
    const client = at.client();
    const stopped = async (email: string) => {
      await ask(client, token!, email);
      const proof = await proofIn(email);
      const request = await SignUpRequest.findOne({ where: { email }, rejectOnEmpty: true });
      await request.update({ state: 'entering', enteringSince: new Date(Date.now() - 3_600_000) });
      return { request, proof };
    };
    const without = await stopped('before@lab.example');
    const made = await stopped('after@lab.example');
    await at.run(
      "INSERT INTO owners (name, email, postal_address, parish) VALUES ('A', 'after@lab.example', 'x', 'x')",
    );
    await signUps.findStopped(new Date());
    await Promise.all([without.request.reload(), made.request.reload()]);
    expect([without.request.state, made.request.state]).toEqual(['sent', 'done']);
    expect((await prove(client, without.proof)).status).toBe(200);
  });

  it('waits for whoever must agree, who sees it on their page; then a mail lets them in', async () => {
    const [token] = await withSignUps(owners({ approver: 'desk' }));
    const client = at.client();
    for (const email of ['yes@example.org', 'no@example.org']) {
      await ask(client, token!, email);
      expect((await prove(client, await proofIn(email))).body).toEqual({ waits: true, token: null });
      expect(await rowOf(email)).toEqual([]);
    }
    const desk = at.client();
    await Member.update(
      { passwordHash: (await Member.findOne({ where: { email: 'nora@example.org' } }))!.passwordHash },
      { where: { email: 'odile.fennimore@example.org' } },
    );
    await desk.post(`${portal}/sign-in`, { email: 'odile.fennimore@example.org', password: goodPassword });
    const { requests } = (await desk.get(`${portal}/requests`)).body;
    expect(
      requests.map(({ email, values: filled }: { email: string; values: object[] }) => [email, filled[0]]),
    ).toEqual([
      ['yes@example.org', { label: 'Name', value: 'Nora Newell' }],
      ['no@example.org', { label: 'Name', value: 'Nora Newell' }],
    ]);
    // Whoever is no approver finds none.
    const nora = at.client();
    await nora.post(`${portal}/sign-in`, { email: 'nora@example.org', password: goodPassword });
    expect((await nora.get(`${portal}/requests`)).body.requests).toEqual([]);
    expect((await nora.post(`${portal}/requests/${requests[0].id}/agree`)).status).toBe(404);
    expect((await desk.post(`${portal}/requests/${requests[0].id}/agree`)).status).toBe(204);
    expect((await desk.post(`${portal}/requests/${requests[1].id}/refuse`)).status).toBe(204);
    expect((await desk.post(`${portal}/requests/${requests[0].id}/agree`)).status).toBe(404);
    expect([await rowOf('yes@example.org'), await rowOf('no@example.org')]).toEqual([[['Nora Newell', 'Saltby']], []]);
    const mail = await at.newest('yes@example.org', 1);
    const link = /come-in#([\w-]+)/.exec(mail.parsed.text!)![1]!;
    expect((await client.post(`${portal}/links/use`, { token: link, password: goodPassword })).status).toBe(200);
    expect((await at.builder.get(`${bench}/sign-ups`)).body.requests[0]).toMatchObject({
      email: 'no@example.org',
      state: 'refused',
      decided: 'Odile Fennimore <odile.fennimore@example.org>',
    });
  });

  it('says at once what a rule refuses, and lets nobody in where one was made in between', async () => {
    const [token] = await withSignUps(owners());
    const client = at.client();
    await ask(client, token!, 'late@example.org');
    const late = await proofIn('late@example.org');
    const rule = { id: 'ask-phone', does: 'required' as const, columns: ['phone'] };
    await at.draftWith((draft) => void (draft.tables.owners!.rules = [...(draft.tables.owners!.rules ?? []), rule]));
    await withSignUps(owners());
    const refused = await ask(client, token!, 'silent@example.org');
    expect([refused.status, Object.keys(refused.body.fields)]).toEqual([422, ['phone']]);
    expect(await SignUpRequest.count({ where: { email: 'silent@example.org' } })).toBe(0);
    expect((await prove(client, late)).status).toBe(422);
    expect(await rowOf('late@example.org')).toEqual([]);
    const request = await SignUpRequest.findOne({ where: { email: 'late@example.org' }, rejectOnEmpty: true });
    expect([request.state, request.decided]).toEqual(['refused', "Some values can't be saved."]);
    // A fence that no newcomer passes shuts the link.
    const fence = { id: 'all', table: 'owners', where: own, exceptRoles: ['desk'] };
    await at.draftWith((draft) => void (draft.fences = [...(draft.fences ?? []), fence]));
    await withSignUps(owners());
    const shut = await ask(client, token!, 'fenced@example.org', { ...values, phone: '1' });
    expect([shut.status, shut.body.type]).toEqual([410, 'urn:stone-porch:problem:sign-up-over']);
  });
});
