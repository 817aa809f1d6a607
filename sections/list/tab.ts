import { isOfAudience } from '../../core/access/audience';
import { allOf } from '../../core/condition/all-of';
import type { RowFilter } from '../../core/definition/definition';
import { NotFound, type PlacedVisit } from '../../server/gate/gate';
import type { ListSection, ListTab } from './spec';

/** The tabs of a list that are for somebody. */
export const tabsFor = (visit: PlacedVisit, { tabs = [] }: Pick<ListSection, 'tabs'>): ListTab[] =>
  tabs.filter(({ audience }) => audience === undefined || isOfAudience(audience, visit));

/**
 * A list as it stands in one of its tabs: the one that is asked for, and the first where that is none of theirs. A list
 * that has tabs and none for them is not there: without its tab it would hold more.
 */
export function inTab(visit: PlacedVisit, section: ListSection, asked: string): ListSection {
  if (section.tabs === undefined) return section;
  const own = tabsFor(visit, section);
  const tab = own.find(({ id }) => id === asked) ?? own[0];
  if (!tab) throw new NotFound('list');
  return { ...section, where: both(section.where, tab.where), sort: tab.sort ?? section.sort };
}

function both(...filters: RowFilter[]): RowFilter {
  const conditions = filters.filter((each) => each !== 'every row');
  return conditions.length === 0 ? 'every row' : allOf(conditions);
}
