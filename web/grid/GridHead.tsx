import { flexRender, type Header } from '@tanstack/react-table';
import type { ViewRecord } from '../client/grid';
import { markWidth, rowHeight } from './sizes';
import { hint } from '../ui/hint';

/** The columns' names: pressed to sort, pulled at their end to be wider. */
export function GridHead({
  id,
  headers,
  sorted,
  width,
  isWhole,
  onWhole,
  onNatural,
}: {
  id: string;
  headers: Header<ViewRecord, unknown>[];
  /** By how many columns the rows are sorted. */
  sorted: number;
  width: number;
  isWhole: boolean;
  onWhole: (whole: boolean) => void;
  /** The column at this place gets its natural width back. */
  onNatural: (place: number) => void;
}) {
  return (
    <div
      role="row"
      aria-rowindex={1}
      className="sticky top-0 z-10 flex border-b border-line-strong bg-sunk font-semibold text-soft"
      style={{ height: rowHeight, width }}
    >
      <div
        role="columnheader"
        className="sticky left-0 z-10 flex items-center border-r border-line bg-sunk px-2"
        style={{ width: markWidth }}
      >
        <input
          type="checkbox"
          aria-label="Select all that are loaded"
          checked={isWhole}
          onChange={(event) => onWhole(event.target.checked)}
        />
      </div>
      {headers.map((head, i) => {
        const direction = head.column.getIsSorted();
        return (
          <div
            key={head.id}
            id={`${id}-head-${i}`}
            role="columnheader"
            aria-colindex={i + 2}
            aria-sort={direction === 'asc' ? 'ascending' : direction === 'desc' ? 'descending' : undefined}
            className="relative flex items-center border-r border-line"
            style={{ width: head.getSize(), scrollMarginLeft: markWidth }}
          >
            {head.column.getCanSort() ? (
              <button
                type="button"
                tabIndex={-1}
                {...hint('Sort; with Shift, sort by this too', true)}
                className="min-w-0 flex-1 truncate px-2 text-left hover:text-ink"
                onClick={head.column.getToggleSortingHandler()}
              >
                {flexRender(head.column.columnDef.header, head.getContext())}
                {direction && (
                  <span>
                    {' '}
                    {direction === 'asc' ? '↑' : '↓'}
                    {sorted > 1 ? head.column.getSortIndex() + 1 : ''}
                  </span>
                )}
              </button>
            ) : (
              <span className="min-w-0 flex-1 truncate px-2">
                {flexRender(head.column.columnDef.header, head.getContext())}
              </span>
            )}
            <span
              role="presentation"
              className="absolute top-0 right-0 h-full w-1.5 cursor-col-resize hover:bg-water"
              onPointerDown={head.getResizeHandler()}
              onDoubleClick={() => onNatural(i)}
            />
          </div>
        );
      })}
    </div>
  );
}
