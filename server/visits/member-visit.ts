import { isRosterRead, type Assumed, type Visit } from '../gate/gate';
import type { Request } from 'express';
import { Problem } from '../../core/refusals/problem';
import { readCookie } from '../http/security';
import { filesOf } from '../files/column-files';
import type { PortalDefinition } from '../../core/definition/definition';
import type { Opened } from '../definitions/definitions';
import type { CoreServices } from '../definitions/portal-services';
import { type Asker, askerOf } from '../sources/asker';
import { knownMember, memberPerson, type KnownMember } from '../people/members';
import { Portal } from '../store/models';
import { Member } from '../store/people-models';
import { endSessionsOf, isToTouch, sessionHolds, tokenHash, touchSession } from '../sessions/sessions';
import { bringInLine } from '../people/bring-in-line';
import { lookingAfter } from '../people/looked-after';
import { rostersAway } from '../people/rosters-at';
import { signInRules } from '../../core/sign-in/sign-in-rules';
import type { Source } from '../sources/source';
import { tellChangedAddress } from '../people/changed-address';
import { hasOtherRows, isLookDue } from './further-rows';
import { historyKeeper } from '../leaving/keep-history';
import { leaverOf } from '../leaving/leaver';
import { standInKey } from '../store/stand-in';
import { keepRosters, lastSession, memberSession, noteSession, type MemberSession } from './member-session';

export const memberCookie = 'stone_porch_member';
export const memberCookiePath = (slug: string): string => `/api/portals/${slug}`;

/** A person at the door of a portal, with the source that holds its records. */
export interface PortalVisit extends Visit {
  source: Source;
  name: string;
  /** As it is told to whoever looks; null where there is none. */
  email: string | null;
  /** Set when a builder looks as this person: nothing may be changed then. */
  seenBy: boolean;
  portalId: number;
  /** Told once somebody has written an address into a row of a roster; where nobody is to be told, it is absent. */
  addressWritten?: (row: { roster: string; key: string }, address: string) => Promise<void>;
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
  if (!hash || !session || session.publishedVersion === null) throw notSignedIn();
  const published = await services.definitions.version(session.portalId, session.publishedVersion);
  if (!sessionHolds(session, now, signInRules(published))) throw notSignedIn();
  await touchSession({ tokenHash: hash, seenAt: session.seenAt }, now);
  await services.followRights(session.rightsRevision);
  const { portalId, publishedVersion, member, beside } = session;
  const asker = askerOf(req);
  const visit = await visitOf(services, portalId, publishedVersion, member, now, { beside, slug, asker });
  const told = beside?.rosters.definition === visit.definition ? beside.rowsOfAddress : null;
  // Rows of one roster with one address are nobody's: only a single one makes a difference.
  const isFollowed =
    (told && [...told].some(([table, rows]) => (rows === 1) !== Object.hasOwn(visit.person.rows, table))) ||
    (await hasOtherRows(services, visit, told));
  noteSession(services, hash, slug, isFollowed || !isStillIn(visit) ? null : session);
  if (isFollowed) return followedVisit(services, visit, member, asker);
  if (isStillIn(visit)) return visit;
  await letGo(services, visit, member);
  throw notSignedIn();
}

/**
 * As `memberVisit`, by what was known of the session the last time, which is to be borne out by what is read of the
 * records; null where nothing is known, or something is to be written down.
 */
export async function assumedMemberVisit(
  services: CoreServices,
  req: Request,
  slug: string,
): Promise<{ visit: PortalVisit; assumed: Assumed } | null> {
  const token = readCookie(req, memberCookie);
  const last = token ? lastSession(services, tokenHash(token), slug) : null;
  if (!last) return null;
  const { session, assumed } = last;
  const { portalId, publishedVersion, member, beside, rightsRevision } = session;
  const now = new Date();
  if (!services.isFollowed(rightsRevision) || isToTouch(session, now)) return null;
  const published = await services.definitions.version(portalId, publishedVersion!);
  if (!sessionHolds(session, now, signInRules(published))) return null;
  const coming = { beside, asker: askerOf(req), assumed };
  const visit = await visitOf(services, portalId, publishedVersion!, member, now, coming);
  // What was read beside it is read by what the tables were then.
  if (beside!.rosters.definition !== visit.definition || beside!.rosters.catalogue !== visit.catalogue) return null;
  if (!isStillIn(visit) || isLookDue(visit, beside!.rowsOfAddress)) return null;
  return { visit, assumed };
}

/** Whether a row makes them a member, or the portal is open to their address. */
const isStillIn = ({ person }: PortalVisit): boolean => Object.keys(person.rows).length > 0 || person.roles.length > 0;

/** A row with their address has come, or a second one: they are brought in line first. */
async function followedVisit(
  services: CoreServices,
  visit: PortalVisit,
  member: KnownMember,
  asker: Asker | undefined,
): Promise<PortalVisit> {
  const portal = await Portal.findByPk(visit.portalId, { rejectOnEmpty: true });
  await bringInLine(services, portal, { members: [member.id], emails: [member.email] });
  const now = await Member.findOne({ where: { id: member.id, onRoster: true, email: member.email, suspended: null } });
  const known = now && (await knownMember(portal.id, member.id));
  if (!known || portal.publishedVersion === null) throw notSignedIn();
  return visitOf(services, portal.id, portal.publishedVersion, known, new Date(), { asker });
}

const notSignedIn = (): Problem =>
  new Problem(401, 'not-signed-in', 'You are not signed in, or your session has ended. Sign in again.');

/**
 * No row makes them a member any more, or it carries another address by now: their sessions end. Throws a Problem 503
 * where the rosters can't be read, which says nothing about anybody.
 */
async function letGo(services: CoreServices, visit: PortalVisit, member: KnownMember): Promise<void> {
  const { catalogue, definition, portalId } = visit;
  const own = definition.rosters.filter(({ table }) => member.rows.some((row) => row.rosterTable === table));
  if (own.some((roster) => !isRosterRead(catalogue, roster))) throw rostersAway();
  await endSessionsOf([member.id]);
  await bringInLine(services, { id: portalId }, { members: [member.id] });
}

/** What is known of a request by which a member comes. */
interface Coming {
  beside?: MemberSession['beside'];
  slug?: string;
  asker?: Asker;
  /** What is to be borne out of it. */
  assumed?: Assumed;
}

/** The visit of a member under a published version, at the portal's own source. */
async function visitOf(
  services: CoreServices,
  portalId: number,
  version: number,
  member: KnownMember,
  moment: Date,
  { beside, slug, asker, assumed }: Coming = {},
): Promise<PortalVisit> {
  const definition = await services.definitions.version(portalId, version);
  const { source, catalogue, place, elsewhere } = await services.sources.of(definition, asker);
  const rosters = beside?.rosters;
  const isSame = rosters?.definition === definition && rosters.catalogue === catalogue;
  if (!isSame && slug !== undefined) await keepRosters(services, slug, definition);
  const person = await memberPerson(source, catalogue, definition, member, isSame ? beside?.standings : undefined);
  const { name, email } = member;
  const visit: PortalVisit = {
    source,
    catalogue,
    definition,
    person,
    moment,
    name,
    email,
    portalId,
    seenBy: false,
    standIn: await standInKey(portalId),
    leaver: () => leaverOf(services, visit),
    history: () => historyKeeper(services, { portalId, person, moment, definition, changedBy: null }),
    files: filesOf(portalId, person),
    // It is written by then: that nobody could be told is no fault of the write.
    addressWritten: (row, address) =>
      tellChangedAddress(services, portalId, { runner: source, catalogue, definition }, row, address).catch(
        (error: unknown) => services.log.warn({ reason: (error as Error).name }, 'nobody told of a changed address'),
      ),
    ...lookingAfterOthers(portalId, definition, { source, catalogue }),
  };
  if (elsewhere) visit.elsewhere = elsewhere;
  if (place !== undefined) visit.place = place;
  if (assumed) visit.assumed = assumed;
  return visit;
}

/** What a visit has where stewards look after people. */
export function lookingAfterOthers(
  portalId: number,
  definition: PortalDefinition,
  { source: runner, catalogue }: Pick<Opened, 'source' | 'catalogue'>,
): Pick<Visit, 'lookAfter'> {
  return definition.stewards ? { lookAfter: lookingAfter(portalId, { runner, catalogue, definition }) } : {};
}

/**
 * The visit of a member for work that goes on without them: as they are now, under what is published now. A Problem 403
 * where they are no member any more, or nothing is published.
 */
export async function absentMemberVisit(services: CoreServices, portalId: number, id: number): Promise<PortalVisit> {
  const portal = await Portal.findByPk(portalId, { rejectOnEmpty: true });
  const isIn = (await Member.count({ where: { portalId, id, onRoster: true, suspended: null } })) === 1;
  const member = isIn ? await knownMember(portalId, id) : null;
  const gone = () => new Problem(403, 'no-member', 'Whoever began this is no member any more, so it was not done.');
  if (!member || portal.publishedVersion === null) throw gone();
  const visit = await visitOf(services, portalId, portal.publishedVersion, member, new Date());
  if (!isStillIn(visit)) throw gone();
  return visit;
}
