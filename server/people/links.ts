import { randomBytes } from 'node:crypto';
import { Op, type Transaction } from 'sequelize';
import { tokenHash } from '../sessions/sessions';
import { insertMany } from '../store/insert-many';
import { MailLink, Member } from '../store/people-models';

const hour = 3_600_000;
/** How long a link works. */
export const linkLasts: Record<MailLink['kind'], number> = { invitation: 7 * 24 * hour, password: hour / 2 };

/** A link that was made, and where it leads: told only here. */
export interface MadeLink {
  token: string;
  expiresAt: Date;
}

/** Makes links for members at their addresses of now; earlier ones of the kind stay until they end. */
export async function makeLinks(
  kind: MailLink['kind'],
  members: readonly Pick<Member, 'id' | 'email'>[],
  lasts: number,
  transaction?: Transaction,
): Promise<MadeLink[]> {
  const expiresAt = new Date(Date.now() + lasts);
  const made = members.map(({ id, email }) => ({ id, email, token: randomBytes(32).toString('base64url') }));
  await insertMany(
    MailLink,
    made.map(({ id, email, token }) => ({
      tokenHash: tokenHash(token),
      kind,
      memberId: id,
      email,
      expiresAt,
    })),
    transaction,
  );
  return made.map(({ token }) => ({ token, expiresAt }));
}

/** The address of a link in a portal. The token stands behind the #, where no server and no log reads it. */
export const linkAddress = (base: string, slug: string, token: string): string => `${base}/p/${slug}/come-in#${token}`;

/** A link that still works, and whom it was sent to; null for any other, whatever the reason. */
export async function workingLink(portalId: number, token: string): Promise<{ link: MailLink; member: Member } | null> {
  const link = await MailLink.findOne({
    where: { tokenHash: tokenHash(token), usedAt: null, expiresAt: { [Op.gt]: new Date() } },
  });
  const member = link && (await Member.findOne({ where: { id: link.memberId, portalId, email: link.email } }));
  return link && member ? { link, member } : null;
}

/** Uses a link up: true for one of those who try at the same moment. */
export async function useUp(link: MailLink): Promise<boolean> {
  const [used] = await MailLink.update(
    { usedAt: new Date() },
    { where: { tokenHash: link.tokenHash, usedAt: null, expiresAt: { [Op.gt]: new Date() } } },
  );
  return used === 1;
}

/** Forgets links that ended long ago. */
export async function forgetOldLinks(now: Date): Promise<void> {
  await MailLink.destroy({ where: { expiresAt: { [Op.lt]: new Date(now.getTime() - 30 * 24 * hour) } } });
}
