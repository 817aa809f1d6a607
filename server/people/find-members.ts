import { Op, type WhereOptions } from 'sequelize';
import { rolesOf } from '../../core/access/people';
import { rolesGiven } from '../../core/access/roster-roles';
import type { Person } from '../../core/access/person';
import type { PortalDefinition } from '../../core/definition/definition';
import type { MemberState } from '../../core/people/member-state';
import { isTheirs, organisationOf } from '../../core/people/theirs';
import type { Catalogue } from '../../core/table/catalogue';
import { rosterPeople, rosterRepeats } from '../gate/gate';
import type { Runner } from '../sources/source';
import { Member } from '../store/people-models';
import { knownByRosters } from '../store/people-sql';
import type { Calling } from './calling';
import { givenRoles } from './given-roles';
import { membershipsOf } from './memberships';
import { stateOf } from './state-of';

/** Where a draft's rosters are read. */
export interface RostersRead {
  runner: Runner;
  catalogue: Catalogue;
  definition: PortalDefinition;
  /** What members are called to whoever looks; as they are when absent. */
  calling?: Calling;
}

/** Whom a list is about; all who are not gone when nothing is said. */
export interface WhichMembers {
  search: string;
  roster: string | null;
  state: MemberState | null;
  role: string | null;
}

/** A member as builders see them in a list. */
export interface FoundMember {
  id: number;
  name: string;
  email: string;
  state: MemberState;
  canSignIn: boolean;
  rosters: string[];
  /** What the definition makes of them. */
  roles: string[];
  /** They came by a domain that the portal is open to, and stand on no roster. */
  withoutRow: boolean;
  organisation: string | null;
  lastIn: string | null;
  invitedAt: string | null;
}

/** One page of members, and how many there are in all: counted up to `countedTo`. */
export interface FoundMembers {
  total: number;
  isMore: boolean;
  members: FoundMember[];
}

/** Counting more would take longer the more there are. */
const countedTo = 1000;
/** With a role asked for, so many are looked at at a time. */
const lookedAt = 500;

const states: Record<MemberState, WhereOptions<Member>> = {
  gone: { onRoster: false },
  suspended: { onRoster: true, suspended: { [Op.ne]: null } },
  active: { onRoster: true, suspended: null, lastIn: { [Op.ne]: null } },
  invited: { onRoster: true, suspended: null, lastIn: null, invitedAt: { [Op.ne]: null } },
  known: { onRoster: true, suspended: null, lastIn: null, invitedAt: null },
};

/**
 * One page of a portal's members by name, with the roles that the definition gives them now, for the People stage and
 * for choosing whom to see as.
 */
export async function findMembers(
  at: RostersRead,
  portalId: number,
  which: WhichMembers,
  offset: number,
  limit: number,
): Promise<FoundMembers> {
  if (which.role !== null) return findByRole(at, portalId, which, which.role, offset, limit);
  const where = whereOf(at, portalId, which, which.roster === null ? null : [which.roster]);
  const counted = await Member.findAll({ where, attributes: ['id'], limit: countedTo + 1, raw: true });
  const members = await pageOf(where, offset, limit);
  return {
    total: Math.min(counted.length, countedTo),
    isMore: counted.length > countedTo,
    members: await withRoles(at, members),
  };
}

async function findByRole(
  at: RostersRead,
  portalId: number,
  which: WhichMembers,
  role: string,
  offset: number,
  limit: number,
): Promise<FoundMembers> {
  const found = await foundByRole(at, portalId, which, role, countedTo + 1);
  return {
    total: Math.min(found.length, countedTo),
    isMore: found.length > countedTo,
    members: found.slice(offset, offset + limit),
  };
}

/** Roles follow from rows as the definition says, so those who may have one are gone through, until it is enough. */
async function foundByRole(
  at: RostersRead,
  portalId: number,
  which: WhichMembers,
  role: string,
  enough: number,
): Promise<FoundMember[]> {
  const giving = at.definition.rosters
    .filter((roster) => rolesGiven(roster).includes(role) && (which.roster ?? roster.table) === roster.table)
    .map(({ table }) => table);
  const byHand = { given: { [Op.like]: `%${JSON.stringify({ role }).slice(1, -1)}%` } };
  const beside = which.roster === null ? { [Op.or]: [byHand, { withoutRow: true }] } : null;
  const where = whereOf(at, portalId, which, giving, beside);
  const found: FoundMember[] = [];
  for (let from = 0; found.length < enough; from += lookedAt) {
    const page = await pageOf(where, from, lookedAt);
    found.push(...(await withRoles(at, page)).filter(({ roles }) => roles.includes(role)));
    if (page.length < lookedAt) break;
  }
  return found.slice(0, enough);
}

/** The numbers of all who are found, in any order, up to so many. */
export async function findNumbers(
  at: RostersRead,
  portalId: number,
  which: WhichMembers,
  most: number,
): Promise<number[]> {
  if (which.role !== null) return (await foundByRole(at, portalId, which, which.role, most)).map(({ id }) => id);
  const where = whereOf(at, portalId, which, which.roster === null ? null : [which.roster]);
  return (await Member.findAll({ where, attributes: ['id'], limit: most })).map(({ id }) => id);
}

function whereOf(
  { calling }: RostersRead,
  portalId: number,
  { search, state }: WhichMembers,
  rosters: readonly string[] | null,
  beside: WhereOptions<Member> | null = null,
): WhereOptions<Member> {
  const like = `%${search.replaceAll(/[\\%_]/g, (sign) => `\\${sign}`)}%`;
  const onOne = (tables: readonly string[]) => ({ id: { [Op.in]: knownByRosters(portalId, tables) } });
  return {
    portalId,
    [Op.and]: [
      state === null ? { onRoster: true } : states[state],
      // Nobody is found by what isn't told of them.
      ...(search
        ? [{ [Op.or]: (calling?.found ?? ['name', 'email']).map((by) => ({ [by]: { [Op.like]: like } })) }]
        : []),
      ...(rosters ? [{ [Op.or]: [onOne(rosters), ...(beside ? [beside] : [])] }] : []),
    ],
  } as WhereOptions<Member>;
}

function pageOf(where: WhereOptions<Member>, offset: number, limit: number): Promise<Member[]> {
  return Member.findAll({
    where,
    order: [
      ['name', 'ASC'],
      ['id', 'ASC'],
    ],
    offset,
    limit,
  });
}

/** Members with what the definition makes of their rows as those are now. */
export async function withRoles(
  { runner, catalogue, definition, calling }: RostersRead,
  members: readonly Member[],
): Promise<FoundMember[]> {
  const memberships = await membershipsOf(members.map(({ id }) => id));
  const all = [...memberships.values()].flat();
  const standing = new Map(
    await Promise.all(
      definition.rosters.map(async (roster) => {
        const keys = all.filter((row) => row.rosterTable === roster.table).map((row) => row.rowKey);
        return [roster.table, await rosterPeople(runner, catalogue, roster, keys)] as const;
      }),
    ),
  );
  const emails = new Map(members.map(({ id, email }) => [id, email]));
  const shared = new Map(
    await Promise.all(
      definition.rosters.map(async (roster) => {
        const doubtful = all.filter((row) => row.rosterTable === roster.table && !row.holds);
        const among = doubtful.map(({ memberId }) => emails.get(Number(memberId))!);
        return [roster.table, await rosterRepeats(runner, catalogue, roster, among)] as const;
      }),
    ),
  );
  return members.map((member) => {
    const own = memberships.get(member.id)!;
    const rows: Person['rows'] = {};
    for (const roster of definition.rosters) {
      const membership = own.find((row) => row.rosterTable === roster.table);
      const row = membership && standing.get(roster.table)!.get(membership.rowKey);
      const isOwn = row && isTheirs(roster, catalogue, row, member.email);
      if (isOwn && !shared.get(roster.table)!.has(member.email)) rows[roster.table] = row;
    }
    const { id, email, withoutRow } = member;
    return {
      id: member.id,
      name: calling?.name(member.name) ?? member.name,
      email: calling?.email(member.email) ?? member.email,
      state: stateOf(member),
      canSignIn: member.passwordHash !== null,
      rosters: own.map((row) => row.rosterTable),
      roles: rolesOf(definition, catalogue, { id, email, rows, given: givenRoles(member.given), withoutRow }),
      organisation: organisationOf(definition.rosters, rows),
      withoutRow,
      lastIn: member.lastIn?.toISOString() ?? null,
      invitedAt: member.invitedAt?.toISOString() ?? null,
    };
  });
}
