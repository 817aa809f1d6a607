import { Secret, TOTP } from 'otpauth';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { SignInRules } from '../../core/sign-in/sign-in-rules';
import { demoPassword } from '../../demo/load';
import { openProvider, type StandInProvider } from '../../standins/identity/provider';
import type { Client } from '../../test/server';
import { saveAddress } from '../mail/own-address';
import { goodPassword, ines, MailedPortal, portal } from '../people/mails.fixture';
import { hashPassword } from '../sessions/passwords';
import { Builder, Setting } from '../store/models';
import { Member, SecondFactor } from '../store/people-models';
import { Browser } from './browser.fixture';

const wren = 'builder@example.org';
const reader = 'reader@example.org';
const stranger = 'stranger@example.org';

let at: MailedPortal;
let provider: StandInProvider;
const home = () => at.demo.base.replace('127.0.0.1', 'localhost');

beforeAll(async () => {
  at = await MailedPortal.open(inject('database'), 'bench_door');
  await saveAddress(home());
  const passwordHash = await hashPassword(goodPassword);
  await Builder.create({ email: reader, name: 'Reader', right: 'reader', portals: null, passwordHash });
  await Member.update({ passwordHash }, { where: { email: ines } });
  provider = await openProvider({
    accounts: [wren, stranger].map((email) => ({ email, name: email, isVerified: true })),
    returnsTo: (address) => address === `${home()}/api/builder/provider/back`,
  });
});
afterAll(async () => {
  await at?.close();
  await provider?.close();
});

const setRules = (rules: SignInRules) => at.builder.send('PUT', '/builder/sign-in/rules', rules);
const rules = async (): Promise<SignInRules> => (await at.builder.get('/builder/sign-in/rules')).body.rules;
const signIn = async (email: string, password: string) => {
  const client = at.client();
  return { client, answer: await client.post('/builder/sign-in', { email, password }) };
};
const isIn = async (client: Client) => (await client.get('/builder/me')).status === 200;
const wholeLog = async () =>
  (
    (await at.builder.get('/builder/colleagues/log')).body.entries as { who: string; what: string; about: string }[]
  ).map(({ who, what, about }) => ({ who, what, about }));
const log = async () => (await wholeLog()).filter(({ what }) => what !== 'signed in');

describe("the bench's door", () => {
  it('opens no way that leads nowhere, and keeps what it has', async () => {
    const before = await rules();
    const kept = (await Setting.findByPk('mail server'))!.value;
    await Setting.destroy({ where: { name: 'mail server' } });
    expect((await setRules({ methods: ['code'] })).body.detail).toMatch(/no mail server/);
    await Setting.create({ name: 'mail server', value: kept });
    const { issuer, clientId } = provider;
    const own = { label: 'Ours', issuer, clientId };
    expect((await setRules({ methods: ['single sign-on'], provider: own })).status).toBe(502);
    expect((await setRules({ methods: [] })).status).toBe(400);
    expect((await setRules({ methods: ['password'], secondFactor: ['well_owner'] })).status).toBe(400);
    const { client } = await signIn(reader, goodPassword);
    expect((await client.send('PUT', '/builder/sign-in/rules', { methods: ['code'] })).status).toBe(403);
    expect([await rules(), await log()]).toEqual([before, []]);
  });

  it('lets in by a code, once, and says the same to a stranger', async () => {
    expect((await setRules({ methods: ['password', 'code'] })).status).toBe(204);
    const [known, unknown] = [at.client(), at.client()];
    const asked = await known.post('/builder/calls', { email: wren, wants: 'code' });
    const nobody = await unknown.post('/builder/calls', { email: stranger, wants: 'code' });
    expect([asked.status, asked.body]).toEqual([nobody.status, nobody.body]);
    const mail = await at.newest(wren, 0);
    const code = /\b\d{6}\b/.exec(mail.parsed.text!)![0];
    expect((await unknown.post('/builder/sign-in/code', { email: wren, code })).status).toBe(401);
    // A code of the bench opens no portal.
    expect((await known.post(`${portal}/sign-in/code`, { email: wren, code })).status).toBe(404);
    expect((await known.post('/builder/sign-in/code', { email: wren, code })).body).toMatchObject({ lacks: null });
    expect([await isIn(known), (await known.post('/builder/sign-in/code', { email: wren, code })).status]).toEqual([
      true,
      401,
    ]);
    expect(at.mailsTo(stranger)).toEqual([]);
  });

  it('gives a new password by a link, once; everywhere else they are out', async () => {
    const { client } = await signIn(reader, goodPassword);
    await at.client().post('/builder/calls', { email: reader, wants: 'password' });
    const token = /join#([\w-]+)/.exec((await at.newest(reader, 0)).parsed.text!)![1]!;
    const next = { token, password: 'a stone for each of the porches' };
    const other = at.client();
    expect((await other.post('/builder/links/use', next)).body).toEqual({ name: 'Reader', lacks: null });
    expect([await isIn(client), await isIn(other)]).toEqual([false, true]);
    expect((await at.client().post('/builder/links/use', next)).status).toBe(404);
    expect((await signIn(reader, goodPassword)).answer.status).toBe(401);
    // A reader changes their own password, and ends their other sessions.
    const change = { old: next.password, password: goodPassword };
    expect((await other.send('PUT', '/builder/own/password', { ...change, old: 'no' })).body.fields.old).toBeTruthy();
    const further = (await signIn(reader, next.password)).client;
    expect((await other.send('PUT', '/builder/own/password', change)).status).toBe(204);
    expect([await isIn(other), await isIn(further)]).toEqual([true, false]);
    expect((await other.get('/builder/own/sign-in')).body.sessions).toHaveLength(1);
  });

  it('asks a second factor of whom it is to, before the first look', async () => {
    await setRules({ methods: ['password'], secondFactor: ['owner'] });
    expect((await signIn(reader, goodPassword)).answer.body.lacks).toBe(null);
    const { client, answer } = await signIn(wren, demoPassword);
    expect([answer.body.lacks, await isIn(client)]).toEqual(['new second factor', false]);
    expect((await client.get('/builder/own/sign-in')).status).toBe(401);
    const { ticket, secret } = (await client.post('/builder/second-factor/begin')).body;
    const code = new TOTP({ secret: Secret.fromBase32(secret) }).generate();
    const { recovery } = (await client.post('/builder/second-factor/set', { ticket, code })).body;
    expect([recovery.length, await isIn(client)]).toEqual([10, true]);
    expect((await client.send('DELETE', '/builder/own/second-factor')).status).toBe(409);
    const again = await signIn(wren, demoPassword);
    expect([again.answer.body.lacks, await isIn(again.client)]).toEqual(['second factor', false]);
    expect((await again.client.post('/builder/second-factor', { code })).status).toBe(401);
    expect((await again.client.post('/builder/second-factor', { code: recovery[0] })).status).toBe(204);
    expect(await isIn(again.client)).toBe(true);
    const { id } = (await Builder.findOne({ where: { email: wren }, rejectOnEmpty: true })) as Builder;
    expect((await at.builder.send('DELETE', `/builder/colleagues/${id}/second-factor`)).status).toBe(204);
    expect(await SecondFactor.count()).toBe(0);
    await setRules({ methods: ['password'] });
  });

  it('is of those who build alone: no session and no half one of a member passes it, nor the other way', async () => {
    const member = at.client();
    await member.post(`${portal}/sign-in`, { email: ines, password: goodPassword });
    const own = /stone_porch_member=([^;]+)/.exec(member.headers().cookie)![1]!;
    const builders = /stone_porch_builder=([^;]+)/.exec(at.builder.headers().cookie)![1]!;
    const ask = async (path: string, cookie: string, method = 'GET') =>
      (await fetch(`${at.demo.base}/api${path}`, { method, headers: { 'x-stone-porch': 'test', cookie } })).status;
    const begin = '/second-factor/begin';
    expect([
      await ask('/builder/me', `stone_porch_builder=${own}`),
      await ask('/builder/own/sign-in', `stone_porch_builder=${own}`),
      await ask(`/builder${begin}`, `stone_porch_builder=${own}`, 'POST'),
      await ask(`${portal}/me`, `stone_porch_member=${builders}`),
      await ask(`${portal}${begin}`, `stone_porch_member=${builders}`, 'POST'),
    ]).toEqual([401, 401, 401, 401, 401]);
    expect([
      await ask('/builder/me', `stone_porch_builder=${builders}`),
      await ask(`${portal}${begin}`, `stone_porch_member=${own}`, 'POST'),
    ]).toEqual([200, 200]);
  });

  it('lets in whom the identity provider vouches for, if they build', async () => {
    const { issuer, clientId, clientSecret } = provider;
    await at.builder.send('PUT', '/builder/sign-in/provider/secret', { secret: clientSecret });
    const own = { label: 'Ours', issuer, clientId };
    expect((await setRules({ methods: ['password'], provider: own })).status).toBe(204);
    expect((await at.builder.post('/builder/sign-in/provider/try')).body).toMatchObject({ fine: true });
    expect((await setRules({ methods: ['single sign-on'], provider: own })).status).toBe(204);
    expect((await signIn(reader, goodPassword)).answer.status).toBe(404);
    const browser = () => new Browser(home(), { api: '/builder', page: '/', saidCookie: 'stone_porch_bench_said' });
    const through = async (account: string, from = browser()) => from.back(await from.away(account));
    expect(await through(wren)).toBe('');
    expect(await through(stranger)).toMatch(/is not known here/);
    await Builder.update({ suspended: true }, { where: { email: reader } });
    await setRules({ methods: ['password'] });
  });

  it('writes down what owners changed, for owners alone', async () => {
    expect(await wholeLog()).toContainEqual({
      who: 'Wren Ashby <builder@example.org>',
      what: 'signed in',
      about: 'from 127.0.0.1',
    });
    const entries = await log();
    expect(entries.map(({ what }) => what)).toEqual([
      'set how builders sign in',
      'set how builders sign in',
      'set how builders sign in',
      'set a secret',
      'set how builders sign in',
      'forgot a second factor',
      'set how builders sign in',
      'set how builders sign in',
    ]);
    expect(entries[1]).toEqual({
      who: `Wren Ashby <${wren}>`,
      what: 'set how builders sign in',
      about: 'single sign-on',
    });
    expect(JSON.stringify(entries)).not.toContain(provider.clientSecret);
  });
});
