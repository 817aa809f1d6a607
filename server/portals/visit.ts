import { QueryTypes } from 'sequelize';
import type { Request } from 'express';
import { Problem } from '../http/problems';
import { readCookie } from '../http/security';
import type { Services } from '../http/services';
import type { Visit } from '../gate/view-sql';
import { memberPerson } from '../people/members';
import { sessionHolds, tokenHash, touchSession } from '../sessions/sessions';
import type { Source } from '../sources/source';

export const memberCookie = 'stone_porch_member';
export const memberCookiePath = (slug: string): string => `/api/portals/${slug}`;

/** A person at the door of a portal, with the source that holds its records. */
export interface PortalVisit extends Visit {
  source: Source;
  name: string;
  /** Set when a builder looks as this person: nothing may be changed then. */
  seenBy: boolean;
}

interface SessionRow {
  expires_at: Date;
  seen_at: Date;
  member_id: number;
  email: string;
  name: string;
  portal_id: number;
  published_version: number | null;
  roster_table: string | null;
  row_key: string | null;
}

/** The visit of the member whose session the request carries, under the published version; a Problem 401 when there is none. */
export async function memberVisit(services: Services, req: Request, slug: string): Promise<PortalVisit> {
  const token = readCookie(req, memberCookie);
  const rows = token ? await sessionRows(services, tokenHash(token), slug) : [];
  const session = rows[0];
  const now = new Date();
  if (!token || !session || session.published_version === null || !sessionHolds({ expiresAt: session.expires_at, seenAt: session.seen_at }, now)) {
    throw new Problem(401, 'not-signed-in', 'You are not signed in, or your session has ended. Sign in again.');
  }
  await touchSession({ tokenHash: tokenHash(token), seenAt: session.seen_at }, now);
  const definition = await services.definitions.version(Number(session.portal_id), session.published_version);
  const { source, catalogue } = await services.sources.of(definition);
  const memberships = rows.flatMap((row) => (row.roster_table !== null && row.row_key !== null ? [{ rosterTable: row.roster_table, rowKey: row.row_key }] : []));
  const person = await memberPerson(source, catalogue, definition, { id: Number(session.member_id), email: session.email, name: session.name, rows: memberships });
  return { definition, catalogue, person, moment: now, source, name: session.name, seenBy: false };
}

/** Session, member, portal and roster rows in one question, a line for each roster row. */
function sessionRows(services: Services, hash: string, slug: string): Promise<SessionRow[]> {
  return services.store.sequelize.query<SessionRow>(
    `SELECT s.expires_at, s.seen_at, m.id member_id, m.email, m.name, p.id portal_id, p.published_version, r.roster_table, r.row_key
     FROM sessions s JOIN members m ON m.id = s.member_id JOIN portals p ON p.id = m.portal_id LEFT JOIN memberships r ON r.member_id = m.id
     WHERE s.token_hash = ? AND p.slug = ? AND m.active`,
    { replacements: [hash, slug], type: QueryTypes.SELECT },
  );
}
