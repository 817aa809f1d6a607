import { factsAlong } from '../../core/access/facts-asked';
import { rosterStanding } from '../gate/gate';
import type { KnownPerson } from '../../core/access/people';
import type { PortalDefinition } from '../../core/definition/definition';
import type { Catalogue } from '../../core/table/catalogue';
import type { Runner } from '../sources/source';
import { Member, Membership } from '../store/people-models';
import { isTheirs, organisationOf } from '../../core/people/theirs';
import type { Calling } from './calling';
import { givenRoles } from './given-roles';
import { countsOnRoster } from '../../core/access/roster-roles';
import { standingAlone } from '../../core/people/standing-plan';
import { standingRow } from './settle';
import { Op } from 'sequelize';

/**
 * Every active member with the roster rows that are theirs now, under the rosters of any of the definitions: for
 * comparing and for promises. Their names are those that whoever looks is told.
 */
export async function everyone(
  runner: Runner,
  catalogue: Catalogue,
  definitions: PortalDefinition[],
  portalId: number,
  calling?: Calling,
): Promise<KnownPerson[]> {
  const rosters = [
    ...new Map(
      definitions.flatMap((definition) => definition.rosters).map((roster) => [roster.table, roster]),
    ).values(),
  ];
  const members = await Member.findAll({ where: { portalId, onRoster: true }, order: [['id', 'ASC']], raw: true });
  const people = new Map(
    members.map((member): [number, KnownPerson] => [
      Number(member.id),
      {
        id: Number(member.id),
        name: member.name,
        email: member.email,
        organisation: null,
        rows: {},
        ...(member.given === null ? {} : { given: givenRoles(member.given) }),
        ...(member.withoutRow ? { withoutRow: true } : {}),
      },
    ]),
  );
  for (const roster of rosters) {
    const facts = new Map(
      definitions
        .flatMap((definition) => factsAlong(definition, roster.table))
        .map((fact) => [JSON.stringify(fact), fact]),
    );
    const rows = await rosterStanding(runner, catalogue, roster, [...facts.values()]);
    const memberships = await Membership.findAll({
      where: { rosterTable: roster.table, memberId: { [Op.in]: [...people.keys()] } },
      raw: true,
    });
    const counting = [...rows].flatMap(([key, { row }]) => {
      const written = String(row[roster.email] ?? '');
      const counts = countsOnRoster(roster, catalogue, row);
      return standingRow(roster.table, { key, name: '', email: written, counts }) ?? [];
    });
    const alone = new Set(standingAlone(counting).map(({ key }) => key));
    for (const { memberId, rowKey } of memberships) {
      const person = people.get(Number(memberId))!;
      const standing = rows.get(rowKey);
      if (!standing || !alone.has(rowKey) || !isTheirs(roster, catalogue, standing.row, person.email)) continue;
      person.rows[roster.table] = standing.row;
      if (facts.size > 0) person.along = { ...person.along, ...standing.along };
    }
  }
  if (calling) for (const person of people.values()) person.name = calling.name(person.name);
  for (const person of people.values()) person.organisation = organisationOf(rosters, person.rows);
  return [...people.values()];
}
