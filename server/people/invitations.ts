import Joi from 'joi';
import { Op, type Transaction, type WhereOptions } from 'sequelize';
import { type MailWords } from '../../core/mail/mail-words';
import { mailProblem, mailWords } from '../../core/people/mails';
import { Problem } from '../../core/refusals/problem';
import { signInRules } from '../../core/sign-in/sign-in-rules';
import { linkAddress, makeLinks } from './links';
import { momentText, valuesOfMembers, type MailSource } from './mail-values';
import { cellText, csvLine } from '../formats/export-text';
import { mailWriter, type MailWordValues, type MailWriter } from '../mail/written-mail';
import type { NewMail, Outbox } from '../outbox/outbox';
import { secretMark } from '../outbox/outbox';
import { type Portal } from '../store/models';
import { Member, OutboxMail } from '../store/people-models';

const invitingMails = ['invitation', 'reminder'] as const;

type InvitingMail = (typeof invitingMails)[number];

/** Whom to write to. */
export interface InvitationOrder {
  kind: InvitingMail;
  /** Those chosen; everybody who may be written to when absent. */
  members?: number[];
  /** Of a reminder: so many days must have passed since they were last written to. */
  afterDays: number;
  /** Also to those who were invited already. */
  again: boolean;
}

/** So many may be chosen at once. */
export const mostInvited = 100_000;

export const invitationOrder = Joi.object<InvitationOrder>({
  kind: Joi.valid(...invitingMails).required(),
  members: Joi.array().items(Joi.number().integer().min(1)).unique().min(1).max(mostInvited),
  afterDays: Joi.number().integer().min(0).max(365).default(7),
  again: Joi.boolean().default(false),
});

/** Why somebody is not written to. */
type NotWrittenTo =
  | 'is gone'
  | 'is suspended'
  | 'has been in'
  | 'was invited'
  | 'was not invited'
  | 'was written to lately';

export interface InvitationOutcome {
  queued: number;
  skipped: Partial<Record<NotWrittenTo, number>>;
}

const day = 24 * 3_600_000;
const pageSize = 500;

/** Why a member is not sent a mail of an order; null where they are. */
function notWrittenTo(member: Member, order: InvitationOrder, now: Date): NotWrittenTo | null {
  if (!member.onRoster) return 'is gone';
  if (member.suspended !== null) return 'is suspended';
  if (member.lastIn !== null) return 'has been in';
  if (order.kind === 'invitation') return member.invitedAt !== null && !order.again ? 'was invited' : null;
  if (member.invitedAt === null) return 'was not invited';
  return now.getTime() - member.invitedAt.getTime() < order.afterDays * day ? 'was written to lately' : null;
}

/** The words of a portal's mail, read; a Problem 422 where they can't be written. */
function writerOf({ definition, catalogue }: MailSource, kind: InvitingMail): { words: MailWords; writer: MailWriter } {
  const words = mailWords(definition, kind);
  const problem = mailProblem(definition, catalogue, kind, words);
  if (problem !== null)
    throw new Problem(
      422,
      'mail',
      `The ${kind} can't be written: ${problem} Mend its words under People, Invitations.`,
    );
  return { words, writer: mailWriter(words) };
}

/** How many members an order would write to, and why not to the others. */
export async function countInvitations(portalId: number, order: InvitationOrder): Promise<InvitationOutcome> {
  const outcome: InvitationOutcome = { queued: 0, skipped: {} };
  const now = new Date();
  for await (const members of pagesOf(portalId, order))
    for (const member of members) count(outcome, notWrittenTo(member, order, now));
  return outcome;
}

const count = (outcome: InvitationOutcome, why: NotWrittenTo | null): void => {
  if (why === null) outcome.queued++;
  else outcome.skipped[why] = (outcome.skipped[why] ?? 0) + 1;
};

/** What invitations are written with. */
export interface Inviting {
  portal: Portal;
  source: MailSource;
  /** Where the installation is reached. */
  base: string;
}

/** Somebody who is written to, with what mails say of them and a link of their own. */
interface Invited {
  member: Member;
  values: MailWordValues;
  link: string;
  expiresAt: Date;
}

/**
 * Those whom an order writes to, a page after the other, each with a link and noted as invited, in the transaction.
 * `outcome` counts along.
 */
async function* invited(
  { portal, source, base }: Inviting,
  order: InvitationOrder,
  words: MailWords,
  outcome: InvitationOutcome,
  transaction: Transaction,
  progress: (done: number) => Promise<void> = () => Promise.resolve(),
): AsyncGenerator<Invited[]> {
  const now = new Date();
  let done = 0;
  for await (const members of pagesOf(portal.id, order, transaction)) {
    const written = members.filter((member) => {
      const why = notWrittenTo(member, order, now);
      count(outcome, why);
      return why === null;
    });
    const lasts = signInRules(source.definition).linkDays * day;
    const links = await makeLinks('invitation', written, lasts, transaction);
    const values = await valuesOfMembers(source, words, written);
    // All of a page end at one moment, and saying it takes long.
    const until = links[0] ? momentText(links[0].expiresAt, source.definition.portal) : '';
    yield written.map((member, i) => {
      const { token, expiresAt } = links[i]!;
      const link = linkAddress(base, portal.slug, token);
      return { member, values: { ...values.get(member.id), until }, link, expiresAt };
    });
    await Member.update({ invitedAt: now }, { where: { id: written.map(({ id }) => id) }, transaction });
    done += members.length;
    await progress(done);
  }
}

/**
 * Queues the mails of an order, each with a link of its own, in the transaction: all of them or none. `batch` is the
 * job, where it is one; nobody is written to twice for it.
 */
export async function invite(
  inviting: Inviting & { outbox: Outbox },
  order: InvitationOrder,
  batch: number | null,
  transaction: Transaction,
  progress?: (done: number) => Promise<void>,
): Promise<InvitationOutcome> {
  const { portal, source, outbox } = inviting;
  const { words, writer } = writerOf(source, order.kind);
  const outcome: InvitationOutcome = { queued: 0, skipped: {} };
  for await (const page of invited(inviting, order, words, outcome, transaction, progress)) {
    const mails = page.map(({ member, values, link, expiresAt }): NewMail => ({
      ...writer.written({ ...values, link: secretMark }),
      portalId: portal.id,
      memberId: member.id,
      kind: order.kind,
      recipient: member.email,
      secret: link,
      ...(batch === null ? {} : { onceKey: `${order.kind}/${batch}/${member.id}`, batch }),
      notAfter: expiresAt,
    }));
    await outbox.queue(mails, transaction);
  }
  return outcome;
}

/**
 * The links of an order as delimited text (RFC 4180), for another program to send: name, e-mail, organisation, link and
 * until when it works. Whoever stands in it counts as invited.
 */
export async function linksAsFile(
  inviting: Inviting,
  order: InvitationOrder,
  transaction: Transaction,
): Promise<InvitationOutcome & { text: string }> {
  const outcome: InvitationOutcome = { queued: 0, skipped: {} };
  const words = { subject: '', text: '{{organisation}}' };
  const lines = [csvLine(['name', 'e-mail', 'organisation', 'link', 'works until'])];
  for await (const page of invited(inviting, order, words, outcome, transaction))
    for (const { values, link } of page)
      lines.push(
        csvLine(
          [values.name, values.email, values.organisation, link, values.until].map((each) => cellText(each, true)),
        ),
      );
  return { ...outcome, text: lines.join('') };
}

async function* pagesOf(
  portalId: number,
  { members, kind, again }: InvitationOrder,
  transaction?: Transaction,
): AsyncGenerator<Member[]> {
  const open: WhereOptions<Member> = {
    onRoster: true,
    lastIn: null,
    ...(kind === 'reminder' ? { invitedAt: { [Op.ne]: null } } : again ? {} : { invitedAt: null }),
  };
  for (let after = 0; ;) {
    const chosen = members
      ?.filter((id) => id > after)
      .toSorted((a, b) => a - b)
      .slice(0, pageSize);
    if (chosen?.length === 0) return;
    const page = await Member.findAll({
      where: { portalId, ...(chosen ? { id: chosen } : { ...open, id: { [Op.gt]: after } }) } as WhereOptions<Member>,
      order: [['id', 'ASC']],
      limit: pageSize,
      transaction,
      lock: transaction !== undefined,
    });
    if (page.length > 0) yield page;
    if (!chosen && page.length < pageSize) return;
    after = chosen ? chosen.at(-1)! : page.at(-1)!.id;
  }
}

/** Cancels what of a batch waits still. Gives how many. */
export async function cancelWaiting(portalId: number, batch: number): Promise<number> {
  const [cancelled] = await OutboxMail.update(
    { state: 'cancelled', sealed: null },
    { where: { portalId, batch, state: 'waiting' } },
  );
  return cancelled;
}
