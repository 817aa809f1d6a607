import type { ColumnInfo } from '../../web/client/portal';
import type { ListState } from '../../web/place/place';
import type { ShowProps } from '../show';

type ListInfo = ShowProps<'list'>['section'];

export interface SortTerm {
  column: string;
  descending: boolean;
}

/** The columns that a list can show: its own, and those of its records' sheet. */
export function offeredColumns({ columns, sheet }: Pick<ListInfo, 'columns' | 'sheet'>): ColumnInfo[] {
  return [...columns, ...sheet.filter(({ path }) => !columns.some((own) => own.path === path))];
}

/** The columns that stand in it now: those that are gone meanwhile are left out; without any it stands as it came. */
export function columnsOf(section: Pick<ListInfo, 'columns' | 'sheet'>, chosen: string): ColumnInfo[] {
  const offered = offeredColumns(section);
  const found = [...new Set(chosen.split(','))].flatMap((path) => offered.find((column) => column.path === path) ?? []);
  return found.length > 0 ? found : section.columns;
}

/** What it is asked for: empty where it stands as it came. */
export function askedColumns(section: Pick<ListInfo, 'columns' | 'sheet'>, chosen: string): string {
  return chosen === ''
    ? ''
    : columnsOf(section, chosen)
        .map(({ path }) => path)
        .join(',');
}

/** The order that it stands in: what was chosen, else that of its tab, else its own. */
export function termsOf(
  section: Pick<ListInfo, 'sort' | 'tabs'>,
  { sort, view }: Pick<ListState, 'sort' | 'view'>,
): SortTerm[] {
  if (sort !== '')
    return sort.split(',').map((term) => ({ column: term.replace(/^-/, ''), descending: term.startsWith('-') }));
  return (section.tabs.find(({ id }) => id === view) ?? section.tabs[0])?.sort ?? section.sort;
}

export const sortText = (terms: SortTerm[]): string =>
  terms.map(({ column, descending }) => `${descending ? '-' : ''}${column}`).join(',');
