import type { Page } from '../core/definition/definition';
import type { PlacedVisit } from '../server/gate/gate';
import { followedList } from './followed';
import { hasTab, inTab } from './list/tab';
import type { ListSection } from './list/spec';

/** The list that a section goes with, in the tab that it stands in now; null where it goes with none. */
export function followedNow(
  visit: PlacedVisit,
  page: Page,
  section: { table: string; follows?: string },
  tab: string,
): ListSection | null {
  const list = followedList(page, section);
  return list && inTab(visit, list, tab);
}

/** Whether the list that a section goes with is there for somebody, where it goes with one. */
export function isFollowedThere(visit: PlacedVisit, page: Page, section: { table: string; follows?: string }): boolean {
  const list = followedList(page, section);
  return list === null || hasTab(visit, list);
}
