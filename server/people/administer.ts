import type { PortalDefinition } from '../../core/definition/definition';
import { InvalidValues, NotFound } from '../gate/gate';
import { endSessionsOf } from '../sessions/sessions';
import { Member } from '../store/people-models';
import { readGiven, type GivenRole } from './given-roles';

/** That somebody may not come in, whatever the roster says. */
export interface Suspension {
  by: string;
  why: string;
  since: string;
}

/** What the store keeps of it, read back. */
export function readSuspension(kept: string | null): Suspension | null {
  return kept === null ? null : (JSON.parse(kept) as Suspension);
}

/** The member of a portal with the number; a NotFound where there is none. */
export async function memberOf(portalId: number, id: number): Promise<Member> {
  const member = await Member.findOne({ where: { portalId, id } });
  if (!member) throw new NotFound('member');
  return member;
}

/** Shuts a member out, and ends their sessions at once. Gives how many there were. */
export async function suspend(member: Member, by: string, why: string): Promise<number> {
  const suspension: Suspension = { by, why, since: new Date().toISOString() };
  await member.update({ suspended: JSON.stringify(suspension) });
  return endSessionsOf([member.id]);
}

/** Lets a member in again. */
export async function letInAgain(member: Member): Promise<void> {
  await member.update({ suspended: null });
}

/** Gives a member a role by hand; one that they were given already gets the new reason. */
export async function giveRole(
  definition: PortalDefinition,
  member: Member,
  given: Omit<GivenRole, 'at'>,
): Promise<void> {
  const role = definition.roles.find(({ id }) => id === given.role);
  if (!role || (role.for ?? 'members') !== 'members')
    throw new InvalidValues({ role: 'There is no such role for members.' });
  if (member.withoutRow)
    throw new InvalidValues({ role: 'Roles by hand go with a row of a roster, and they stand on none.' });
  const others = readGiven(member.given).filter((each) => each.role !== given.role);
  await member.update({ given: JSON.stringify([...others, { ...given, at: new Date().toISOString() }]) });
}

/** Takes a role back that was given by hand. */
export async function takeRole(member: Member, role: string): Promise<void> {
  const others = readGiven(member.given).filter((each) => each.role !== role);
  await member.update({ given: others.length === 0 ? null : JSON.stringify(others) });
}
