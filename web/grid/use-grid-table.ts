import { useMemo } from 'react';
import { getCoreRowModel, useReactTable, type ColumnDef } from '@tanstack/react-table';
import type { ViewRecord } from '../client/grid';
import { startWidth } from './sizes';
import { useGridData } from './use-grid-data';

/** It draws its records itself: a model of thousands of them would be made anew with every page that comes. */
const noRecords: ViewRecord[] = [];

/** The grid's columns with their widths and their sorting. */
export function useGridTable({ shown, layout, setLayout, sorting, setSorting }: ReturnType<typeof useGridData>) {
  const definitions = useMemo(
    () =>
      shown.map((column): ColumnDef<ViewRecord> => ({
        id: column.path,
        accessorFn: (record) => record.values[column.path],
        header: column.label,
        size: layout.widths[column.path] ?? (column.relation ? 160 : startWidth[column.type]) ?? 160,
        enableSorting: column.sortable,
      })),
    [shown, layout.widths],
  );
  // Nothing of it is handed to memoised parts.
  // oxlint-disable-next-line react/incompatible-library
  const grid = useReactTable({
    data: noRecords,
    columns: definitions,
    getCoreRowModel: getCoreRowModel(),
    manualSorting: true,
    sortDescFirst: false,
    columnResizeMode: 'onEnd',
    state: { sorting },
    onSortingChange: setSorting,
    maxMultiSortColCount: 5,
    onColumnSizingChange: (update) => {
      const next = typeof update === 'function' ? update(grid.getState().columnSizing) : update;
      setLayout({ widths: { ...layout.widths, ...next } });
    },
  });
  return grid;
}
