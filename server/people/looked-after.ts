import { rolesOfRows } from '../../core/access/roster-roles';
import { rosterEmail } from '../../core/people/roster-email';
import { isTheirs } from '../../core/people/theirs';
import type { LooksAfter } from '../../core/definition/steward';
import type { PortalDefinition } from '../../core/definition/definition';
import { InvalidValues, Refused, rosterPeople, rosterRows, type RowLookedAfter } from '../gate/gate';
import { Member, Membership } from '../store/people-models';
import type { RostersRead } from './find-members';
import { givenRoles } from './given-roles';

/** What somebody looks after under a definition, by its id; undefined where there is none of it. */
export function looksAfter(definition: PortalDefinition, id: string): LooksAfter | undefined {
  const found = definition.stewards?.find((steward) => steward.id === id);
  return found?.does === 'look after people' ? found : undefined;
}

/**
 * What keeps a member from being looked after, although their row is: they are somebody elsewhere as well, by roles
 * given by hand or by another roster. Whoever changed their address would come in as all of it.
 */
export async function isMoreThanLookedAfter(
  { runner, catalogue, definition }: RostersRead,
  { roster: own, roles }: LooksAfter,
  member: Member,
): Promise<boolean> {
  if (givenRoles(member.given).some((role) => !roles.includes(role))) return true;
  const memberships = await Membership.findAll({ where: { memberId: member.id } });
  for (const { rosterTable, rowKey } of memberships) {
    const roster = definition.rosters.find(({ table }) => table === rosterTable);
    if (!roster || rosterTable === own) continue;
    const row = (await rosterPeople(runner, catalogue, roster, [rowKey])).get(rowKey);
    if (!row || !isTheirs(roster, catalogue, row, member.email)) continue;
    if (rolesOfRows(definition, catalogue, { [rosterTable]: row }).some((role) => !roles.includes(role))) return true;
  }
  return false;
}

/** Whoever is more than what a steward looks after is the portal's own. */
export const notLookedAfter = (): Refused =>
  new Refused('This person is looked after by the people who run this portal. Ask them.');

/**
 * Looks before a steward makes or changes a row who would come of it: nobody who is more than they look after, and
 * nobody whose address stands elsewhere, since that would make one person of two, or nobody of both. Throws Refused or
 * InvalidValues, which say the same whoever has the address.
 */
export function lookingAfter(portalId: number, at: RostersRead): (row: RowLookedAfter) => Promise<void> {
  return async ({ steward, id, email: written }) => {
    const asked = looksAfter(at.definition, steward);
    if (!asked) throw new Refused('You look after nobody here.');
    if (id !== null) {
      const membership = await Membership.findOne({ where: { portalId, rosterTable: asked.roster, rowKey: id } });
      const member = membership && (await Member.findByPk(membership.memberId));
      if (member?.onRoster && (await isMoreThanLookedAfter(at, asked, member))) throw notLookedAfter();
    }
    if (written === undefined) return;
    const roster = at.definition.rosters.find(({ table }) => table === asked.roster)!;
    const found = rosterEmail(String(written ?? ''));
    if ('fault' in found)
      throw new InvalidValues({
        [roster.email]: 'This is how they come in: type an e-mail address, like name@example.org.',
      });
    for (const each of at.definition.rosters) {
      const rows = (await rosterRows(at.runner, at.catalogue, each, { emails: [found.email] })) ?? [];
      if (rows.some(({ key }) => each.table !== asked.roster || key !== id))
        throw new InvalidValues({ [roster.email]: "This address can't be used for somebody here. Choose another." });
    }
  };
}
