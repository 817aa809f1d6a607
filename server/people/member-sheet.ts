import { rolesOfRows } from '../../core/access/roster-roles';
import { isTheirs } from '../../core/people/theirs';
import { rosterPeople } from '../gate/gate';
import { Member, Membership, SecondFactor, Session } from '../store/people-models';
import { deviceName } from '../sessions/device';
import { readSuspension, type Suspension } from './administer';
import { withRoles, type FoundMember, type RostersRead } from './find-members';
import { readGiven, type GivenRole } from './given-roles';

/** What a member is known by, and what it makes of them. */
export interface SheetRow {
  roster: string;
  key: string;
  /** Why it makes them no member now; null where it does. */
  fault: 'gone' | 'another e-mail' | 'does not count' | null;
  roles: string[];
}

/** A session as it may be told. */
export interface SessionInfo {
  id: number;
  device: string | null;
  beganAt: string | null;
  lastUsed: string;
}

/** All that is known of one member beside their records. */
export interface MemberSheet extends FoundMember {
  knownSince: string;
  goneSince: string | null;
  suspended: Suspension | null;
  given: GivenRole[];
  rows: SheetRow[];
  sessions: SessionInfo[];
  hasSecondFactor: boolean;
}

export async function memberSheet(at: RostersRead, member: Member): Promise<MemberSheet> {
  const { runner, catalogue, definition } = at;
  const [found] = await withRoles(at, [member]);
  const memberships = await Membership.findAll({ where: { memberId: member.id }, order: [['rosterTable', 'ASC']] });
  const rows = memberships.map(async ({ rosterTable, rowKey }): Promise<SheetRow> => {
    const roster = definition.rosters.find(({ table }) => table === rosterTable);
    const row = roster && (await rosterPeople(runner, catalogue, roster, [rowKey])).get(rowKey);
    const isHis = roster && row && isTheirs({ ...roster, where: undefined }, catalogue, row, member.email);
    const counts = roster && row && isTheirs(roster, catalogue, row, member.email);
    return {
      roster: rosterTable,
      key: rowKey,
      fault: counts ? null : isHis ? 'does not count' : row ? 'another e-mail' : 'gone',
      roles: counts ? rolesOfRows(definition, catalogue, { [rosterTable]: row }) : [],
    };
  });
  return {
    ...found!,
    knownSince: member.knownSince.toISOString(),
    goneSince: member.goneSince?.toISOString() ?? null,
    suspended: readSuspension(member.suspended),
    given: readGiven(member.given),
    rows: await Promise.all(rows),
    sessions: await sessionsOf(member.id),
    hasSecondFactor: (await SecondFactor.count({ where: { memberId: member.id } })) > 0,
  };
}

/** The sessions of a member, the last used first. */
async function sessionsOf(memberId: number): Promise<SessionInfo[]> {
  const sessions = await Session.findAll({ where: { memberId }, order: [['seenAt', 'DESC']] });
  return sessions.map(({ id, device, beganAt, seenAt }) => ({
    id,
    device: deviceName(device),
    beganAt: beganAt?.toISOString() ?? null,
    lastUsed: seenAt.toISOString(),
  }));
}
