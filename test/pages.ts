import type { Page } from '../core/definition/definition';
import type { ListSection } from '../sections/list/spec';

/** A list of a table as a page begins with it. */
export function listOf(table: string, columns: string[], more: Partial<ListSection> = {}): ListSection {
  const id = table.replaceAll(/[^a-z0-9_-]/g, '-');
  return { id, kind: 'list', table, columns, sort: [], where: 'every row', ...more };
}

/** The first list of a page. */
export function firstList(page: Page | undefined): ListSection {
  return page!.sections.find((section): section is ListSection => section.kind === 'list')!;
}
