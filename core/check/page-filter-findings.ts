import { askCatalogue } from '../access/ask';
import { rolesNamed } from '../access/public-pages';
import { oneOf } from '../access/person';
import { checkCondition } from '../condition/check';
import { existsOf, pathsOf, type Condition } from '../condition/tree';
import type { Page, PortalDefinition } from '../definition/definition';
import { printPath } from '../definition/path';
import { askedByPage, type SectionSpecs } from '../definition/section';
import type { Section } from '../definition/section-kinds';
import { findTable, isPathProblem, resolvePath, type Catalogue } from '../table/catalogue';
import type { Finding } from './finding';
import { rolesOn } from './page-roles';

/**
 * Filters of sections and of their tabs that can't be asked: for anybody, or for a role of the page's that sees records
 * of the table and not what the filter goes by.
 */
export function findPageFilters(
  definition: PortalDefinition,
  whole: Catalogue,
  specs: SectionSpecs,
  isAway: (table: string) => boolean,
): Finding[] {
  const known = new Map<string, Catalogue>();
  const askedBy = (role: string) => {
    if (!known.has(role)) known.set(role, askCatalogue(definition, whole, oneOf(role)));
    return known.get(role)!;
  };
  return definition.pages.flatMap((page) =>
    askedByPage(page, definition, specs)
      .filter(({ asked }) => !isAway(asked.table))
      .flatMap(({ section, asked }) =>
        asked.where.flatMap((where) => {
          const tab = asked.tabs?.find((each) => each.where === where);
          return faultsOf({ page, section, table: asked.table, where, called: tab?.name }, whole, () => {
            const roles = rolesOn(page, section, definition);
            const own = tab?.audience && rolesNamed(tab.audience.roles, definition);
            return (own ? roles.filter((role) => own.includes(role)) : roles).map((role) => ({
              role: definition.roles.find(({ id }) => id === role)?.name ?? role,
              id: role,
              asking: askedBy(role),
            }));
          });
        }),
      ),
  );
}

interface PageFilter {
  page: Page;
  section: Section;
  table: string;
  where: Condition;
  /** The tab's name, where it is a tab's. */
  called: string | undefined;
}

function faultsOf(
  { page, section, table: name, where, called }: PageFilter,
  whole: Catalogue,
  readers: () => { role: string; id: string; asking: Catalogue }[],
): Finding[] {
  const table = findTable(whole, name);
  if (!table) return [];
  const what = called === undefined ? (section.title ?? name) : `The tab “${called}”`;
  const base = {
    kind: 'section does not work' as const,
    severity: 'broken' as const,
    place: { stage: 'pages' as const, page: page.id },
  };
  const id = `page-filter/${page.id}/${section.id}/${called ?? ''}`;
  const [problem] = checkCondition(where, { catalogue: whole, table, member: true });
  if (problem)
    return [
      {
        ...base,
        id,
        title: `${what} on ${page.title} has a filter that can't be used: ${problem.reason}`,
        why: 'So it shows nothing to anybody. Write its filter again.',
      },
    ];
  return readers().flatMap(({ role, id: of, asking }): Finding[] => {
    const there = findTable(asking, name)!;
    // Who sees nothing of the table at all is told so already.
    if (there.columns.length === 0) return [];
    if (checkCondition(where, { catalogue: asking, table: there, member: true, facts: whole }).length === 0) return [];
    const unseen = pathsOf(where).find((path) => isPathProblem(resolvePath(asking, there, path)));
    const [masked] = pathsOf(where);
    const by = unseen ?? (existsOf(where).length === 0 ? masked : undefined);
    const asks = by ? `${name}.${printPath(by)}` : 'related records';
    return [
      {
        ...base,
        id: `${id}/${of}`,
        title: `${what} on ${page.title} filters by ${asks}, which ${role} doesn't see whole`,
        why:
          (called === undefined ? 'It shows nothing to them, and says so. ' : 'They don’t get the tab. ') +
          'Show that under Access, filter by something else, or take it from them by its audience.',
      },
    ];
  });
}
