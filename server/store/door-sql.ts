import { fingerprint } from '../../core/dialect/fingerprint';
import { Portal } from './models';
import { rightsRevisionSql } from './rights-revision';
import { momentParameter, prepared, preparedWrite } from './prepared';

/** What each sign-in asks and writes: as prepared statements, since many come at once in the morning. */

/** As much of a portal as its door needs. */
export type PortalAtDoor = Pick<Portal, 'id' | 'slug' | 'publishedVersion'>;

/** As it was found, with the number of what limits rights, and the fingerprint of both. */
export type FoundPortal = PortalAtDoor & { rightsRevision: number; print: string };

/** The question for the portal of an address; `schema` stands before the product's tables. */
export function portalQuestion(address: string, schema = '') {
  return {
    compared: ['id', 'slug', 'published_version', rightsRevisionSql(schema)],
    from: `${schema}portals`,
    where: 'slug = ?',
    values: [address],
  };
}

/** The portal of an address, and the number of what limits rights beside it; null where there is none. */
export async function portalAtDoor(address: string): Promise<FoundPortal | null> {
  const { compared, from, where, values } = portalQuestion(address);
  const text = `SELECT ${[...compared, fingerprint(compared)].join(', ')} FROM ${from} WHERE ${where}`;
  const [row] = await prepared(Portal.sequelize!, text, values);
  if (!row) return null;
  const [id, slug, publishedVersion, revision, print] = row;
  return {
    id: Number(id),
    slug: String(slug),
    publishedVersion: publishedVersion === null ? null : Number(publishedVersion),
    rightsRevision: Number(revision ?? 0),
    print: String(print),
  };
}

/** A member as the door knows them. */
export interface KnownAtDoor {
  id: number;
  name: string;
  email: string;
  passwordHash: string | null;
  isSuspended: boolean;
  withoutRow: boolean;
  hasSecondFactor: boolean;
  /** The rows that make them a member, when it was last looked at. */
  rows: { roster: string; key: string }[];
}

/** Whoever has an address and stands on a roster, with their rows; one statement, whether or not there is anybody. */
export async function knownAtDoor(portalId: number, email: string): Promise<KnownAtDoor | null> {
  const rows = await prepared(
    Portal.sequelize!,
    `SELECT m.id, m.name, m.email, m.password_hash, m.suspended IS NOT NULL, m.without_row,
        EXISTS (SELECT 1 FROM second_factors f WHERE f.member_id = m.id), r.roster_table, r.row_key
      FROM members m LEFT JOIN memberships r ON r.member_id = m.id AND r.holds
      WHERE m.portal_id = ? AND m.email = ? AND m.on_roster`,
    [portalId, email],
  );
  const [first] = rows;
  if (!first) return null;
  const [id, name, address, passwordHash, isSuspended, withoutRow, hasSecondFactor] = first;
  return {
    id: Number(id),
    name: String(name),
    email: String(address),
    passwordHash: passwordHash === null ? null : String(passwordHash),
    isSuspended: Number(isSuspended) === 1,
    withoutRow: Number(withoutRow) === 1,
    hasSecondFactor: Number(hasSecondFactor) === 1,
    rows: rows.flatMap((row) => (row[7] === null ? [] : [{ roster: String(row[7]), key: String(row[8]) }])),
  };
}

/** The last call for a code that holds, of an address from one browser; `codeHash` is null where none was sent. */
export async function callForCode(
  portalId: number | null,
  email: string,
  browserHash: string,
): Promise<{ id: number; codeHash: string | null } | null> {
  const [row] = await prepared(
    Portal.sequelize!,
    `SELECT id, code_hash FROM door_calls WHERE portal_id <=> ? AND email = ? AND wants = 'code' AND browser_hash = ?
      AND ends_at > ? ORDER BY id DESC LIMIT 1`,
    [portalId, email, browserHash, momentParameter(new Date())],
  );
  return row ? { id: Number(row[0]), codeHash: row[1] === null ? null : String(row[1]) } : null;
}

/** Counts a try of a call; false where there were as many as may be. */
export async function countTry(call: number, most: number): Promise<boolean> {
  const text = 'UPDATE door_calls SET tries = tries + 1 WHERE id = ? AND tries < ?';
  return (await preparedWrite(Portal.sequelize!, text, [call, most])) === 1;
}

/** Uses a code up: true for one of those who try at the same moment. */
export async function useCode(call: number): Promise<boolean> {
  const text = "UPDATE door_calls SET state = 'used' WHERE id = ? AND state = 'sent'";
  return (await preparedWrite(Portal.sequelize!, text, [call])) === 1;
}

/** A session as it is written. */
export interface NewSession {
  tokenHash: string;
  builderId: number | null;
  memberId: number | null;
  expiresAt: Date;
  beganAt: Date;
  lacks: string | null;
  device: string | null;
}

export async function insertSession(session: NewSession): Promise<void> {
  const began = momentParameter(session.beganAt);
  await preparedWrite(
    Portal.sequelize!,
    `INSERT INTO sessions (token_hash, builder_id, member_id, expires_at, seen_at, began_at, lacks, device)
      VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
    [
      session.tokenHash,
      session.builderId,
      session.memberId,
      momentParameter(session.expiresAt),
      began,
      began,
      session.lacks,
      session.device,
    ],
  );
}

/** Notes when a session was last in use. */
export async function touchedAt(tokenHash: string, moment: Date): Promise<void> {
  const text = 'UPDATE sessions SET seen_at = ? WHERE token_hash = ?';
  await preparedWrite(Portal.sequelize!, text, [momentParameter(moment), tokenHash]);
}

/** Notes that a member came in now. */
export async function noteCameIn(memberId: number): Promise<void> {
  const text = 'UPDATE members SET last_in = ? WHERE id = ?';
  await preparedWrite(Portal.sequelize!, text, [momentParameter(new Date()), memberId]);
}
