import { isRosterRead, RostersBeside, type Standing, type Visit } from '../gate/gate';
import type { Request } from 'express';
import { Problem } from '../../core/refusals/problem';
import { readCookie } from '../http/security';
import { filesOf } from '../files/column-files';
import type { PortalDefinition } from '../../core/definition/definition';
import type { Opened } from '../definitions/definitions';
import type { CoreServices } from '../definitions/portal-services';
import { type Asker, AskerGone, askerOf } from '../sources/asker';
import { knownMember, memberPerson, type KnownMember } from '../people/members';
import { Portal } from '../store/models';
import { Member } from '../store/people-models';
import { endSessionsOf, sessionHolds, tokenHash, touchSession } from '../sessions/sessions';
import { bringInLine } from '../people/bring-in-line';
import { givenRoles } from '../people/given-roles';
import { lookingAfter } from '../people/looked-after';
import { rostersAway } from '../people/rosters-at';
import { signInRules } from '../../core/sign-in/sign-in-rules';
import type { Source } from '../sources/source';
import { tellChangedAddress } from '../people/changed-address';
import { hasOtherRows } from './further-rows';
import { historyKeeper } from '../leaving/keep-history';
import { leaverOf } from '../leaving/leaver';
import { standInKey } from '../store/stand-in';
import { prepared } from '../store/prepared';
import { rightsRevisionSql } from '../store/rights-revision';

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

interface MemberSession {
  expiresAt: Date;
  seenAt: Date;
  member: KnownMember;
  portalId: number;
  publishedVersion: number | null;
  rightsRevision: number;
  /** The roster rows that were read beside it, and by what. */
  beside: {
    rosters: RostersBeside;
    standings: Map<string, Standing | null>;
    /** How many rows carry their address, by roster, where that was told. */
    rowsOfAddress: ReadonlyMap<string, number>;
  } | null;
}

/** What a portal's rosters were when last asked, and how its records are reached. */
interface LastRosters {
  rosters: RostersBeside;
  source: Source;
  /** They can't be asked beside a session, until definition or catalogue are read anew. */
  fails: boolean;
}

/** By the portal's address. */
const lastRosters = new WeakMap<CoreServices, Map<string, LastRosters>>();
const mostKept = 200;

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
  if (told && [...told].some(([table, rows]) => (rows === 1) !== Object.hasOwn(visit.person.rows, table)))
    return followedVisit(services, visit, member, asker);
  if (await hasOtherRows(services, visit, told)) return followedVisit(services, visit, member, asker);
  if (isStillIn(visit)) return visit;
  await letGo(services, visit, member);
  throw notSignedIn();
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
}

/** The visit of a member under a published version, at the portal's own source. */
async function visitOf(
  services: CoreServices,
  portalId: number,
  version: number,
  member: KnownMember,
  moment: Date,
  { beside, slug, asker }: Coming = {},
): Promise<PortalVisit> {
  const definition = await services.definitions.version(portalId, version);
  const opened = await services.sources.of(definition, asker);
  const { source, catalogue } = opened;
  const rosters = beside?.rosters;
  const isSame = rosters?.definition === definition && rosters.catalogue === catalogue;
  if (!isSame && slug !== undefined) await keepRosters(services, slug, definition);
  const person = await memberPerson(source, catalogue, definition, member, isSame ? beside?.standings : undefined);
  const asking = { ...opened, definition, person, moment, portalId, name: member.name, email: member.email };
  return {
    ...asking,
    leaver: () => leaverOf(services, asking),
    history: () => historyKeeper(services, { ...asking, changedBy: null }),
    name: member.name,
    email: member.email,
    seenBy: false,
    standIn: await standInKey(portalId),
    portalId,
    files: filesOf(portalId, person),
    // It is written by then: that nobody could be told is no fault of the write.
    addressWritten: (row, address) =>
      tellChangedAddress(services, portalId, { runner: source, catalogue, definition }, row, address).catch(
        (error: unknown) => services.log.warn({ reason: (error as Error).name }, 'nobody told of a changed address'),
      ),
    ...lookingAfterOthers(portalId, definition, opened),
  };
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

async function keepRosters(services: CoreServices, slug: string, definition: PortalDefinition): Promise<void> {
  if (services.sources.beside(definition) === null) return;
  // Kept for others as well, so as nobody asks it.
  const opened = await services.sources.of(definition);
  const kept = lastRosters.get(services) ?? new Map<string, LastRosters>();
  const last = kept.get(slug)?.rosters;
  if (last?.definition === definition && last.catalogue === opened.catalogue) return;
  lastRosters.set(services, kept);
  kept.delete(slug);
  kept.set(slug, { rosters: new RostersBeside(opened.catalogue, definition), source: opened.source, fails: false });
  if (kept.size > mostKept) kept.delete(kept.keys().next().value!);
}

const columns = [
  'UNIX_TIMESTAMP(s.expires_at)',
  'UNIX_TIMESTAMP(s.seen_at)',
  'm.id',
  'm.email',
  'm.name',
  'p.id',
  'p.published_version',
  'm.given',
  'm.without_row',
  'r.holds',
];
const holdsAt = columns.indexOf('r.holds');
const rosterTable = 'r.roster_table';
const rowKey = 'r.row_key';
const where = 's.token_hash = ? AND p.slug = ? AND m.on_roster AND m.suspended IS NULL AND s.lacks IS NULL';
/** The product's own tables, by names that hold wherever the statement is run. */
const from = (schema: string) =>
  `${schema}sessions s JOIN ${schema}members m ON m.id = s.member_id JOIN ${schema}portals p ON p.id = m.portal_id
   LEFT JOIN ${schema}memberships r ON r.member_id = m.id`;

/** Session, member, portal and roster rows in one question, a line for each roster row. */
async function memberSession(services: CoreServices, hash: string, slug: string): Promise<MemberSession | null> {
  const last = lastRosters.get(services)?.get(slug);
  if (last && !last.fails) {
    try {
      return await sessionBeside(services, last, hash, slug);
    } catch (error) {
      if (error instanceof AskerGone) throw error;
      // What the rosters were holds no longer, or the database is away, which the plain question will say.
      services.log.debug({ reason: (error as Error).name }, 'rosters not read beside a session');
      last.fails = true;
    }
  }
  const rows = await prepared(
    services.store.sequelize,
    `SELECT ${[...columns, rightsRevisionSql(), rosterTable, rowKey].join(', ')} FROM ${from('')} WHERE ${where}`,
    [hash, slug],
  );
  const at = columns.length + 1;
  const text = (value: unknown) => (value === null ? null : String(value));
  return sessionOf(rows.map((row) => ({ own: row, rosterTable: text(row[at]), rowKey: text(row[at + 1]) })));
}

async function sessionBeside(
  services: CoreServices,
  { rosters, source }: LastRosters,
  hash: string,
  slug: string,
): Promise<MemberSession | null> {
  const schema = `\`${services.sources.beside(rosters.definition)!.replaceAll('`', '``')}\`.`;
  const found = await rosters.ask(source, {
    selected: [...columns, rightsRevisionSql(schema)],
    from: from(schema),
    where,
    values: [hash, slug],
    rosterTable,
    rowKey,
    email: 'm.email',
  });
  const session = sessionOf(found);
  const standings = found.flatMap(({ rosterTable: table, standing }) =>
    table === null || standing === undefined ? [] : [[table, standing] as const],
  );
  const counted = found[0]?.rowsOfAddress ?? new Map<string, number>();
  return session && { ...session, beside: { rosters, standings: new Map(standings), rowsOfAddress: counted } };
}

function sessionOf(
  rows: { own: unknown[]; rosterTable: string | null; rowKey: string | null }[],
): MemberSession | null {
  const first = rows[0]?.own;
  if (!first) return null;
  const known = rows.flatMap(({ own, rosterTable: table, rowKey: key }) =>
    table === null || key === null ? [] : [{ rosterTable: table, rowKey: key, holds: Number(own[holdsAt]) === 1 }],
  );
  return {
    expiresAt: new Date(Number(first[0]) * 1000),
    seenAt: new Date(Number(first[1]) * 1000),
    member: {
      id: Number(first[2]),
      email: String(first[3]),
      name: String(first[4]),
      rows: known,
      given: givenRoles(first[7] === null ? null : String(first[7])),
      withoutRow: Number(first[columns.indexOf('m.without_row')]) === 1,
    },
    portalId: Number(first[5]),
    publishedVersion: first[6] === null ? null : Number(first[6]),
    rightsRevision: Number(first[columns.length]),
    beside: null,
  };
}
