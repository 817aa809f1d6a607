import type { SortingState } from '@tanstack/react-table';
import { parseCondition } from '../../core/condition/parse';
import type { ColumnInfo } from '../client/portal';

/** A question as it is kept; each part may be empty. */
export interface KeptQuestion {
  sort: string;
  filter: string;
  search: string;
}

export const sortText = (sorting: SortingState) => sorting.map(({ id, desc }) => `${desc ? '-' : ''}${id}`).join(',');

/** What was kept of a sort, as far as the table can still be sorted so. */
export function sortingOf(text: string, all: ColumnInfo[]): SortingState {
  return text
    .split(',')
    .filter(Boolean)
    .map((term) => ({ id: term.replace(/^-/, ''), desc: term.startsWith('-') }))
    .filter(({ id }) => all.some((column) => column.path === id && column.sortable));
}

/** Nothing where it is no condition. */
export function soundFilter(filter: string): string {
  try {
    if (filter !== '') parseCondition(filter);
    return filter;
  } catch {
    return '';
  }
}
