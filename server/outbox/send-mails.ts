import { randomBytes } from 'node:crypto';
import type { Logger } from 'pino';
import { Op } from 'sequelize';
import type { Transporter } from 'nodemailer';
import type { MailServer, MailServers } from '../mail/mail-server';
import { OutboxMail } from '../store/people-models';
import type { Outbox } from './outbox';
import { inTurns, type Turns } from './turns';

const minute = 60_000;
/** After each try in vain it is waited longer (RFC 5321, 4.5.4.1 asks for half an hour at least after a while). */
const pauses = [minute / 2, 2 * minute, 10 * minute, 30 * minute, 60 * minute, 4 * 60 * minute];
/** So long it is tried (RFC 5321, 4.5.4.1: four to five days). */
const longest = 4 * 24 * 60 * minute;
const lookEvery = 5000;
const atATime = 3;
/** Whoever took a mail and has said nothing for so long is gone. */
const goneAfter = 3 * minute;

export interface SendingOptions {
  outbox: Outbox;
  servers: MailServers;
  log: Logger;
  /** Whether a mail's secret is kept after it is sent: in the demo alone, where all can be looked at. */
  keepSecrets(): Promise<boolean>;
}

/** Sends what waits in the outbox, one server or several: each mail is taken by one of them. */
export function sendMails(options: SendingOptions): Turns {
  const me = randomBytes(8).toString('hex');
  const turns = inTurns(async (isClosed) => {
    try {
      await giveUpUnsure();
      await sendDue(options, me, isClosed);
    } catch (error) {
      // The database is away, or the password of the mail server can't be read: looked at again at the next turn.
      options.log.debug({ reason: (error as Error).name }, 'mails not sent');
    }
  }, lookEvery);
  options.outbox.whenWoken(() => turns.wake());
  turns.wake();
  return turns;
}

/**
 * A mail that somebody had in hand when they were stopped may have been sent: it is not sent a second time without
 * being told to.
 */
async function giveUpUnsure(): Promise<void> {
  await OutboxMail.update(
    {
      state: 'unsure',
      answer: 'The server was stopped in the moment of sending, so it may have arrived. Send it again if it did not.',
    },
    { where: { state: 'sending', nextTry: { [Op.lt]: new Date(Date.now() - goneAfter) } } },
  );
  // Let go with what they tell of: those that still are held tell of what was not kept.
  await OutboxMail.destroy({
    where: { state: 'held', beside: true, madeAt: { [Op.lt]: new Date(Date.now() - goneAfter) } },
  });
  await OutboxMail.update(
    {
      state: 'unsure',
      answer:
        'The server was stopped before it was known whether what this tells of was kept. Look before you send it.',
    },
    { where: { state: 'held', madeAt: { [Op.lt]: new Date(Date.now() - goneAfter) } } },
  );
}

async function sendDue({ outbox, servers, keepSecrets }: SendingOptions, me: string, isClosed: () => boolean) {
  const first = await nextMails(1);
  if (first.length === 0) return;
  const way = await servers.open();
  if (!way) return;
  try {
    const keep = await keepSecrets();
    for (;;) {
      const due = await nextMails(atATime);
      if (due.length === 0 || isClosed()) return;
      const outcomes = await Promise.all(due.map((mail) => sendOne(outbox, way, mail, me, keep)));
      // A server that can't be reached is not tried once more for every mail that waits.
      if (outcomes.every((outcome) => outcome === 'away')) {
        await putOff();
        return;
      }
    }
  } finally {
    way.transport.close();
  }
}

const nextMails = (limit: number): Promise<OutboxMail[]> =>
  OutboxMail.findAll({
    where: { state: 'waiting', nextTry: { [Op.lte]: new Date() } },
    order: [
      ['nextTry', 'ASC'],
      ['id', 'ASC'],
    ],
    limit,
  });

/** All that would be tried now waits half a minute. */
async function putOff(): Promise<void> {
  const now = Date.now();
  await OutboxMail.update(
    { nextTry: new Date(now + pauses[0]!) },
    { where: { state: 'waiting', nextTry: { [Op.lte]: new Date(now) } } },
  );
}

type Outcome = 'sent' | 'refused' | 'away' | 'taken';

async function sendOne(
  outbox: Outbox,
  { transport, server }: { transport: Transporter; server: MailServer },
  mail: OutboxMail,
  me: string,
  keep: boolean,
): Promise<Outcome> {
  const [taken] = await OutboxMail.update(
    // While it is in hand, the moment since when.
    { state: 'sending', takenBy: me, tries: mail.tries + 1, nextTry: new Date() },
    { where: { id: mail.id, state: 'waiting' } },
  );
  if (taken !== 1) return 'taken';
  const mine = { where: { id: mail.id, state: 'sending' as const, takenBy: me } };
  const giveUp = (answer: string) => OutboxMail.update({ state: 'given up', answer, sealed: null }, mine);
  if (mail.notAfter && mail.notAfter < new Date()) {
    await giveUp('It could not be sent while it was of use.');
    return 'refused';
  }
  const words = outbox.opened(mail);
  if (!words) {
    await giveUp('What was to stand in it can no longer be read: the key of this installation is another one.');
    return 'refused';
  }
  try {
    const { response } = (await transport.sendMail({
      from: { name: server.senderName, address: server.sender },
      to: { name: '', address: mail.recipient },
      ...words,
      // The same for every try, so that a mail box can tell that it is one mail (RFC 5322, 3.6.4).
      messageId: `<${mail.id}.${mail.madeAt.getTime()}@${server.sender.split('@').at(-1)}>`,
      headers: { 'Auto-Submitted': 'auto-generated' },
    })) as { response: string };
    await OutboxMail.update(
      { state: 'sent', sentAt: new Date(), answer: response.slice(0, 1000), ...(keep ? {} : { sealed: null }) },
      mine,
    );
    return 'sent';
  } catch (error) {
    const fault = error as Error & { responseCode?: number; command?: string };
    const answer = fault.message.slice(0, 1000);
    const isOld = Date.now() - mail.madeAt.getTime() > longest;
    // 5xx is for good, 4xx for now (RFC 5321, 4.2.1).
    if (isOld || (fault.responseCode !== undefined && fault.responseCode >= 500 && isAboutMail(fault.command))) {
      await giveUp(answer);
      return 'refused';
    }
    const pause = pauses[Math.min(mail.tries, pauses.length - 1)]!;
    await OutboxMail.update({ state: 'waiting', answer, nextTry: new Date(Date.now() + pause) }, mine);
    return fault.responseCode === undefined ? 'away' : 'refused';
  }
}

/** A refusal of the sign-in or of the greeting says nothing about the mail, and is mended at the settings. */
const isAboutMail = (command: string | undefined): boolean =>
  command !== undefined && /^(MAIL FROM|RCPT TO|DATA)/.test(command);
