import { hash, randomBytes } from 'node:crypto';
import { Op, type Transaction } from 'sequelize';
import { Session } from '../store/people-models';
import { insertSession, touchedAt } from '../store/door-sql';

const hour = 3_600_000;
/** How long sessions last: after they began, and after they were last used. */
export interface SessionLimits {
  lastsHours: number;
  idleMinutes: number;
}

/** `seen_at` is written at most this often. */
const touchEvery = hour / 60;

/** Whose something is. Of a table that keeps both kinds, it names its rows. */
export type Subject = { builderId: number } | { memberId: number };

/** Whose a row is. */
export function subjectOf({
  memberId,
  builderId,
}: {
  memberId: number | null;
  builderId: number | null;
}): Subject | null {
  if (memberId !== null) return { memberId: Number(memberId) };
  return builderId === null ? null : { builderId: Number(builderId) };
}

export function tokenHash(token: string): string {
  return hash('sha256', token, 'hex');
}

/**
 * Begins a session and returns the token for the cookie; the database keeps only its hash. `device` is what the browser
 * says of itself.
 */
export async function beginSession(
  subject: Subject,
  device: string | undefined,
  { lastsHours }: SessionLimits,
  lacks: Session['lacks'] = null,
): Promise<string> {
  const token = randomBytes(32).toString('base64url');
  const now = new Date();
  await insertSession({
    tokenHash: tokenHash(token),
    builderId: 'builderId' in subject ? subject.builderId : null,
    memberId: 'memberId' in subject ? subject.memberId : null,
    expiresAt: new Date(now.getTime() + lastsHours * hour),
    beganAt: now,
    lacks,
    device: device?.slice(0, 300) ?? null,
  });
  return token;
}

/** Forgets sessions that have ended. */
export async function forgetOldSessions(now: Date): Promise<void> {
  await Session.destroy({ where: { expiresAt: { [Op.lt]: now } } });
}

export async function endSession(token: string): Promise<void> {
  await Session.destroy({ where: { tokenHash: tokenHash(token) } });
}

/** Ends all sessions of members. Gives how many there were. */
export function endSessionsOf(memberIds: readonly number[], transaction?: Transaction): Promise<number> {
  return Session.destroy({ where: { memberId: [...memberIds] }, transaction });
}

/** Whether a session read from the database still holds at `now`. */
export function sessionHolds(
  session: { expiresAt: Date; seenAt: Date },
  now: Date,
  { idleMinutes }: Pick<SessionLimits, 'idleMinutes'>,
): boolean {
  return session.expiresAt > now && now.getTime() - session.seenAt.getTime() < idleMinutes * (hour / 60);
}

/** Whether it is to be noted that a session is in use. */
export const isToTouch = ({ seenAt }: { seenAt: Date }, now: Date): boolean =>
  now.getTime() - seenAt.getTime() > touchEvery;

/** Notes that the session is in use. */
export async function touchSession(session: { tokenHash: string; seenAt: Date }, now: Date): Promise<void> {
  if (isToTouch(session, now)) await touchedAt(session.tokenHash, now);
}
