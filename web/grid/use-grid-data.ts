import { pathsOf } from '../client/portal';
import { useMemo, useState } from 'react';
import { functionalUpdate, type SortingState, type Updater } from '@tanstack/react-table';
import { readRecords, useGridRows, useGridTotal, type GridQuestion, type TableInfo } from '../client/grid';
import { sortingOf, sortText, soundFilter, type KeptQuestion } from './kept-question';
import { useGridLayout } from './layout';

/** So many columns are shown before anybody has chosen. */
const mostAtFirst = 30;

/** What is asked of a table in the grid, and the rows that answer it, page by page. */
export function useGridData(base: string, info: TableInfo, kept: KeptQuestion, onKept: (kept: KeptQuestion) => void) {
  const all = useMemo(() => [...info.columns, ...info.through], [info]);
  const [layout, setLayout] = useGridLayout(`${base}/${info.table}`);
  const shown = useMemo(() => {
    const chosen = layout.shown?.flatMap((path) => all.find((column) => column.path === path) ?? []);
    return chosen && chosen.length > 0 ? chosen : info.columns.slice(0, mostAtFirst);
  }, [layout.shown, all, info]);
  const [sorting, setSortingOnly] = useState(() => sortingOf(kept.sort, all));
  const [asked, setAskedOnly] = useState(() => ({ filter: soundFilter(kept.filter), search: kept.search }));
  const setSorting = (update: Updater<SortingState>) => {
    const next = functionalUpdate(update, sorting);
    setSortingOnly(next);
    onKept({ sort: sortText(next), ...asked });
  };
  const setAsked = (next: typeof asked) => {
    setAskedOnly(next);
    onKept({ sort: sortText(sorting), ...next });
  };
  const question: GridQuestion = {
    columns: shown.map((column) => column.path).join(','),
    sort: sortText(sorting),
    ...asked,
  };
  // Beside a relation what the record is called that it leads to is asked for, shown or not.
  const rows = useGridRows(base, info.table, {
    ...question,
    columns: pathsOf(shown).join(','),
  });
  const data = useMemo(() => rows.data?.pages.flatMap((page) => page.records) ?? [], [rows.data]);
  const total = Math.max(useGridTotal(base, info.table, question).data ?? 0, data.length);
  const collect = async (): Promise<string[]> => {
    const ids: string[] = [];
    for (let after = ''; ;) {
      const page = await readRecords(base, info.table, { ...question, columns: shown[0]!.path, after, size: 200 });
      ids.push(...page.records.flatMap((record) => (record.id === null ? [] : [record.id])));
      if (page.next === null || ids.length >= 10_000) return ids;
      after = page.next;
    }
  };
  return {
    all,
    shown,
    layout,
    setLayout,
    rows,
    data,
    total,
    sorting,
    setSorting,
    question,
    asked,
    setAsked,
    collect,
  };
}
