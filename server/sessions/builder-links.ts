import { randomBytes } from 'node:crypto';
import { Op, type Transaction } from 'sequelize';
import { readAddress } from '../mail/own-address';
import { secretMark, type NewMail } from '../outbox/outbox';
import { Builder, BuilderLink } from '../store/models';
import { tokenHash } from './sessions';

const hour = 3_600_000;
/** So long a link works: for who is new, and for who has forgotten their password. */
const lasts = { invitation: 7 * 24 * hour, forgotten: hour / 2 };

/** A link by which a builder chooses a password, once. */
export async function makeBuilderLink(
  builderId: number,
  isFor: keyof typeof lasts = 'invitation',
  transaction?: Transaction,
): Promise<string> {
  const made = randomBytes(32).toString('base64url');
  const expiresAt = new Date(Date.now() + lasts[isFor]);
  await BuilderLink.create({ tokenHash: tokenHash(made), builderId, expiresAt }, { transaction });
  return `${await readAddress(null)}/join#${made}`;
}

/** The builder whose link works; null for any other link, whatever the reason. */
export async function linkedBuilder(token: string): Promise<Builder | null> {
  const link = await BuilderLink.findOne({
    where: { tokenHash: tokenHash(token), expiresAt: { [Op.gt]: new Date() } },
  });
  const builder = link && (await Builder.findByPk(link.builderId));
  return builder && !builder.suspended ? builder : null;
}

/** Uses a link up, and all others of whoever it was: true for one of those who try at the same moment. */
export async function useUpBuilderLink(token: string, builderId: number): Promise<boolean> {
  if ((await BuilderLink.destroy({ where: { tokenHash: tokenHash(token) } })) !== 1) return false;
  await BuilderLink.destroy({ where: { builderId } });
  return true;
}

/** Says what a mail to somebody who builds says: words, and a secret on a line of its own. */
export function builderMail(
  { name, email }: { name: string; email: string },
  subject: string,
  says: string,
  secret: string,
  notAfter?: Date,
): NewMail {
  const isLink = secret.startsWith('http');
  const given = isLink ? `<a href="${secretMark}">Come in</a>` : `<strong>${secretMark}</strong>`;
  return {
    portalId: null,
    memberId: null,
    kind: 'builder',
    recipient: email,
    subject,
    text: `Hello ${name},\n\n${says}\n\n${secretMark}\n`,
    html: `<p>${says}</p><p>${given}</p>`,
    secret,
    notAfter,
  };
}
