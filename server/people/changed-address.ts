import { normaliseEmail } from '../../core/text/email';
import type { CoreServices } from '../definitions/portal-services';
import { readAddress } from '../mail/own-address';
import { Portal } from '../store/models';
import { Member, Membership } from '../store/people-models';
import { tokenHash } from '../sessions/sessions';
import type { MailSource } from './mail-values';
import { mailOf } from './secret-mail';

const hour = 3_600_000;

/**
 * Tells the address by which a member was known that somebody wrote another one into their row. Whoever was never
 * written to, and has never been in, is told nothing; nobody is told twice within an hour.
 */
export async function tellChangedAddress(
  { outbox }: Pick<CoreServices, 'outbox'>,
  portalId: number,
  at: MailSource,
  row: { roster: string; key: string },
  written: string,
): Promise<void> {
  const where = { portalId, rosterTable: row.roster, rowKey: row.key, holds: true };
  const membership = await Membership.findOne({ where });
  const member = membership && (await Member.findByPk(membership.memberId));
  if (!member || (member.lastIn === null && member.invitedAt === null)) return;
  if (member.email === normaliseEmail(written)) return;
  const portal = await Portal.findByPk(portalId, { rejectOnEmpty: true });
  const secret = `${await readAddress(portalId)}/p/${portal.slug}`;
  const order = { kind: 'changed address' as const, recipient: member.email, secret, until: null, member };
  // Whoever writes address after address floods no mail box.
  const onceKey = `changed/${member.id}/${tokenHash(member.email).slice(0, 32)}/${Math.floor(Date.now() / hour)}`;
  await outbox.queue([{ ...(await mailOf(at, portal, order)), onceKey }]);
}
