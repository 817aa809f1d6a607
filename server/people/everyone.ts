import { rosterPeople } from '../gate/gate';
import type { KnownPerson } from '../../core/access/people';
import type { PortalDefinition } from '../../core/definition/definition';
import type { Catalogue } from '../../core/table/catalogue';
import type { Runner } from '../sources/source';
import { Member, Membership } from '../store/models';
import { isTheirs, organisationOf } from './members';
import { Op } from 'sequelize';

/**
 * Every active member with the roster rows that are theirs now, under the rosters of any of the definitions: for
 * comparing and for promises.
 */
export async function everyone(
  runner: Runner,
  catalogue: Catalogue,
  definitions: PortalDefinition[],
  portalId: number,
): Promise<KnownPerson[]> {
  const rosters = [
    ...new Map(
      definitions.flatMap((definition) => definition.rosters).map((roster) => [roster.table, roster]),
    ).values(),
  ];
  const members = await Member.findAll({ where: { portalId, active: true }, order: [['id', 'ASC']], raw: true });
  const people = new Map(
    members.map((member): [number, KnownPerson] => [
      Number(member.id),
      { id: Number(member.id), name: member.name, email: member.email, organisation: null, rows: {} },
    ]),
  );
  for (const roster of rosters) {
    const rows = await rosterPeople(runner, catalogue, roster);
    const memberships = await Membership.findAll({
      where: { rosterTable: roster.table, memberId: { [Op.in]: [...people.keys()] } },
      raw: true,
    });
    for (const { memberId, rowKey } of memberships) {
      const person = people.get(Number(memberId))!;
      const row = rows.get(rowKey);
      if (row && isTheirs(roster, row, person.email)) person.rows[roster.table] = row;
    }
  }
  for (const person of people.values()) person.organisation = organisationOf(rosters, person.rows);
  return [...people.values()];
}
