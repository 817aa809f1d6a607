import { createHash, randomBytes } from 'node:crypto';
import { Op, type Transaction } from 'sequelize';
import { Session } from '../store/models';

const hour = 3_600_000;
/** A session ends so long after it was last used, and so long after it began. */
const idleFor = 12 * hour;
const lastsFor = 7 * 24 * hour;
/** `seen_at` is written at most this often. */
const touchEvery = hour / 12;

export type Subject = { builderId: number } | { memberId: number };

export function tokenHash(token: string): string {
  return createHash('sha256').update(token).digest('hex');
}

/**
 * Begins a session and returns the token for the cookie; the database keeps only its hash. `device` is what the browser
 * says of itself.
 */
export async function beginSession(subject: Subject, device: string | undefined): Promise<string> {
  const token = randomBytes(32).toString('base64url');
  const now = new Date();
  await Session.destroy({ where: { expiresAt: { [Op.lt]: now } } });
  await Session.create({
    tokenHash: tokenHash(token),
    builderId: 'builderId' in subject ? subject.builderId : null,
    memberId: 'memberId' in subject ? subject.memberId : null,
    expiresAt: new Date(now.getTime() + lastsFor),
    seenAt: now,
    beganAt: now,
    device: device?.slice(0, 300) ?? null,
  });
  return token;
}

export async function endSession(token: string): Promise<void> {
  await Session.destroy({ where: { tokenHash: tokenHash(token) } });
}

/** Ends all sessions of members. Gives how many there were. */
export function endSessionsOf(memberIds: readonly number[], transaction?: Transaction): Promise<number> {
  return Session.destroy({ where: { memberId: [...memberIds] }, transaction });
}

/** Whether a session read from the database still holds at `now`. */
export function sessionHolds(session: { expiresAt: Date; seenAt: Date }, now: Date): boolean {
  return session.expiresAt > now && now.getTime() - session.seenAt.getTime() < idleFor;
}

/** Notes that the session is in use. */
export async function touchSession(session: { tokenHash: string; seenAt: Date }, now: Date): Promise<void> {
  if (now.getTime() - session.seenAt.getTime() > touchEvery)
    await Session.update({ seenAt: now }, { where: { tokenHash: session.tokenHash } });
}
