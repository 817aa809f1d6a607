import { factsAlong } from '../../core/access/facts-asked';
import { rosterPeople, rosterRows, rosterStanding, type Standing } from '../gate/gate';
import { Op, type Sequelize } from 'sequelize';
import type { Catalogue } from '../../core/table/catalogue';
import type { PortalDefinition, Roster } from '../../core/definition/definition';
import { normaliseEmail } from '../../core/text/email';
import type { Person } from '../../core/access/person';
import { rolesOfRows } from '../../core/access/roster-roles';
import type { Row } from '../../core/table/value';
import type { Runner } from '../sources/source';
import { Member, Membership } from '../store/models';

export interface RefreshOutcome {
  added: number;
  updated: number;
  suspended: number;
  /** Rows that give no member: no e-mail, or one that stands twice in the roster. */
  left: number;
}

/**
 * Brings the members in line with the draft's rosters: adds, updates and suspends, in one transaction. Sends no mail. A
 * row whose e-mail stands twice in one roster is nobody's: it would be open whose records they get. `saving` is told
 * just before all of it is kept.
 */
export async function refreshMembers(
  sequelize: Sequelize,
  runner: Runner,
  catalogue: Catalogue,
  definition: PortalDefinition,
  portalId: number,
  saving: () => Promise<void> = () => Promise.resolve(),
): Promise<RefreshOutcome> {
  const wanted = new Map<string, { name: string; rows: Map<string, string> }>();
  let left = 0;
  for (const roster of definition.rosters) {
    const rows = await rosterRows(runner, catalogue, roster);
    const times = new Map<string, number>();
    for (const row of rows) times.set(normaliseEmail(row.email), (times.get(normaliseEmail(row.email)) ?? 0) + 1);
    for (const row of rows) {
      const email = normaliseEmail(row.email);
      if (email === '' || email.length > 254 || times.get(email) !== 1) {
        left++;
        continue;
      }
      const person = wanted.get(email) ?? { name: row.name, rows: new Map() };
      person.rows.set(roster.table, row.key);
      wanted.set(email, person);
    }
  }
  return sequelize.transaction(async (transaction) => {
    const known = await Member.findAll({ where: { portalId }, transaction, lock: true });
    const byEmail = new Map(known.map((member) => [member.email, member]));
    const fresh = [...wanted].filter(([email]) => !byEmail.has(email));
    await Member.bulkCreate(
      fresh.map(([email, { name }]) => ({
        portalId,
        email,
        name: name.slice(0, 200),
        active: true,
        passwordHash: null,
      })),
      { transaction },
    );
    let updated = 0;
    for (const [email, { name }] of wanted) {
      const member = byEmail.get(email);
      if (!member || (member.active && member.name === name.slice(0, 200))) continue;
      await member.update({ name: name.slice(0, 200), active: true }, { transaction });
      updated++;
    }
    const gone = known.filter((member) => member.active && !wanted.has(member.email));
    await Member.update(
      { active: false },
      { where: { id: { [Op.in]: gone.map((member) => member.id) } }, transaction },
    );
    const ids = await Member.findAll({ where: { portalId }, transaction });
    await Membership.destroy({ where: { memberId: { [Op.in]: ids.map((member) => member.id) } }, transaction });
    await Membership.bulkCreate(
      ids.flatMap((member) =>
        [...(wanted.get(member.email)?.rows ?? [])].map(([rosterTable, rowKey]) => ({
          memberId: member.id,
          rosterTable,
          rowKey,
        })),
      ),
      { transaction },
    );
    await saving();
    return { added: fresh.length, updated, suspended: gone.length, left };
  });
}

/** A member as the store knows them, with the roster rows they stand on. */
export interface KnownMember {
  id: number;
  email: string;
  name: string;
  rows: { rosterTable: string; rowKey: string }[];
}

/**
 * The person that a member is under a definition: the roles that the rosters give whose row is still theirs, with that
 * row's facts, read now, unless they were `found` beside what says who it is. A row that is gone or carries another
 * e-mail by now gives neither role nor facts.
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
      if (!standing || !isTheirs(roster, standing.row, member.email)) return;
      person.rows[roster.table] = standing.row;
      if (facts.length > 0) person.along = { ...person.along, ...standing.along };
    }),
  );
  person.organisation = organisationOf(definition.rosters, person.rows);
  person.roles = rolesOfRows(definition, catalogue, person.rows);
  return person;
}

/** Whether a roster row is still that of the member with the e-mail. */
export function isTheirs(roster: Roster, row: Row, email: string | null): boolean {
  return email !== null && normaliseEmail(String(row[roster.email] ?? '')) === email;
}

/** The organisation that the first of the person's roster rows names; null when none does. */
export function organisationOf(rosters: Roster[], rows: Person['rows']): string | null {
  for (const { table, organisation } of rosters) {
    const value = organisation !== undefined && Object.hasOwn(rows, table) ? rows[table]![organisation] : null;
    if (value !== null && value !== undefined && value !== '') return String(value);
  }
  return null;
}

/** A member as builders see them in a list. */
export interface FoundMember {
  id: number;
  name: string;
  email: string;
  active: boolean;
  canSignIn: boolean;
  rosters: string[];
  /** What the definition makes of them. */
  roles: string[];
}

/**
 * One page of a portal's members by name, with the roles that the definition gives them now, for the People stage and
 * for choosing whom to see as.
 */
export async function findMembers(
  runner: Runner,
  catalogue: Catalogue,
  definition: PortalDefinition,
  portalId: number,
  search: string,
  rosterTable: string | null,
  offset: number,
  limit: number,
): Promise<{ total: number; members: FoundMember[] }> {
  const like = `%${search.replaceAll(/[\\%_]/g, (sign) => `\\${sign}`)}%`;
  const ids =
    rosterTable === null
      ? null
      : (await Membership.findAll({ where: { rosterTable }, attributes: ['memberId'] })).map((row) => row.memberId);
  const { rows, count } = await Member.findAndCountAll({
    where: {
      portalId,
      ...(search ? { [Op.or]: [{ name: { [Op.like]: like } }, { email: { [Op.like]: like } }] } : {}),
      ...(ids ? { id: { [Op.in]: ids } } : {}),
    },
    order: [
      ['name', 'ASC'],
      ['id', 'ASC'],
    ],
    offset,
    limit,
  });
  const memberships = await Membership.findAll({ where: { memberId: { [Op.in]: rows.map((member) => member.id) } } });
  const standing = new Map(
    await Promise.all(
      definition.rosters.map(
        async (roster) =>
          [
            roster.table,
            await rosterPeople(
              runner,
              catalogue,
              roster,
              memberships.filter((row) => row.rosterTable === roster.table).map((row) => row.rowKey),
            ),
          ] as const,
      ),
    ),
  );
  const rowsOf = (member: Member): Person['rows'] =>
    Object.fromEntries(
      definition.rosters.flatMap((roster) => {
        const membership = memberships.find(
          (row) => Number(row.memberId) === member.id && row.rosterTable === roster.table,
        );
        const row = membership && standing.get(roster.table)!.get(membership.rowKey);
        return row && isTheirs(roster, row, member.email) ? [[roster.table, row]] : [];
      }),
    );
  return {
    total: count,
    members: rows.map((member) => ({
      id: member.id,
      name: member.name,
      email: member.email,
      active: member.active,
      canSignIn: member.passwordHash !== null,
      rosters: memberships.filter((row) => Number(row.memberId) === member.id).map((row) => row.rosterTable),
      roles: rolesOfRows(definition, catalogue, rowsOf(member)),
    })),
  };
}

export async function knownMember(portalId: number, id: number): Promise<KnownMember | null> {
  const member = await Member.findOne({ where: { portalId, id } });
  if (!member) return null;
  const rows = await Membership.findAll({ where: { memberId: id } });
  return {
    id: member.id,
    email: member.email,
    name: member.name,
    rows: rows.map(({ rosterTable, rowKey }) => ({ rosterTable, rowKey })),
  };
}
