import { isOfAudience } from '../../core/access/audience';
import { allOf } from '../../core/condition/all-of';
import { checkCondition } from '../../core/condition/check';
import { findTable } from '../../core/table/catalogue';
import type { RowFilter } from '../../core/definition/definition';
import { NotFound, viewSql, type PlacedVisit } from '../../server/gate/gate';
import type { ListSection, ListTab } from './spec';

/** The tabs of a list that are for somebody: those of whose audience they are, and that ask what they see. */
export function tabsFor(visit: PlacedVisit, { tabs = [], table: name }: ListSection): ListTab[] {
  if (tabs.length === 0) return [];
  // A table of another source is asked there.
  const table = findTable(visit.catalogue, name);
  const scope = table && viewSql(visit).askScope(table);
  const isAskable = ({ where }: ListTab) =>
    !scope || where === 'every row' || checkCondition(where, scope).length === 0;
  return tabs.filter((tab) => (tab.audience === undefined || isOfAudience(tab.audience, visit)) && isAskable(tab));
}

/** Whether somebody gets a list: one that has tabs and none for them is not there, since without it would hold more. */
export const hasTab = (visit: PlacedVisit, section: ListSection): boolean =>
  section.tabs === undefined || tabsFor(visit, section).length > 0;

/** The tab that a list stands in: the one that is asked for, and the first where that is none of theirs. */
export function tabAt(visit: PlacedVisit, section: ListSection, asked: string): ListTab | null {
  const own = tabsFor(visit, section);
  return own.find(({ id }) => id === asked) ?? own[0] ?? null;
}

/**
 * A list as it stands in its tab. Throws NotFound where it is not there for them.
 */
export function inTab(visit: PlacedVisit, section: ListSection, asked: string): ListSection {
  if (section.tabs === undefined) return section;
  const tab = tabAt(visit, section, asked);
  if (!tab) throw new NotFound('list');
  return { ...section, where: both(section.where, tab.where), sort: tab.sort ?? section.sort };
}

function both(...filters: RowFilter[]): RowFilter {
  const conditions = filters.filter((each) => each !== 'every row');
  return conditions.length === 0 ? 'every row' : allOf(conditions);
}
