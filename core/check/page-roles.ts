import { rolesNamed } from '../access/public-pages';
import type { Section } from '../definition/section-kinds';
import type { Page, PortalDefinition } from '../definition/definition';

/** The roles that may get a section: those of its page that its own audience names too. */
export function rolesOn(page: Page, { audience }: Section, definition: Pick<PortalDefinition, 'roles'>): string[] {
  const ofPage = rolesNamed(page.audience.roles, definition);
  const own = audience === undefined || audience.roles === 'everyone' ? null : audience.roles;
  return own === null ? ofPage : ofPage.filter((role) => own.includes(role));
}
