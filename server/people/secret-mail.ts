import type { Transaction } from 'sequelize';
import type { MailKind } from '../../core/mail/mail-words';
import { mailProblem, mailWords } from '../../core/people/mails';
import { readAddress } from '../mail/own-address';
import { mailWriter } from '../mail/written-mail';
import { secretMark, type NewMail, type Outbox } from '../outbox/outbox';
import type { Portal } from '../store/models';
import type { Member } from '../store/people-models';
import { linkAddress, linkLasts, makeLinks } from './links';
import { momentText, valuesOfMembers, type MailSource } from './mail-values';

/** A mail with a secret to one member; with our own words where the portal's can't be written, since somebody waits. */
export async function mailOf(
  at: MailSource,
  portal: Portal,
  member: Member,
  kind: 'code' | 'forgotten',
  secret: string,
  until: Date,
): Promise<NewMail> {
  const own = mailWords(at.definition, kind);
  const words =
    mailProblem(at.definition, at.catalogue, kind, own) === null ? own : mailWords({}, kind satisfies MailKind);
  const values = (await valuesOfMembers(at, words, [member])).get(member.id)!;
  return {
    ...mailWriter(words).written({
      ...values,
      [kind === 'code' ? 'code' : 'link']: secretMark,
      until: momentText(until, at.definition.portal),
    }),
    portalId: portal.id,
    memberId: member.id,
    kind,
    recipient: member.email,
    secret,
    notAfter: until,
  };
}

/** Queues a link by which a member sets a new password. */
export async function queuePasswordLink(
  outbox: Outbox,
  at: MailSource,
  portal: Portal,
  member: Member,
  transaction: Transaction,
): Promise<void> {
  const [link] = await makeLinks('password', [member], linkLasts.password, transaction);
  const address = linkAddress(await readAddress(), portal.slug, link!.token);
  await outbox.queue([await mailOf(at, portal, member, 'forgotten', address, link!.expiresAt)], transaction);
}
