import type { Visit } from '../gate/gate';
import type { Request } from 'express';
import { Problem } from '../../core/refusals/problem';
import { readCookie } from '../http/security';
import { filesOf } from '../files/column-files';
import type { CoreServices } from '../definitions/portal-services';
import { knownMember, memberPerson, type KnownMember } from '../people/members';
import { Member, Portal } from '../store/models';
import { sessionHolds, tokenHash, touchSession } from '../sessions/sessions';
import type { Source } from '../sources/source';
import { standInKey } from './stand-in';
import { prepared } from '../store/prepared';
import { rightsRevisionSql } from '../store/rights-revision';

export const memberCookie = 'stone_porch_member';
export const memberCookiePath = (slug: string): string => `/api/portals/${slug}`;

/** A person at the door of a portal, with the source that holds its records. */
export interface PortalVisit extends Visit {
  source: Source;
  name: string;
  /** Set when a builder looks as this person: nothing may be changed then. */
  seenBy: boolean;
  portalId: number;
}

interface MemberSession {
  expiresAt: Date;
  seenAt: Date;
  member: KnownMember;
  portalId: number;
  publishedVersion: number | null;
  rightsRevision: number;
}

/**
 * The visit of the member whose session the request carries, under the published version; a Problem 401 when there is
 * none.
 */
export async function memberVisit(services: CoreServices, req: Request, slug: string): Promise<PortalVisit> {
  const token = readCookie(req, memberCookie);
  const hash = token ? tokenHash(token) : null;
  const session = hash ? await memberSession(services, hash, slug) : null;
  const now = new Date();
  if (!hash || !session || session.publishedVersion === null || !sessionHolds(session, now)) {
    throw new Problem(401, 'not-signed-in', 'You are not signed in, or your session has ended. Sign in again.');
  }
  await touchSession({ tokenHash: hash, seenAt: session.seenAt }, now);
  await services.followRights(session.rightsRevision);
  return visitOf(services, session.portalId, session.publishedVersion, session.member, now);
}

/** The visit of a member under a published version, at the portal's own source. */
async function visitOf(
  services: CoreServices,
  portalId: number,
  version: number,
  member: KnownMember,
  moment: Date,
): Promise<PortalVisit> {
  const definition = await services.definitions.version(portalId, version);
  const opened = await services.sources.of(definition);
  const person = await memberPerson(opened.source, opened.catalogue, definition, member);
  return {
    ...opened,
    definition,
    person,
    moment,
    name: member.name,
    seenBy: false,
    standIn: await standInKey(portalId),
    portalId,
    files: filesOf(portalId, person),
  };
}

/**
 * The visit of a member for work that goes on without them: as they are now, under what is published now. A Problem 403
 * where they are no member any more, or nothing is published.
 */
export async function absentMemberVisit(services: CoreServices, portalId: number, id: number): Promise<PortalVisit> {
  const portal = await Portal.findByPk(portalId, { rejectOnEmpty: true });
  const isActive = (await Member.count({ where: { portalId, id, active: true } })) === 1;
  const member = isActive ? await knownMember(portalId, id) : null;
  if (!member || portal.publishedVersion === null)
    throw new Problem(403, 'no-member', 'Whoever began this is no member any more, so it was not done.');
  return visitOf(services, portalId, portal.publishedVersion, member, new Date());
}

/** Session, member, portal and roster rows in one question, a line for each roster row. */
async function memberSession(services: CoreServices, hash: string, slug: string): Promise<MemberSession | null> {
  const rows = await prepared(
    services.store.sequelize,
    `SELECT UNIX_TIMESTAMP(s.expires_at), UNIX_TIMESTAMP(s.seen_at), m.id, m.email, m.name, p.id, p.published_version,
      r.roster_table, r.row_key, ${rightsRevisionSql}
     FROM sessions s JOIN members m ON m.id = s.member_id JOIN portals p ON p.id = m.portal_id LEFT
      JOIN memberships r ON r.member_id = m.id
     WHERE s.token_hash = ? AND p.slug = ? AND m.active`,
    [hash, slug],
  );
  const [first] = rows;
  if (!first) return null;
  const known = rows
    .filter((row) => row[7] !== null)
    .map((row) => ({ rosterTable: String(row[7]), rowKey: String(row[8]) }));
  return {
    expiresAt: new Date(Number(first[0]) * 1000),
    seenAt: new Date(Number(first[1]) * 1000),
    member: { id: Number(first[2]), email: String(first[3]), name: String(first[4]), rows: known },
    portalId: Number(first[5]),
    publishedVersion: first[6] === null ? null : Number(first[6]),
    rightsRevision: Number(first[9]),
  };
}
