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

/** A mail to one address, with a secret: a code, or where its link leads. */
interface MailOrder {
  kind: MailKind;
  recipient: string;
  secret: string;
  /** After it the mail would be of no use any more; null where it always is. */
  until: Date | null;
  /** Whom it is about; null where nobody is known by the address. */
  member: Pick<Member, 'id' | 'name' | 'email'> | null;
}

/** A mail with a secret; with our own words where the portal's can't be written, since somebody waits for it. */
export async function mailOf(
  at: MailSource,
  portal: Pick<Portal, 'id'>,
  { kind, recipient, secret, until, member }: MailOrder,
): Promise<NewMail> {
  const own = mailWords(at.definition, kind);
  const words = mailProblem(at.definition, at.catalogue, kind, own) === null ? own : mailWords({}, kind);
  const known = member && (await valuesOfMembers(at, words, [member])).get(member.id);
  const nobody = { name: '', email: recipient, organisation: '', portal: at.definition.portal.name };
  return {
    ...mailWriter(words).written({
      ...(known ?? nobody),
      [kind === 'code' ? 'code' : 'link']: secretMark,
      until: until === null ? '' : momentText(until, at.definition.portal),
    }),
    portalId: portal.id,
    memberId: member?.id ?? null,
    kind,
    recipient,
    secret,
    ...(until === null ? {} : { notAfter: until }),
  };
}

/** Queues a link by which a member sets a new password. */
export async function queuePasswordLink(
  outbox: Outbox,
  at: MailSource,
  portal: Pick<Portal, 'id' | 'slug'>,
  member: Pick<Member, 'id' | 'name' | 'email'>,
  transaction: Transaction,
): Promise<void> {
  const [link] = await makeLinks('password', [member], linkLasts.password, transaction);
  const address = linkAddress(await readAddress(portal.id), portal.slug, link!.token);
  const order = { recipient: member.email, member, secret: address, until: link!.expiresAt };
  await outbox.queue([await mailOf(at, portal, { kind: 'forgotten', ...order })], transaction);
}
