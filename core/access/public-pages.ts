import type { Page, PortalDefinition } from '../definition/definition';
import type { ForRoles } from '../definition/section-kinds';

/** Roles that whoever has not signed in has. */
const visitorRoles = ({ roles }: Pick<PortalDefinition, 'roles'>): string[] =>
  roles.filter((role) => role.for === 'visitors').map(({ id }) => id);

/** The roles of an audience by their ids. `everyone` is everyone who signs in: nothing is public by an oversight. */
export const rolesNamed = (named: ForRoles, definition: Pick<PortalDefinition, 'roles'>): string[] => {
  if (named !== 'everyone') return named;
  const open = visitorRoles(definition);
  return definition.roles.map(({ id }) => id).filter((id) => !open.includes(id));
};

/** Whether a page is for visitors, too. */
export const isPublic = ({ audience }: Page, definition: Pick<PortalDefinition, 'roles'>): boolean =>
  visitorRoles(definition).some((role) => rolesNamed(audience.roles, definition).includes(role));
