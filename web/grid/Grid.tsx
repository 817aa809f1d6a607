import { useCallback, useId, useState, type MouseEvent, type PointerEvent, type ReactNode } from 'react';
import { useTableInfo, type ExportFormat, type GridQuestion, type TableInfo, type ViewRecord } from '../client/grid';
import { problemText } from '../client/http';
import type { ColumnInfo } from '../client/portal';
import { Notice, Skeleton } from '../ui/Notice';
import { fromPlain, plainText } from '../../core/table/plain-text';
import { blockOf, type Spot } from './block';
import type { Onward } from './CellEditor';
import { GridBar } from './GridBar';
import { cellEdits } from './cell-edits';
import { faultAt, GridFoot } from './GridFoot';
import { gridKeys } from './grid-keys';
import { GridHead } from './GridHead';
import { GridRow, type RowActs } from './GridRow';
import { GridRows, type InSight, type Reach } from './GridRows';
import { markWidth, rowHeight, startWidth } from './sizes';
import { useSteady } from './steady';
import { useGridData } from './use-grid-data';
import { useGridTable } from './use-grid-table';
import { RecordBeside } from './RecordBeside';
import { Selection } from './Selection';
import { cellKey, useWrites } from './use-writes';
import type { KeptQuestion } from './kept-question';

/**
 * A table to look through and to write in, over whatever the person may see of it. `base` is the API's address of their
 * records.
 */
interface GridProps {
  base: string;
  table: string;
  /** What is asked at first, and told again whenever it changes, so that it can be kept. */
  kept: KeptQuestion;
  onKept: (kept: KeptQuestion) => void;
  /** What stands below a record that is open beside. */
  beneath?: (id: string) => ReactNode;
  /** The record that stands open beside it by its id; empty for a new one, null for none. */
  opened: string | null;
  onOpened: (id: string | null) => void;
  onChanged: () => void;
  onExport?: (question: GridQuestion, format: ExportFormat | 'xlsx', guard: boolean) => ReactNode;
}

function GridOf({
  base,
  info,
  kept,
  onKept,
  opened: open,
  onOpened: setOpen,
  beneath,
  onChanged,
  onExport,
}: Omit<GridProps, 'table'> & { info: TableInfo }) {
  const asking = useGridData(base, info, kept, onKept);
  const { all, shown, layout, setLayout, rows, data, total, sorting, question } = asking;
  const { asked, setAsked, collect } = asking;
  const writes = useWrites(
    base,
    info.table,
    onChanged,
    info.columns.flatMap((column) => (column.relation ? [column.path] : [])),
  );
  const [active, setActive] = useState<Spot>({ row: 0, column: 0 });
  const [anchor, setAnchor] = useState<Spot | null>(null);
  const [editing, setEditing] = useState<{ spot: Spot; text: string } | null>(null);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const gridId = useId();
  const [scroller, setScroller] = useState<HTMLDivElement | null>(null);
  const [reach, setReach] = useState<Reach | null>(null);
  const selection = blockOf(active, anchor ?? active);

  const grid = useGridTable(asking);
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = rows;
  const fetchFrom = data.length - 40;
  const noteLast = useCallback(
    (last: number) => {
      if (last >= fetchFrom && hasNextPage && !isFetchingNextPage) void fetchNextPage();
    },
    [fetchFrom, hasNextPage, isFetchingNextPage, fetchNextPage],
  );

  const canChange = useCallback(
    (column: ColumnInfo, record: ViewRecord | undefined) =>
      record?.id !== null &&
      record !== undefined &&
      info.changes.includes(column.path) &&
      !record.masked.includes(column.path),
    [info],
  );
  const go = (spot: Spot, extend = false) => {
    const to = {
      row: Math.max(0, Math.min(data.length - 1, spot.row)),
      column: Math.max(0, Math.min(shown.length - 1, spot.column)),
    };
    setAnchor(extend ? (anchor ?? active) : null);
    setActive(to);
    reach?.to(to.row);
    const cell = document.getElementById(`${gridId}-head-${to.column}`);
    cell?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  };
  const focus = () => scroller?.focus({ preventScroll: true });

  const edit = (spot: Spot, text?: string) => {
    const record = data[spot.row];
    const column = shown[spot.column];
    if (!record || !column) return;
    if (!canChange(column, record)) {
      writes.say(
        column.path.includes('.')
          ? `${column.label} belongs to another record. Change it there.`
          : `${column.label} can't be changed here.`,
        true,
      );
      return;
    }
    if (column.kind === 'file') {
      setOpen(record.id);
      return;
    }
    const kept = writes.unkept.get(cellKey(record.id!, column.path));
    setEditing({ spot, text: text ?? kept?.typed ?? plainText(record.values[column.path]) });
  };
  const take = (spot: Spot, text: string, onward: Onward) => {
    setEditing(null);
    const record = data[spot.row]!;
    const column = shown[spot.column]!;
    const key = cellKey(record.id!, column.path);
    if (text === plainText(record.values[column.path])) writes.forget(key);
    else
      void writes.change(
        [
          {
            id: record.id!,
            path: column.path,
            from: record.values[column.path],
            to: fromPlain(column, text),
            typed: text,
          },
        ],
        `change ${column.label}`,
      );
    const steps: Record<Onward, [number, number]> = {
      stay: [0, 0],
      down: [1, 0],
      up: [-1, 0],
      right: [0, 1],
      left: [0, -1],
    };
    if (onward !== 'stay') {
      go({ row: spot.row + steps[onward][0], column: spot.column + steps[onward][1] });
      focus();
    }
  };
  const cancel = () => {
    setEditing(null);
    focus();
  };

  const { clear, copy, paste, takeBack } = cellEdits({
    info,
    data,
    shown,
    selection,
    writes,
    isEditing: editing !== null,
    hasMore: hasNextPage,
    canChange,
  });

  const toggle = (id: string | null) => {
    if (id === null) return;
    setPicked((before) => {
      const next = new Set(before);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  };
  const press = (spot: Spot, event: MouseEvent) => {
    if (event.button !== 0 || (editing && editing.spot.row === spot.row && editing.spot.column === spot.column)) return;
    // The grid itself has the focus: a cell may be scrolled out of the page and be gone.
    event.preventDefault();
    focus();
    setAnchor(event.shiftKey ? (anchor ?? active) : null);
    setActive(spot);
  };
  const drag = (spot: Spot, event: PointerEvent) => {
    if (event.buttons !== 1 || editing) return;
    setAnchor(anchor ?? active);
    setActive(spot);
  };

  const keys = gridKeys({
    isEditing: editing !== null,
    active,
    rows: data.length,
    columns: shown,
    go,
    edit,
    clear,
    takeBack,
    open: () => setOpen(data[active.row]?.id ?? null),
    pick: () => {
      for (let at = selection.top; at <= selection.bottom; at++) toggle(data[at]?.id ?? null);
    },
    leave: () => {
      setAnchor(null);
      setPicked(new Set());
    },
    all: () => {
      setActive({ row: 0, column: 0 });
      setAnchor({ row: data.length - 1, column: shown.length - 1 });
    },
  });

  const narrow = (part: Partial<typeof asked>) => {
    setAsked({ ...asked, ...part });
    setPicked(new Set());
    setActive({ row: 0, column: 0 });
    setAnchor(null);
    scroller?.scrollTo({ top: 0 });
  };
  const width = markWidth + grid.getTotalSize();
  const header = grid.getHeaderGroups()[0]!;
  const acts = useSteady<RowActs>({ toggle, open: setOpen, press, drag, edit, take, cancel });
  const widths = header.headers.map((head) => head.getSize()).join(',');
  const isHeld = (row: number) => row >= selection.top && row <= selection.bottom;
  const draw = (index: number, { from, to }: InSight) => {
    const record = data[index];
    if (!record) return null;
    // What is typed stays where it is, wherever somebody scrolls to.
    const edited = editing?.spot.row === index ? editing : null;
    return (
      <GridRow
        key={record.id ?? index}
        base={base}
        info={info}
        id={gridId}
        index={index}
        record={record}
        shown={shown}
        unkept={writes.unkept}
        widths={widths}
        width={width}
        from={edited ? Math.min(from, edited.spot.column) : from}
        to={edited ? Math.max(to, edited.spot.column) : to}
        isPicked={record.id !== null && picked.has(record.id)}
        activeAt={active.row === index ? active.column : -1}
        heldFrom={isHeld(index) ? selection.left : -1}
        heldTo={isHeld(index) ? selection.right : -1}
        isBlock={anchor !== null && isHeld(index)}
        edited={edited ? edited.text : null}
        acts={acts}
      />
    );
  };
  return (
    <div className="flex min-h-0 flex-1 flex-col" data-grid={info.table}>
      <GridBar
        base={base}
        info={info}
        all={all}
        shown={shown}
        asked={asked}
        total={total}
        loaded={data.length}
        onNarrow={narrow}
        onShown={(paths) => setLayout({ shown: paths })}
        onAdd={info.fills && info.key.length > 0 ? () => setOpen('') : null}
        exporting={
          info.exports && onExport
            ? (format, guard, whole) =>
                onExport(
                  {
                    ...question,
                    columns: whole ? info.columns.map((column) => column.path).join(',') : question.columns,
                  },
                  format,
                  guard,
                )
            : null
        }
      />
      {picked.size > 0 && (
        <Selection
          base={base}
          info={info}
          picked={picked}
          total={total}
          data={data}
          writes={writes}
          onPick={(ids) => {
            setPicked(ids);
            if (ids.size === 0) focus();
          }}
          collect={collect}
          onClosed={focus}
        />
      )}
      {rows.isError && (
        <div className="p-3">
          <Notice kind="fault">{problemText(rows.error)}</Notice>
        </div>
      )}
      <div className="flex min-h-0 flex-1">
        <div
          ref={setScroller}
          role="grid"
          tabIndex={0}
          aria-label={`Rows of ${info.table}`}
          aria-rowcount={total + 1}
          aria-colcount={shown.length + 1}
          aria-multiselectable="true"
          aria-activedescendant={data.length > 0 ? `${gridId}-${active.row}-${active.column}` : undefined}
          className="min-h-40 min-w-0 flex-1 overflow-auto border-y border-line bg-paper text-sm outline-offset-[-2px]"
          onKeyDown={keys}
          onCopy={copy}
          onPaste={paste}
        >
          <div role="presentation" style={{ width, height: (data.length + 1) * rowHeight, position: 'relative' }}>
            <GridHead
              id={gridId}
              headers={header.headers}
              sorted={sorting.length}
              width={width}
              isWhole={data.length > 0 && data.every((record) => record.id !== null && picked.has(record.id))}
              onWhole={(whole) => setPicked(new Set(whole ? data.flatMap((record) => record.id ?? []) : []))}
              onNatural={(i) =>
                setLayout({ widths: { ...layout.widths, [shown[i]!.path]: startWidth[shown[i]!.type] ?? 160 } })
              }
            />
            <GridRows
              scroller={scroller}
              count={data.length}
              widths={widths}
              kept={editing?.spot.row ?? -1}
              draw={draw}
              onLast={noteLast}
              onReach={setReach}
            />
          </div>
          {rows.isPending && (
            <div className="p-3">
              <Skeleton lines={8} />
            </div>
          )}
          {rows.data && data.length === 0 && (
            <p className="sticky left-0 p-4 text-soft">
              {asked.filter || asked.search
                ? 'No record answers this. Take away a filter to see more.'
                : 'There is no record yet. Add one, or bring a file.'}
            </p>
          )}
        </div>
        {open !== null && (
          <RecordBeside
            key={open}
            base={base}
            info={info}
            id={open === '' ? null : open}
            writes={writes}
            beneath={open === '' ? null : beneath?.(open)}
            onClose={() => {
              setOpen(null);
              focus();
            }}
          />
        )}
      </div>
      <GridFoot
        writes={writes}
        fault={faultAt(data, shown, active, writes.unkept)}
        cells={anchor ? (selection.bottom - selection.top + 1) * (selection.right - selection.left + 1) : null}
      />
    </div>
  );
}

export function Grid({ base, table, ...rest }: GridProps) {
  const info = useTableInfo(base, table);
  if (info.isPending)
    return (
      <div className="p-4">
        <Skeleton lines={8} />
      </div>
    );
  if (info.isError)
    return (
      <div className="p-4">
        <Notice kind="fault">{problemText(info.error)}</Notice>
      </div>
    );
  return <GridOf key={table} base={base} info={info.data} {...rest} />;
}
