import { afterAll, beforeAll, beforeEach, describe, expect, inject, it, vi } from 'vitest';
import { Portal, Setting } from '../store/models';
import type { Client } from '../../test/server';
import { hashPassword } from '../sessions/passwords';
import { DoorCall, Member, OutboxMail, Session } from '../store/people-models';
import { bench, goodPassword, ines, MailedPortal, portal, tokenIn } from '../people/mails.fixture';
import type { ReceivedMail } from '../../standins/mail/received-mail';

let at: MailedPortal;

beforeAll(async () => {
  at = await MailedPortal.open(inject('database'), 'codes');
  await Member.update({ passwordHash: await hashPassword(goodPassword) }, { where: { email: ines } });
});
afterAll(async () => at?.close());
beforeEach(() => {
  at.box.mood = {};
});

describe('a code by e-mail', () => {
  /** The browser that asks and types, where it is no other. */
  let browser: Client;
  beforeAll(() => {
    browser = at.client();
  });
  const ask = (email: string, client = browser) => client.post(`${portal}/calls`, { email, wants: 'code' });
  const type = (email: string, code: string, client = browser) =>
    client.post(`${portal}/sign-in/code`, { email, code });
  const codeIn = (mail: ReceivedMail) => /^(\d{6}) is your code/.exec(mail.parsed.subject!)![1]!;

  it('is found by the check where it would reach nobody', async () => {
    const ways = async () => {
      const { findings } = (await at.builder.get(`${bench}/findings`)).body as { findings: { id: string }[] };
      return findings.map(({ id }) => id).filter((id) => id.startsWith('way-in/'));
    };
    await at.draftWith((draft) => void (draft.signIn = { methods: ['password', 'code'], secondFactor: ['nobody'] }));
    expect(await ways()).toEqual(['way-in/second-factor']);
    const kept = (await Setting.findByPk('mail server'))!.value;
    await Setting.destroy({ where: { name: 'mail server' } });
    expect(await ways()).toEqual(['way-in/code', 'way-in/password', 'way-in/sign-up', 'way-in/second-factor']);
    await Setting.create({ name: 'mail server', value: kept });
    await at.draftWith((draft) => void delete draft.signIn);
    expect(await ways()).toEqual([]);
  });

  it('is not on until the portal says so', async () => {
    expect((await ask(ines)).status).toBe(404);
    await at.withSignIn({ methods: ['code', 'password'] });
    expect((await at.client().get(`${portal}/door`)).body.methods).toEqual(['code', 'password']);
  });

  it('lets in once, and only its own address', async () => {
    const before = at.mailsTo(ines).length;
    expect((await ask(` ${ines.toUpperCase()}`)).status).toBe(202);
    const code = codeIn(await at.newest(ines, before));
    expect((await type('new@example.org', code)).status).toBe(401);
    expect((await type(ines, ` ${code.slice(0, 3)} ${code.slice(3)}`)).body).toEqual({
      name: 'Ines Brannock',
      lacks: null,
    });
    expect((await browser.get(`${portal}/me`)).status).toBe(200);
    expect((await type(ines, code)).status).toBe(401);
    // Nothing that is kept is the code.
    const kept = JSON.stringify([await DoorCall.findAll(), await OutboxMail.findAll({ where: { kind: 'code' } })]);
    expect(kept).not.toContain(code);
  });

  it('stands five tries, and ends after ten minutes', async () => {
    const before = at.mailsTo(ines).length;
    await ask(ines);
    const code = codeIn(await at.newest(ines, before));
    const wrong = code === '000000' ? '111111' : '000000';
    for (let i = 0; i < 5; i++) expect((await type(ines, wrong)).body.detail).toMatch(/code is wrong/);
    const sixth = await type(ines, code);
    expect([sixth.status, sixth.body.detail]).toEqual([401, expect.stringMatching(/tried too often/)]);
    await at.demo.server.services.failures.succeeded(`alder-fen\n${ines}`, '127.0.0.1');
    await ask(ines);
    const second = codeIn(await at.newest(ines, before + 1));
    await DoorCall.update({ endsAt: new Date(Date.now() - 1000) }, { where: { state: 'sent' } });
    expect((await type(ines, second)).status).toBe(401);
  });

  it('is good in the browser that asked, and nobody else uses it up or has it replaced', async () => {
    const before = at.mailsTo(ines).length;
    await ask(ines);
    const code = codeIn(await at.newest(ines, before));
    const other = at.client();
    // Without having asked, and after having asked for themselves.
    for (let i = 0; i < 3; i++) expect((await type(ines, code, other)).status).toBe(401);
    await ask(ines, other);
    await at.newest(ines, before + 1);
    for (let i = 0; i < 3; i++) expect((await type(ines, code, other)).status).toBe(401);
    await at.demo.server.services.failures.succeeded(`alder-fen\n${ines}`, '127.0.0.1');
    expect((await type(ines, code)).status).toBe(200);
  });

  it('floods no mail box, whoever asks', async () => {
    const mara = 'mara.lindqvist@example.org';
    const call = {
      portalId: 1,
      email: mara,
      wants: 'code' as const,
      browserHash: 'x'.repeat(64),
      state: 'sent' as const,
    };
    const { id: portalId } = await Portal.findOne({ where: { slug: 'alder-fen' }, rejectOnEmpty: true });
    const [madeAt, endsAt] = [new Date(), new Date()];
    await DoorCall.bulkCreate(Array.from({ length: 10 }, () => ({ ...call, portalId, madeAt, endsAt })));
    expect((await ask(mara)).status).toBe(202);
    const newest = () => DoorCall.findOne({ where: { email: mara }, order: [['id', 'DESC']], rejectOnEmpty: true });
    await vi.waitFor(async () => expect((await newest()).state).toBe('nobody'), { timeout: 20_000, interval: 20 });
    expect(at.mailsTo(mara)).toEqual([]);
    await DoorCall.destroy({ where: { email: mara } });
  });

  it('gives a stranger the same answers, and no mail', async () => {
    const stranger = 'nobody.here@example.org';
    await DoorCall.destroy({ where: {} });
    const known = [await ask(ines), await type(ines, '999999')];
    const unknown = [await ask(stranger), await type(stranger, '999999')];
    expect(unknown.map(({ status, body }) => [status, body?.detail])).toEqual(
      known.map(({ status, body }) => [status, body?.detail]),
    );
    await vi.waitFor(
      async () => expect((await DoorCall.findOne({ where: { email: stranger } }))!.state).toBe('nobody'),
      {
        timeout: 20_000,
        interval: 20,
      },
    );
    expect(await OutboxMail.count({ where: { recipient: stranger } })).toBe(0);
    for (let i = 0; i < 5; i++) await type(stranger, '999999');
    expect((await type(stranger, '999999')).body.detail).toMatch(/tried too often/);
  });
});

describe('a forgotten password', () => {
  it('is replaced by a link that works once; every session ends', async () => {
    const client = at.client();
    expect((await client.post(`${portal}/sign-in`, { email: ines, password: goodPassword })).status).toBe(200);
    const before = at.mailsTo(ines).length;
    expect((await at.client().post(`${portal}/calls`, { email: ines, wants: 'password' })).status).toBe(202);
    const token = tokenIn(await at.newest(ines, before));
    const next = at.client();
    expect((await next.post(`${portal}/links/look`, { token })).body).toMatchObject({
      kind: 'password',
      asksPassword: true,
    });
    expect((await next.post(`${portal}/links/use`, { token, password: `${goodPassword} again` })).status).toBe(200);
    expect([(await client.get(`${portal}/me`)).status, (await next.get(`${portal}/me`)).status]).toEqual([401, 200]);
    expect((await at.client().post(`${portal}/sign-in`, { email: ines, password: goodPassword })).status).toBe(401);
    expect((await at.client().post(`${portal}/links/use`, { token, password: goodPassword })).status).toBe(404);
    expect(await Session.count({ where: { memberId: await at.idOf(ines) } })).toBe(1);
  });

  it('is nothing to whoever is suspended or has another address by now', async () => {
    const before = at.mailsTo(ines).length;
    await at.client().post(`${portal}/calls`, { email: ines, wants: 'password' });
    const token = tokenIn(await at.newest(ines, before));
    const id = await at.idOf(ines);
    await at.builder.send('PUT', `${bench}/members/${id}/suspension`, { reason: 'A test of it' });
    expect((await at.client().post(`${portal}/links/look`, { token })).status).toBe(404);
    await at.builder.send('DELETE', `${bench}/members/${id}/suspension`);
    expect((await at.client().post(`${portal}/links/look`, { token })).status).toBe(200);
    await at.run(`UPDATE owners SET email = 'ines@elsewhere.example.org' WHERE email = '${ines}'`);
    expect((await at.client().post(`${portal}/links/look`, { token })).status).toBe(404);
    expect((await at.client().post(`${portal}/links/use`, { token, password: `${goodPassword} anew` })).status).toBe(
      404,
    );
  });
});
