import Joi from 'joi';
import { Op, type Transaction, type WhereOptions } from 'sequelize';
import { type MailWords } from '../../core/mail/mail-words';
import { mailProblem, mailWords } from '../../core/people/mails';
import { Problem } from '../../core/refusals/problem';
import { signInRules } from '../../core/sign-in/sign-in-rules';
import { linkAddress, makeLinks } from './links';
import { momentText, valuesOfMembers, type MailSource } from './mail-values';
import { mailWriter, type MailWriter } from '../mail/written-mail';
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

export const invitationOrder = Joi.object<InvitationOrder>({
  kind: Joi.valid(...invitingMails).required(),
  members: Joi.array().items(Joi.number().integer().min(1)).unique().min(1).max(100_000),
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
  outbox: Outbox;
  /** Where the installation is reached. */
  base: string;
}

/**
 * Queues the mails of an order, each with a link of its own, in the transaction: all of them or none. `batch` is the
 * job, where it is one; nobody is written to twice for it.
 */
export async function invite(
  { portal, source, outbox, base }: Inviting,
  order: InvitationOrder,
  batch: number | null,
  transaction: Transaction,
  progress: (done: number) => Promise<void> = () => Promise.resolve(),
): Promise<InvitationOutcome> {
  const { words, writer } = writerOf(source, order.kind);
  const outcome: InvitationOutcome = { queued: 0, skipped: {} };
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
    const mails = written.map((member, i): NewMail => {
      const { token, expiresAt } = links[i]!;
      return {
        ...writer.written({
          ...values.get(member.id),
          link: secretMark,
          until,
        }),
        portalId: portal.id,
        memberId: member.id,
        kind: order.kind,
        recipient: member.email,
        secret: linkAddress(base, portal.slug, token),
        ...(batch === null ? {} : { onceKey: `${order.kind}/${batch}/${member.id}`, batch }),
        notAfter: expiresAt,
      };
    });
    await outbox.queue(mails, transaction);
    await Member.update({ invitedAt: now }, { where: { id: written.map(({ id }) => id) }, transaction });
    done += members.length;
    await progress(done);
  }
  return outcome;
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
