import type { Page, PortalDefinition } from '../definition/definition';
import type { Person } from './person';

/** The pages that are for a person: those for one of their roles. An audience only shows or hides; it is no right. */
export function pagesFor(definition: PortalDefinition, person: Pick<Person, 'roles'>): Page[] {
  return definition.pages.filter((page) => page.roles.some((role) => person.roles.includes(role)));
}
