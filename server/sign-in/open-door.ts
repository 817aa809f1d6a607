import { UniqueConstraintError } from 'sequelize';
import { openRoles } from '../../core/access/open-roles';
import { normaliseEmail } from '../../core/text/email';
import { writeAudit } from '../audit/audit';
import type { CoreServices } from '../definitions/portal-services';
import { isOnRoster } from '../people/on-roster';
import { rostersOf } from '../people/rosters-at';
import { Member } from '../store/people-models';
import type { KnownAtDoor, PortalAtDoor } from '../store/door-sql';
import { memberAtDoor, refuseUnread } from './door';

/**
 * Makes a member of whoever has proven an address of a domain that the portal is open to, under what is published; null
 * for everybody else. Who stands on a roster, counting or not, comes in by that; and who was a member before, suspended
 * or gone, does not come back this way. Throws a Problem 503 where a roster can't be read.
 */
export async function comeByDomain(
  services: CoreServices,
  portal: PortalAtDoor,
  proven: string,
): Promise<KnownAtDoor | null> {
  if (portal.publishedVersion === null) return null;
  const email = normaliseEmail(proven);
  const definition = await services.definitions.version(portal.id, portal.publishedVersion);
  if (openRoles(definition, email).length === 0) return null;
  const rosters = await rostersOf(services, definition);
  refuseUnread(rosters);
  if ((await isOnRoster(rosters, email)) || (await Member.count({ where: { portalId: portal.id, email } })) > 0)
    return null;
  try {
    // Nothing is known of them but their address: it is what they are called.
    const known = { portalId: portal.id, email, name: email, onRoster: true, withoutRow: true };
    await Member.create({ ...known, passwordHash: null, knownSince: new Date() });
    await writeAudit(portal.id, email, 'came by a sign-up', email.slice(email.lastIndexOf('@') + 1));
  } catch (error) {
    // Of two at the same moment one is first.
    if (!(error instanceof UniqueConstraintError)) throw error;
  }
  return memberAtDoor(services, portal, email);
}
