import { factsAlong } from '../../core/access/facts-asked';
import { rolesOf } from '../../core/access/people';
import type { Person } from '../../core/access/person';
import type { PortalDefinition, Roster } from '../../core/definition/definition';
import { isTheirs, organisationOf } from '../../core/people/theirs';
import type { Catalogue } from '../../core/table/catalogue';
import { rosterRepeats, rosterStanding, type Standing } from '../gate/gate';
import type { Runner } from '../sources/source';
import { Member, Membership } from '../store/people-models';
import { givenRoles } from './given-roles';

/** A member as the store knows them, with the roster rows they are known by. */
export interface KnownMember {
  id: number;
  email: string;
  name: string;
  /** `holds` false where a row was no member's when it was last looked at: another one may have its address. */
  rows: { rosterTable: string; rowKey: string; holds: boolean }[];
  /** Roles given to them by hand. */
  given: string[];
  /** They came by an open domain, and stand on no roster. */
  withoutRow?: boolean;
}

/**
 * The person that a member is under a definition: the roles that the rosters give whose row is still theirs, with that
 * row's facts, read now, unless they were `found` beside what says who it is. A row that is gone, doesn't count or
 * carries another e-mail by now gives neither role nor facts.
 */
export async function memberPerson(
  runner: Runner,
  catalogue: Catalogue,
  definition: PortalDefinition,
  member: KnownMember,
  found: ReadonlyMap<string, Standing | null> = new Map(),
): Promise<Person> {
  const person: Person = {
    kind: 'member',
    id: member.id,
    email: member.email,
    organisation: null,
    roles: [],
    rows: {},
  };
  await Promise.all(
    definition.rosters.map(async (roster) => {
      const membership = member.rows.find((row) => row.rosterTable === roster.table);
      if (!membership) return;
      const facts = factsAlong(definition, roster.table);
      const [standing] = found.has(roster.table)
        ? [found.get(roster.table)]
        : (await rosterStanding(runner, catalogue, roster, facts, [membership.rowKey])).values();
      if (!standing || !isTheirs(roster, catalogue, standing.row, member.email)) return;
      if (!membership.holds && (await isShared(runner, catalogue, roster, member.email))) return;
      person.rows[roster.table] = standing.row;
      if (facts.length > 0) person.along = { ...person.along, ...standing.along };
    }),
  );
  person.organisation = organisationOf(definition.rosters, person.rows);
  person.roles = rolesOf(definition, catalogue, { ...member, rows: person.rows });
  return person;
}

/** Whether an address stands in several rows of a roster that count, and so is nobody's there. */
const isShared = async (runner: Runner, catalogue: Catalogue, roster: Roster, email: string): Promise<boolean> =>
  (await rosterRepeats(runner, catalogue, roster, [email])).has(email);

export async function knownMember(portalId: number, id: number): Promise<KnownMember | null> {
  const member = await Member.findOne({ where: { portalId, id } });
  if (!member) return null;
  const rows = await Membership.findAll({ where: { memberId: id } });
  return {
    id: member.id,
    email: member.email,
    name: member.name,
    rows: rows.map(({ rosterTable, rowKey, holds }) => ({ rosterTable, rowKey, holds: Boolean(holds) })),
    given: givenRoles(member.given),
    withoutRow: member.withoutRow,
  };
}
