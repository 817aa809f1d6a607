import { afterAll, beforeAll, beforeEach, describe, expect, inject, it, vi } from 'vitest';
import { parse } from 'csv-parse/sync';
import { Portal } from '../store/models';
import { MailLink, Member, OutboxMail } from '../store/people-models';
import { invite } from './invitations';
import { bench, goodPassword, ines, MailedPortal, portal, tokenIn } from './mails.fixture';

let at: MailedPortal;

beforeAll(async () => {
  at = await MailedPortal.open(inject('database'), 'mails');
});
afterAll(async () => at?.close());
beforeEach(() => {
  at.box.mood = {};
});

describe('what sends no mail', () => {
  it('is a refresh, a publish, or anything but an order to send', async () => {
    await at.run("INSERT INTO staff (id, name, email, duty) VALUES (800, 'Somebody New', 'new@example.org', 'desk')");
    expect((await at.builder.ended(`${bench}/jobs`, `${bench}/members/refresh`)).result.came).toBe(1);
    await at.draftWith((draft) => void (draft.portal.name = 'Alder Fen'));
    expect((await at.publish()).status).toBe(201);
    const order = { kind: 'invitation' };
    const counted = (await at.builder.post(`${bench}/invitations/count`, order)).body;
    expect(counted.queued).toBe(await Member.count({ where: { onRoster: true } }));
    const preview = await at.builder.post(`${bench}/mails/preview`, {
      kind: 'invitation',
      member: await at.idOf(ines),
    });
    expect(preview.body.text).toContain('Hello Ines Brannock');
    expect([await OutboxMail.count(), await MailLink.count(), at.box.mails.length]).toEqual([0, 0, 0]);
  });
});

describe('an invitation', () => {
  it('comes as written, and its link lets in once, with a password that is good', async () => {
    const ended = await at.send({ kind: 'invitation', members: [await at.idOf(ines)] });
    expect(ended.result).toEqual({ queued: 1, skipped: {} });
    const mail = await at.newest(ines, 0);
    expect(mail.parsed).toMatchObject({ subject: 'Your access to Alder Fen' });
    expect(mail.parsed.from!.value).toEqual([{ name: 'Alder Fen', address: 'wells@alder-fen.example.org' }]);
    expect(mail.parsed.headers.get('auto-submitted')).toBe('auto-generated');
    expect(mail.parsed.text).toContain('https://wells.example.org/p/alder-fen/come-in#');
    expect(mail.parsed.html).toContain('href="https://wells.example.org/p/alder-fen/come-in#');
    const sent = await at.settled(ines, 'sent');
    // Nothing that is kept lets anybody in.
    expect([sent.sealed, sent.text.includes(tokenIn(mail)), sent.html.includes(tokenIn(mail))]).toEqual([
      null,
      false,
      false,
    ]);
    const shown = (await at.builder.get(`${bench}/outbox/${sent.id}`)).body;
    expect([shown.isOpen, shown.text.includes('come-in#')]).toEqual([false, false]);
    expect((await at.builder.get(`${bench}/members?search=${ines}`)).body.members[0].state).toBe('invited');

    const client = at.client();
    const token = tokenIn(mail);
    const look = { token };
    expect((await client.post(`${portal}/links/look`, look)).body).toMatchObject({
      name: 'Ines Brannock',
      asksPassword: true,
    });
    // Looking uses nothing up.
    expect((await client.post(`${portal}/links/look`, look)).status).toBe(200);
    for (const [password, why] of [
      ['too short', /15 characters/],
      ['aaaaaaaaaaaaaaaaaa', /tried first/],
      ['1qaz2wsx3edc4rfv', /tried first/],
      ['Ines.Brannock@example.org', /your name/],
    ] as const) {
      const { status, body } = await client.post(`${portal}/links/use`, { token, password });
      expect([status, body.fields.password]).toEqual([422, expect.stringMatching(why)]);
    }
    expect((await client.post(`${portal}/links/use`, { token, password: goodPassword })).body).toEqual({
      name: 'Ines Brannock',
      lacks: null,
    });
    expect((await client.get(`${portal}/me`)).status).toBe(200);
    expect((await at.client().post(`${portal}/links/use`, { token, password: goodPassword })).status).toBe(404);
    expect((await at.client().post(`${portal}/links/look`, { token: 'x'.repeat(43) })).status).toBe(404);
    expect((await at.client().post(`${portal}/sign-in`, { email: ines, password: goodPassword })).status).toBe(200);
    expect((await at.builder.get(`${bench}/members?search=${ines}`)).body.members[0].state).toBe('active');
    // Who has been in is not invited any more.
    expect((await at.send({ kind: 'invitation', members: [await at.idOf(ines)], again: true })).result).toEqual({
      queued: 0,
      skipped: { 'has been in': 1 },
    });
  });

  it('goes to everybody once, however often it is begun, and all or none of it', async () => {
    const open = await Member.count({ where: { onRoster: true, lastIn: null } });
    const before = await OutboxMail.count();
    const { definitions, sources, outbox, store } = at.demo.server.services;
    const known = await Portal.findOne({ where: { slug: 'alder-fen' }, rejectOnEmpty: true });
    const definition = await definitions.draft(known);
    const { source, catalogue } = await sources.of(definition);
    const inviting = {
      portal: known,
      outbox,
      base: 'https://x.example',
      source: { runner: source, catalogue, definition },
    };
    const order = { kind: 'invitation' as const, afterDays: 7, again: false };
    // Stopped in the middle: nothing of it is kept.
    await expect(
      store.sequelize.transaction((transaction) =>
        invite(inviting, order, 77, transaction, () => Promise.reject(new Error('stopped'))),
      ),
    ).rejects.toThrow('stopped');
    expect([
      await OutboxMail.count(),
      await Member.count({ where: { onRoster: true, lastIn: null, invitedAt: null } }),
    ]).toEqual([before, open]);
    const outcome = (await at.send({ kind: 'invitation' })).result;
    expect(outcome).toEqual({ queued: open, skipped: {} });
    expect((await at.send({ kind: 'invitation' })).result).toEqual({ queued: 0, skipped: {} });
    await vi.waitFor(async () => expect(await OutboxMail.count({ where: { state: ['waiting', 'sending'] } })).toBe(0), {
      timeout: 60_000,
      interval: 100,
    });
    const recipients = at.box.mails.slice(1).flatMap(({ to }) => to);
    expect([recipients.length, new Set(recipients).size]).toEqual([open, open]);
    // Reminders only to those who have had the time, once.
    expect((await at.send({ kind: 'reminder', afterDays: 7 })).result.queued).toBe(0);
    await Member.update(
      { invitedAt: new Date(Date.now() - 8 * 24 * 3_600_000) },
      { where: { email: 'new@example.org' } },
    );
    expect((await at.send({ kind: 'reminder', afterDays: 7 })).result.queued).toBe(1);
    expect((await at.newest('new@example.org', 1)).parsed.subject).toBe('Your access to Alder Fen is waiting');
    expect((await at.send({ kind: 'reminder', afterDays: 7 })).result.queued).toBe(0);
  });

  it('can leave the house as a file of links, for another program to send', async () => {
    const [one, two] = await Member.findAll({ where: { onRoster: true, lastIn: null, suspended: null }, limit: 2 });
    await at.run(`UPDATE owners SET name = '=2+3, "Fen"' WHERE email = '${one!.email}'`);
    await at.builder.ended(`${bench}/jobs`, `${bench}/members/refresh`);
    const sent = await OutboxMail.count();
    const order = { kind: 'invitation', members: [one!.id, two!.id], again: true };
    const taken = (await at.builder.post(`${bench}/invitations/links`, order)).body;
    expect([taken.queued, await OutboxMail.count()]).toEqual([2, sent]);
    const lines = parse<Record<string, string>>(taken.text as string, { columns: true });
    expect(Object.keys(lines[0]!)).toEqual(['name', 'e-mail', 'organisation', 'link', 'works until']);
    expect(lines.map((line) => [line.name, line['e-mail']])).toContainEqual([`'=2+3, "Fen"`, one!.email]);
    const link = lines.find((line) => line['e-mail'] === two!.email)!.link!;
    const token = link.slice(link.indexOf('#') + 1);
    expect((await at.client().post(`${portal}/links/look`, { token })).body.email).toBe(two!.email);
    const [line] = (await at.builder.get(`${bench}/log`)).body.entries;
    expect(line).toMatchObject({ what: 'took links out as a file', about: '2 members' });
    const once = { kind: 'invitation', members: [one!.id, two!.id] };
    expect((await at.builder.post(`${bench}/invitations/links`, once)).body).toMatchObject({
      queued: 0,
      skipped: { 'was invited': 2 },
    });
  });

  it('is refused before anything is sent where its words ask for what there is not', async () => {
    const words = (text: string) =>
      at.draftWith((draft) => void (draft.mails = { invitation: { subject: 'Come', text } }));
    for (const [text, why] of [
      ['Hello {{nmae}} {{link}}', /{{nmae}} is no value of this mail/],
      ['Hello {{name}}', /does not say {{link}}/],
      ['{{link}} {{{name}}}', /stand as the words/],
      ['{{link}} {{#name}}x{{/name}}', /is no name of a value/],
      ['{{link}} {{owners.nothing}}', /owners has no nothing/],
      ['{{link}} {{name', /is not closed/],
    ] as const) {
      expect((await words(text)).status).toBe(200);
      const { result } = await at.send({ kind: 'invitation', again: true });
      expect([text, result.problem.status, result.problem.detail]).toEqual([text, 422, expect.stringMatching(why)]);
      const { findings } = (await at.builder.get(`${bench}/findings`)).body as { findings: { id: string }[] };
      expect(findings.map(({ id }) => id)).toContain('mail/invitation');
    }
  });

  it('says values as the words that they are, whatever they hold', async () => {
    await at.draftWith((draft) => {
      draft.mails = {
        invitation: {
          subject: '{{name}}, come in',
          text: 'Dear **{{name}}** of {{owners.parish}} <script>x</script> [you]({{name}}) [in]({{link}})',
        },
      };
    });
    const odd = '<img src=x onerror=alert(1)> [a](javascript:alert(1))\r\nBcc: all@example.org {{link}}';
    const email = 'zoë+wells@exämple.org';
    await at.run(
      `INSERT INTO owners (id, name, email, postal_address, parish)
        VALUES (8001, '${odd.slice(0, 80)}', '${email}', 'x', 'R&D <b>')`,
    );
    await at.builder.ended(`${bench}/jobs`, `${bench}/members/refresh`);
    await at.send({ kind: 'invitation', members: [await at.idOf(email)] });
    const { parsed, raw: wire } = await vi.waitFor(
      () => {
        const mail = at.box.mails.at(-1)!;
        expect(mail.to.join()).toContain('zoë+wells@');
        return mail;
      },
      { timeout: 20_000, interval: 20 },
    );
    expect(parsed.headers.has('bcc')).toBe(false);
    expect(wire.split('\r\n\r\n')[0]).not.toMatch(/^Bcc:/im);
    expect(parsed.subject).toMatch(/^<img src=x onerror=alert\(1\)> \[a\]\(javascript:alert\(1\)\) Bcc: /);
    const html = parsed.html as string;
    expect(html).not.toMatch(/<img|<script|<b>|href="javascript|href="[^"]*(?:img|lt;)/i);
    expect(html).toContain('&lt;img src=x onerror=alert(1)&gt;');
    expect(html).toContain('R&amp;D &lt;b&gt;');
    expect(html.match(/href="/g)).toHaveLength(1);
  });
});

describe('the outbox', () => {
  it('says what the mail server said: one address refused, one put off, all away for a while', async () => {
    await at.draftWith((draft) => void delete draft.mails);
    const [one, two] = (await Member.findAll({
      where: { onRoster: true, lastIn: null },
      limit: 2,
      order: [['id', 'DESC']],
    })) as [Member, Member];
    at.box.mood = { refuses: new Set([one.email]), putsOff: new Set([two.email]) };
    await at.send({ kind: 'invitation', members: [one.id, two.id], again: true });
    expect((await at.settled(one.email, 'given up')).answer).toMatch(/No mailbox/);
    const later = await vi.waitFor(
      async () => {
        const mail = (await OutboxMail.findOne({ where: { recipient: two.email }, order: [['id', 'DESC']] }))!;
        expect(mail.answer).toMatch(/Try again later/);
        return mail;
      },
      { timeout: 20_000, interval: 20 },
    );
    expect([later.state, later.nextTry.getTime() > Date.now()]).toEqual(['waiting', true]);
    const page = (await at.builder.get(`${bench}/outbox?search=${encodeURIComponent(one.email)}`)).body;
    expect(page.mails[0]).toMatchObject({ state: 'given up', tries: 1, memberId: one.id });
    // Its link is forgotten, so that a new one is asked for.
    expect((await at.builder.post(`${bench}/outbox/${page.mails[0].id}/again`)).status).toBe(409);

    at.box.mood = { isShut: true };
    const received = at.mailsTo('builder@example.org').length;
    await at.builder.post(`${bench}/mails/try`, { kind: 'invitation', member: one.id });
    await vi.waitFor(
      async () => {
        const mail = (await OutboxMail.findOne({ where: { kind: 'try' }, order: [['id', 'DESC']] }))!;
        expect([mail.state, mail.tries > 0]).toEqual(['waiting', true]);
      },
      { timeout: 20_000, interval: 20 },
    );
    const tried = (await at.builder.post(`${bench}/mail-server/try`)).body;
    expect([tried.fine, tried.answer]).toEqual([false, expect.stringMatching(/Closed for the day/)]);
    at.box.mood = {};
    await OutboxMail.update({ nextTry: new Date() }, { where: { state: 'waiting' } });
    at.demo.server.services.outbox.wake();
    await at.newest('builder@example.org', received);
    await at.settled(two.email, 'sent');
  });

  it('never sends a second time what may have been sent', async () => {
    const mail = await OutboxMail.findOne({ where: { state: 'sent' }, rejectOnEmpty: true });
    const received = at.box.mails.length;
    await mail.update({ state: 'sending', nextTry: new Date(Date.now() - 10 * 60_000), takenBy: 'somebody gone' });
    at.demo.server.services.outbox.wake();
    await vi.waitFor(async () => expect((await mail.reload()).state).toBe('unsure'), { timeout: 20_000, interval: 20 });
    expect(at.box.mails.length).toBe(received);
  });
});
