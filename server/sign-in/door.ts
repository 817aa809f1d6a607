import { openRoles } from '../../core/access/open-roles';
import type { CoreServices } from '../definitions/portal-services';
import { isRosterRead } from '../gate/gate';
import { bringInLine } from '../people/bring-in-line';
import { rostersAway, rostersOf, type RosterAt } from '../people/rosters-at';
import { rowsByAddress } from '../people/rows-by-address';
import { knownAtDoor, type KnownAtDoor, type PortalAtDoor } from '../store/door-sql';

/**
 * The member whom an address lets in, under what is published, by the rosters' rows as they are now; null for everybody
 * else: who stands on no roster and came by no domain that it is open to, is gone or suspended, or shares the address.
 * Does the same work for any address. This is the only place that decides it.
 */
export async function memberAtDoor(
  services: CoreServices,
  portal: PortalAtDoor,
  email: string,
): Promise<KnownAtDoor | null> {
  if (portal.publishedVersion === null) return null;
  const definition = await services.definitions.version(portal.id, portal.publishedVersion);
  const rosters = await rostersOf(services, definition);
  const [rows, member] = await Promise.all([rowsByAddress(rosters, email), knownAtDoor(portal.id, email)]);
  if (standsOn(member, rosters, rows)) {
    if (rows.length === 0) refuseUnread(rosters);
    const isIn = rows.length > 0 || (member?.withoutRow && openRoles(definition, email).length > 0);
    return member && !member.isSuspended && isIn ? member : null;
  }
  await bringInLine(services, portal, { emails: [email], members: member ? [member.id] : [] });
  const [again, now] = await Promise.all([rowsByAddress(rosters, email), knownAtDoor(portal.id, email)]);
  const isIn = now !== null && !now.isSuspended && standsOn(now, rosters, again, true);
  if (!isIn) refuseUnread(rosters);
  return isIn ? now : null;
}

/** Who stands on no roster that can be read may stand on one that can't: the same is said to every such address. */
export function refuseUnread(rosters: readonly RosterAt[]): void {
  if (rosters.some(({ catalogue, roster }) => !isRosterRead(catalogue, roster))) throw rostersAway();
}

/** Whether a member is known, on these rosters, by exactly these rows, or at least by one of them. */
function standsOn(
  member: KnownAtDoor | null,
  rosters: readonly RosterAt[],
  rows: readonly { roster: string; key: string }[],
  anyOne = false,
): boolean {
  const known = (member?.rows ?? []).filter((row) => rosters.some(({ roster }) => roster.table === row.roster));
  const isKnown = (row: { roster: string; key: string }) =>
    known.some((each) => each.roster === row.roster && each.key === row.key);
  return anyOne ? rows.some(isKnown) : rows.every(isKnown) && known.length === rows.length;
}
