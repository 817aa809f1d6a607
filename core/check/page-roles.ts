import type { Section } from '../definition/section-kinds';
import type { Page, PortalDefinition } from '../definition/definition';

/** The roles that may get a section: those of its page that its own audience names too. */
export function rolesOn(page: Page, { audience }: Section, { roles }: Pick<PortalDefinition, 'roles'>): string[] {
  const all = roles.map((role) => role.id);
  const ofPage = page.audience.roles === 'everyone' ? all : page.audience.roles;
  const own = audience === undefined || audience.roles === 'everyone' ? null : audience.roles;
  return own === null ? [...ofPage] : ofPage.filter((role) => own.includes(role));
}
