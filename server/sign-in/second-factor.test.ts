import { Secret, TOTP } from 'otpauth';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Client } from '../../test/server';
import { bench, goodPassword, ines, MailedPortal, portal } from '../people/mails.fixture';
import { hashPassword } from '../sessions/passwords';
import { Member, SecondFactor } from '../store/people-models';

let at: MailedPortal;

beforeAll(async () => {
  at = await MailedPortal.open(inject('database'), 'proofs');
  await Member.update({ passwordHash: await hashPassword(goodPassword) }, { where: {} });
  await at.withSignIn({ methods: ['password'], secondFactor: ['well_owner'] });
});
afterAll(async () => at?.close());

const mara = 'mara.lindqvist@example.org';
const signIn = async (email: string, password = goodPassword) => {
  const client = at.client();
  return { client, answer: await client.post(`${portal}/sign-in`, { email, password }) };
};
const isIn = async (client: Client) => (await client.get(`${portal}/me`)).status === 200;
const codeOf = (secret: string, steps = 0) =>
  new TOTP({ secret: Secret.fromBase32(secret) }).generate({ timestamp: Date.now() + steps * 30_000 });
const again = (email: string) => at.demo.server.services.failures.succeeded(`second factor of ${email}`, '127.0.0.1');

describe('codes of the moment', () => {
  // RFC 6238, Appendix B: the seed is ASCII, eight digits, SHA-1.
  it.each([
    [59, '94287082'],
    [1_111_111_109, '07081804'],
    [1_111_111_111, '14050471'],
    [1_234_567_890, '89005924'],
    [2_000_000_000, '69279037'],
    [20_000_000_000, '65353130'],
  ])('are those of RFC 6238 at %i', (seconds, code) => {
    const totp = new TOTP({
      secret: Secret.fromUTF8('12345678901234567890'),
      digits: 8,
      algorithm: 'SHA1',
      period: 30,
    });
    expect(totp.generate({ timestamp: seconds * 1000 })).toBe(code);
  });
});

describe('a second factor', () => {
  let secret = '';
  let recovery: string[] = [];

  it('is set up before the first look where a role asks for it', async () => {
    const { client, answer } = await signIn(ines);
    expect(answer.body).toEqual({ name: 'Ines Brannock', lacks: 'new second factor' });
    const { cookie } = client.headers();
    const state = async () => (await at.builder.get(`${bench}/members?search=${ines}`)).body.members[0].state;
    expect(await state()).toBe('known');
    expect(await isIn(client)).toBe(false);
    const begun = (await client.post(`${portal}/second-factor/begin`)).body;
    expect(begun.picture).toMatch(/^<svg/);
    // From another browser it is nothing, and then spent.
    const other = await signIn(mara);
    expect(other.answer.body.lacks).toBe(null);
    const stolen = { ticket: begun.ticket, code: codeOf(begun.secret) };
    expect((await other.client.post(`${portal}/second-factor/set`, stolen)).status).toBe(409);
    const next = (await client.post(`${portal}/second-factor/begin`)).body;
    secret = next.secret;
    const set = await client.post(`${portal}/second-factor/set`, { ticket: next.ticket, code: codeOf(secret) });
    expect(set.status).toBe(200);
    recovery = set.body.recovery;
    expect([recovery.length, await isIn(client), await state()]).toEqual([10, true, 'active']);
    // What was half a session is none any more.
    expect((await at.client().send('GET', `${portal}/me`, undefined, { cookie })).status).toBe(401);
    const kept = JSON.stringify(await SecondFactor.findAll());
    expect([secret, ...recovery].filter((each) => kept.includes(each))).toEqual([]);
  });

  it('is asked for at each sign-in; a code is taken once, and a wrong clock is said', async () => {
    const { client, answer } = await signIn(ines);
    expect(answer.body.lacks).toBe('second factor');
    const give = (code: string, by = client) => by.post(`${portal}/second-factor`, { code });
    expect((await give('000000')).body.detail).toMatch(/code is wrong/);
    expect((await give(codeOf(secret, 6))).body.detail).toMatch(
      /clock of your device is about [23](\.\d)? minutes fast/,
    );
    expect((await give(codeOf(secret, -6))).body.detail).toMatch(/minutes slow/);
    // The step of the set-up is spent; the next one is near enough to be taken.
    const code = codeOf(secret, 1);
    expect((await give(code)).status).toBe(204);
    expect(await isIn(client)).toBe(true);
    const second = await signIn(ines);
    expect((await give(code, second.client)).body.detail).toMatch(/used already/);
    expect(await isIn(second.client)).toBe(false);
    // Nor does a half session replace the factor.
    expect((await second.client.post(`${portal}/second-factor/begin`)).status).toBe(403);
  });

  it('has recovery codes, each once', async () => {
    const id = await at.idOf(ines);
    await again(String(id));
    const { client } = await signIn(ines);
    expect((await client.post(`${portal}/second-factor`, { code: ` ${recovery[3]!.toUpperCase()}` })).status).toBe(204);
    expect(await isIn(client)).toBe(true);
    const second = await signIn(ines);
    expect((await second.client.post(`${portal}/second-factor`, { code: recovery[3] })).status).toBe(401);
  });

  it('is slowed down after ten tries, and forgotten by a builder for who lost it', async () => {
    const id = await at.idOf(ines);
    const { client } = await signIn(ines);
    let status = 0;
    for (let i = 0; i < 12 && status !== 429; i++)
      ({ status } = await client.post(`${portal}/second-factor`, { code: '000000' }));
    expect(status).toBe(429);
    await again(String(id));
    expect((await at.builder.send('DELETE', `${bench}/members/${id}/second-factor`)).status).toBe(204);
    expect((await signIn(ines)).answer.body.lacks).toBe('new second factor');
  });

  it('may be shorter beside it: a password of eight characters', async () => {
    const { client } = await signIn(mara);
    const change = (password: string) => client.send('PUT', `${portal}/own/password`, { old: goodPassword, password });
    expect((await change('eel-marsh')).body.fields.password).toMatch(/15 characters/);
    await at.withSignIn({ methods: ['password'], secondFactor: ['well_owner', 'sampler'] });
    // Asked for from the next sign-in on; who is in stays.
    expect((await change('eel-marsh')).status).toBe(204);
    expect((await signIn(mara, 'eel-marsh')).answer.body.lacks).toBe('new second factor');
  });
});

describe("one's own sign-in", () => {
  it('shows where one is signed in, and ends others; a new password ends them, too', async () => {
    await at.withSignIn({ methods: ['password'] });
    const [one, two, three] = [(await signIn(ines)).client, (await signIn(ines)).client, (await signIn(ines)).client];
    const own = (await one.get(`${portal}/own/sign-in`)).body;
    const sessions = own.sessions as { id: number; isThis: boolean }[];
    expect([own.hasPassword, sessions.filter(({ isThis }) => isThis).length]).toEqual([true, 1]);
    // Nobody ends a session of somebody else.
    const his = (await signIn(mara, 'eel-marsh')).client;
    expect((await his.send('DELETE', `${portal}/own/sessions/${sessions[0]!.id}`)).status).toBe(404);
    const theirs = (await two.get(`${portal}/own/sign-in`)).body.sessions.find(
      (each: { isThis: boolean }) => each.isThis,
    );
    expect((await one.send('DELETE', `${portal}/own/sessions/${theirs.id}`)).status).toBe(204);
    expect([await isIn(one), await isIn(two), await isIn(three)]).toEqual([true, false, true]);
    const change = (old: string, password: string) => one.send('PUT', `${portal}/own/password`, { old, password });
    expect((await change('not it', `${goodPassword} 2`)).body.fields.old).toMatch(/not your password/);
    expect((await change(goodPassword, `${goodPassword} 2`)).status).toBe(204);
    expect([await isIn(one), await isIn(three), (await signIn(ines)).answer.status]).toEqual([true, false, 401]);
  });
});
