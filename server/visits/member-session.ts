import { RostersBeside, type Assumed, type Membership, type OwnQuestion, type Standing } from '../gate/gate';
import type { PortalDefinition } from '../../core/definition/definition';
import type { CoreServices } from '../definitions/portal-services';
import { AskerGone } from '../sources/asker';
import type { KnownMember } from '../people/members';
import { givenRoles } from '../people/given-roles';
import type { Source } from '../sources/source';
import { prepared } from '../store/prepared';
import { rightsRevisionSql } from '../store/rights-revision';
import { LastSaid } from './last-said';

export interface MemberSession {
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
    /** What was asked, and the fingerprint of what was told; null where it isn't one membership. */
    told: { question: OwnQuestion; print: string } | null;
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

/** A session with what was told beside it. */
interface KeptSession {
  session: MemberSession;
  beside: Omit<NonNullable<MemberSession['beside']>, 'rosters'>;
  /** Others say how long a definition and a catalogue are kept, which hang on this. */
  rosters: WeakRef<RostersBeside>;
}

/** Sessions that were read with their one roster row, by the hash of their token and the portal's address. */
const lastSessions = new WeakMap<CoreServices, LastSaid<KeptSession>>();
const mostSessions = 5000;

const sessionBy = (hash: string, slug: string): string => `${hash} ${slug}`;

/** Notes that a session lets somebody in, so that it may be assumed the next time. */
export function noteSession(services: CoreServices, hash: string, slug: string, session: MemberSession | null): void {
  let last = lastSessions.get(services);
  if (!last) lastSessions.set(services, (last = new LastSaid(mostSessions)));
  if (!session?.beside?.told) return last.forget(sessionBy(hash, slug));
  const { rosters, ...beside } = session.beside;
  last.note(sessionBy(hash, slug), { session: { ...session, beside: null }, beside, rosters: new WeakRef(rosters) });
}

/** The session that a token was last found to have, with what is to be borne out; null where none is known. */
export function lastSession(
  services: CoreServices,
  hash: string,
  slug: string,
): { session: MemberSession; assumed: Assumed } | null {
  const again = ({ session, beside, rosters: kept }: KeptSession) => {
    const rosters = kept.deref();
    if (!rosters) return null;
    const { question, print } = beside.told!;
    return { session: { ...session, beside: { ...beside, rosters } }, assumed: rosters.assumed(question, print) };
  };
  return lastSessions.get(services)?.assume(sessionBy(hash, slug), again) ?? null;
}

export async function keepRosters(services: CoreServices, slug: string, definition: PortalDefinition): Promise<void> {
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

const seenAt = 'UNIX_TIMESTAMP(s.seen_at)';
const columns = [
  'UNIX_TIMESTAMP(s.expires_at)',
  seenAt,
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
export async function memberSession(services: CoreServices, hash: string, slug: string): Promise<MemberSession | null> {
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
  const schema = services.sources.ownPrefix(rosters.definition)!;
  const question: OwnQuestion = {
    selected: [...columns, rightsRevisionSql(schema)],
    passing: [seenAt],
    from: from(schema),
    where,
    values: [hash, slug],
    rosterTable,
    rowKey,
    email: 'm.email',
  };
  const found = await rosters.ask(source, question);
  const session = sessionOf(found);
  return session && { ...session, beside: besideOf(rosters, question, found) };
}

function besideOf(
  rosters: RostersBeside,
  question: OwnQuestion,
  found: readonly Membership[],
): NonNullable<MemberSession['beside']> {
  const standings = found.flatMap(({ rosterTable: table, standing }) =>
    table === null || standing === undefined ? [] : [[table, standing] as const],
  );
  const [first, ...more] = found;
  return {
    rosters,
    standings: new Map(standings),
    rowsOfAddress: first?.rowsOfAddress ?? new Map<string, number>(),
    told: first && more.length === 0 ? { question, print: first.print } : null,
  };
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
