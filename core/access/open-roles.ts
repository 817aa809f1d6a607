import type { PortalDefinition } from '../definition/definition';
import { isOfDomains } from '../text/email';

/**
 * The roles of whoever proved an address and stands on no roster: those of the domains that the portal is open to, as
 * far as they are meant for people without a row. Empty for everybody else.
 */
export function openRoles({ openTo, roles }: Pick<PortalDefinition, 'openTo' | 'roles'>, email: string): string[] {
  if (!openTo || !isOfDomains(email, openTo.domains)) return [];
  return roles.filter((role) => isForRowless(role) && openTo.roles.includes(role.id)).map(({ id }) => id);
}

/** Whether a role may be given to people of whom nothing is known but their address. */
export function isForRowless({ for: whom = 'members', withoutRow }: PortalDefinition['roles'][number]): boolean {
  return withoutRow === true && whom === 'members';
}
