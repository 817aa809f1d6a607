import type { Audience } from '../definition/section-kinds';
import { checkCondition } from '../condition/check';
import type { ConditionScope } from '../condition/scope';
import { evaluate } from '../condition/evaluate';
import type { Condition } from '../condition/tree';
import type { Page, PortalDefinition } from '../definition/definition';
import type { Catalogue, Table } from '../table/catalogue';
import { contextOf, type Person } from './person';
import { isPublic } from './public-pages';

/** Who is asking, of what, and when. */
interface Asking {
  definition: PortalDefinition;
  catalogue: Catalogue;
  person: Person;
  moment: Date;
}

/** What an audience's condition is about has no columns: it speaks of the member alone. */
const nothing: Table = { name: '', columns: [], key: [], relations: [] };

/** What an audience's condition may speak of. */
export const audienceScope = (catalogue: Catalogue) =>
  ({ catalogue, table: nothing, member: true, memberAlone: true }) satisfies ConditionScope;

/** Why an audience's condition can't be asked, in words; empty when it can. */
export function audienceProblems(where: Condition, catalogue: Catalogue): string[] {
  return checkCondition(where, audienceScope(catalogue)).map((problem) => problem.reason);
}

/**
 * Whether somebody is of an audience. Where its condition can't be asked, or what it asks isn't known of them, they are
 * not: who gets something is never a guess.
 */
export function isOfAudience({ roles, where }: Audience, asking: Asking): boolean {
  const { definition, catalogue, person, moment } = asking;
  if (roles !== 'everyone' && !roles.some((role) => person.roles.includes(role))) return false;
  if (where === undefined) return true;
  if (audienceProblems(where, catalogue).length > 0) return false;
  const none = { value: () => null, exists: () => false };
  return (
    evaluate(where, audienceScope(catalogue), none, contextOf(person, moment, definition.portal.timeZone)) === true
  );
}

/** The pages that somebody gets, each with the sections that are for them. It is no right. */
export const pagesFor = (asking: Asking): Page[] =>
  asking.definition.pages.filter((page) => isFor(page, asking)).map((page) => partsFor(page, asking));

/** As `pagesFor`, the one page of this id; null where it is not for them, or there is none. */
export function pageFor(asking: Asking, id: string): Page | null {
  const page = asking.definition.pages.find((each) => each.id === id);
  return page && isFor(page, asking) ? partsFor(page, asking) : null;
}

const isFor = (page: Page, asking: Asking): boolean =>
  (asking.person.kind !== 'visitor' || isPublic(page, asking.definition)) && isOfAudience(page.audience, asking);

function partsFor(page: Page, asking: Asking): Page {
  const { sections } = page;
  if (sections.every(({ audience }) => audience === undefined)) return page;
  return {
    ...page,
    sections: sections.filter(({ audience }) => audience === undefined || isOfAudience(audience, asking)),
  };
}
