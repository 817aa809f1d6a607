import { counted } from '../../core/text/counted';
import {
  useCallback,
  useEffect,
  useId,
  useMemo,
  useRef,
  useState,
  type ClipboardEvent,
  type KeyboardEvent,
  type MouseEvent,
  type PointerEvent,
  type ReactNode,
} from 'react';
import {
  flexRender,
  getCoreRowModel,
  useReactTable,
  functionalUpdate,
  type ColumnDef,
  type SortingState,
  type Updater,
} from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Maximize2 } from 'lucide-react';
import { parseCondition } from '../../core/condition/parse';
import {
  readRecords,
  useGridRows,
  useGridTotal,
  useTableInfo,
  type GridQuestion,
  type TableInfo,
  type ViewRecord,
} from '../client/grid';
import { problemText } from '../client/http';
import type { ColumnInfo } from '../client/portal';
import { Cell, isNumeric } from '../ui/Cell';
import { Notice, Skeleton } from '../ui/Notice';
import { blockOf, holds, plainText, readBlock, typedValue, writeBlock, type Spot } from './block';
import { CellEditor, type Onward } from './CellEditor';
import { FileLink } from './FileCell';
import { GridBar } from './GridBar';
import { useGridLayout } from './layout';
import { RecordBeside } from './RecordBeside';
import { Selection } from './Selection';
import { cellKey, useWrites, type CellChange, type Unkept } from './use-writes';

const rowHeight = 32;
const markWidth = 64;
const startWidth: Partial<Record<ColumnInfo['type'], number>> = {
  'whole number': 100,
  decimal: 110,
  number: 110,
  'yes/no': 80,
  date: 120,
  'date and time': 170,
  'long text': 260,
};
/** So many columns are shown before anybody has chosen. */
const mostAtFirst = 30;

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
  onChanged: () => void;
  onExport?: (question: GridQuestion, format: string, guard: boolean) => ReactNode;
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

function GridOf({ base, info, kept, onKept, onChanged, onExport }: Omit<GridProps, 'table'> & { info: TableInfo }) {
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
  const titles = useMemo(
    () =>
      new Map(
        info.relations.flatMap(({ column, title }) =>
          title !== null && shown.some((each) => each.path === column) ? [[column, title]] : [],
        ),
      ),
    [info, shown],
  );
  const rows = useGridRows(base, info.table, {
    ...question,
    columns: [...new Set([...shown.map((column) => column.path), ...titles.values()])].join(','),
  });
  const data = useMemo(() => rows.data?.pages.flatMap((page) => page.records) ?? [], [rows.data]);
  const total = Math.max(useGridTotal(base, info.table, question).data ?? 0, data.length);
  const writes = useWrites(
    base,
    info.table,
    onChanged,
    info.relations.map((relation) => relation.column),
  );
  const [active, setActive] = useState<Spot>({ row: 0, column: 0 });
  const [anchor, setAnchor] = useState<Spot | null>(null);
  const [editing, setEditing] = useState<{ spot: Spot; text: string } | null>(null);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const [open, setOpen] = useState<string | null>(null);
  const gridId = useId();
  const scroller = useRef<HTMLDivElement>(null);
  const selection = blockOf(active, anchor ?? active);

  const definitions = useMemo(
    () =>
      shown.map((column): ColumnDef<ViewRecord> => ({
        id: column.path,
        accessorFn: (record) => record.values[column.path],
        header: column.label,
        size: layout.widths[column.path] ?? (titles.has(column.path) ? 160 : startWidth[column.type]) ?? 160,
        enableSorting: column.sortable,
      })),
    [shown, layout.widths, titles],
  );
  // Nothing of it is handed to memoised parts.
  // oxlint-disable-next-line react/incompatible-library
  const grid = useReactTable({
    data,
    columns: definitions,
    getCoreRowModel: getCoreRowModel(),
    manualSorting: true,
    columnResizeMode: 'onEnd',
    state: { sorting },
    onSortingChange: setSorting,
    maxMultiSortColCount: 5,
    onColumnSizingChange: (update) => {
      const next = typeof update === 'function' ? update(grid.getState().columnSizing) : update;
      setLayout({ widths: { ...layout.widths, ...next } });
    },
  });
  const virtual = useVirtualizer({
    count: data.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 12,
    scrollPaddingStart: rowHeight,
    scrollPaddingEnd: 12,
  });
  const items = virtual.getVirtualItems();
  const last = items.at(-1)?.index ?? -1;
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = rows;
  useEffect(() => {
    if (last >= data.length - 40 && hasNextPage && !isFetchingNextPage) void fetchNextPage();
  }, [last, data.length, hasNextPage, isFetchingNextPage, fetchNextPage]);

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
    virtual.scrollToIndex(to.row);
    const cell = document.getElementById(`${gridId}-head-${to.column}`);
    cell?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  };
  const focus = () => scroller.current?.focus({ preventScroll: true });

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
            to: typedValue(column, text),
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

  /** The cells of the selection that can be changed. */
  const changesIn = (
    textAt: (row: number, column: number) => string | undefined,
  ): { changes: CellChange[]; closed: number } => {
    const changes: CellChange[] = [];
    let closed = 0;
    for (let row = 0; row < data.length; row++) {
      for (let column = 0; column < shown.length; column++) {
        const text = textAt(row, column);
        if (text === undefined) continue;
        const [record, of] = [data[row]!, shown[column]!];
        if (!canChange(of, record)) closed++;
        else if (text !== plainText(record.values[of.path]))
          changes.push({
            id: record.id!,
            path: of.path,
            from: record.values[of.path],
            to: typedValue(of, text),
            typed: text,
          });
      }
    }
    return { changes, closed };
  };
  const apply = ({ changes, closed }: { changes: CellChange[]; closed: number }, label: string) => {
    if (closed > 0) writes.say(`${closed} of these cells can't be changed here; they were left as they are.`, true);
    if (changes.length > 0) void writes.change(changes, label);
  };
  /** What was typed and refused goes from the selected cells; the values that stand come back. */
  const takeBack = (): boolean => {
    const keys = data
      .slice(selection.top, selection.bottom + 1)
      .flatMap((record) =>
        shown.slice(selection.left, selection.right + 1).map((column) => cellKey(record.id ?? '', column.path)),
      )
      .filter((key) => writes.unkept.get(key)?.reason);
    for (const key of keys) writes.forget(key);
    if (keys.length > 0) writes.say('What was typed and refused is taken back.');
    return keys.length > 0;
  };
  const clear = () =>
    apply(
      changesIn((row, column) => (holds(selection, row, column) ? '' : undefined)),
      'clear cells',
    );
  const copy = (event: ClipboardEvent) => {
    if (editing) return;
    event.preventDefault();
    const block = data
      .slice(selection.top, selection.bottom + 1)
      .map((record) =>
        shown
          .slice(selection.left, selection.right + 1)
          .map(
            (column) =>
              writes.unkept.get(cellKey(record.id ?? '', column.path))?.typed ?? plainText(record.values[column.path]),
          ),
      );
    event.clipboardData.setData('text/plain', writeBlock(block));
  };
  const paste = (event: ClipboardEvent) => {
    if (editing) return;
    event.preventDefault();
    const block = readBlock(event.clipboardData.getData('text/plain'));
    const one = block.length === 1 && block[0]!.length === 1;
    const { top, left } = selection;
    const { changes, closed } = changesIn((row, column) =>
      one ? (holds(selection, row, column) ? block[0]![0] : undefined) : block[row - top]?.[column - left],
    );
    if (closed > 0) writes.say(`${closed} of these cells can't be changed here; they were left as they are.`, true);
    // What reaches beyond the last record becomes new ones.
    const beyond =
      hasNextPage || one || !info.fills
        ? []
        : block.slice(Math.max(0, data.length - top)).filter((cells) => cells.some((cell) => cell !== ''));
    const fresh = beyond.map((cells) =>
      Object.fromEntries(
        cells.flatMap((cell, i) => {
          const column = shown[left + i];
          return column && info.fills!.includes(column.path) && cell !== ''
            ? [[column.path, typedValue(column, cell)]]
            : [];
        }),
      ),
    );
    if (changes.length + fresh.length > 0)
      void writes.paste(changes, fresh, one ? 'paste' : `paste ${block.length} × ${block[0]?.length ?? 0} cells`);
  };

  const keys = (event: KeyboardEvent<HTMLElement>) => {
    if (editing || (event.target as HTMLElement).closest('input, select, textarea, button')) return;
    const pageRows = Math.max(1, Math.floor(event.currentTarget.clientHeight / rowHeight) - 2);
    const jump = event.ctrlKey || event.metaKey;
    const { row, column } = active;
    const moves: Record<string, Spot> = {
      ArrowUp: { row: jump ? 0 : row - 1, column },
      ArrowDown: { row: jump ? data.length - 1 : row + 1, column },
      ArrowLeft: { row, column: jump ? 0 : column - 1 },
      ArrowRight: { row, column: jump ? shown.length - 1 : column + 1 },
      PageUp: { row: row - pageRows, column },
      PageDown: { row: row + pageRows, column },
      Home: { row: jump ? 0 : row, column: 0 },
      End: { row: jump ? data.length - 1 : row, column: shown.length - 1 },
    };
    const to = moves[event.key];
    if (to) {
      event.preventDefault();
      go(to, event.shiftKey);
    } else if (event.key === 'Enter' && jump) {
      setOpen(data[row]?.id ?? null);
    } else if (event.key === 'Enter' || event.key === 'F2') {
      event.preventDefault();
      edit(active);
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      clear();
    } else if (event.key === ' ') {
      event.preventDefault();
      for (let at = selection.top; at <= selection.bottom; at++) toggle(data[at]?.id ?? null);
    } else if (event.key === 'Escape') {
      takeBack();
      setAnchor(null);
      setPicked(new Set());
    } else if (jump && event.key.toLowerCase() === 'z' && !event.shiftKey && takeBack()) {
      event.preventDefault();
      event.stopPropagation();
    } else if (jump && event.key.toLowerCase() === 'a') {
      event.preventDefault();
      setActive({ row: 0, column: 0 });
      setAnchor({ row: data.length - 1, column: shown.length - 1 });
    } else if (
      event.key.length === 1 &&
      !jump &&
      !event.altKey &&
      event.key !== '.' &&
      event.key !== '/' &&
      event.key !== '?'
    ) {
      event.preventDefault();
      const chosen = shown[column];
      edit(
        active,
        chosen && ['date', 'one choice', 'yes/no', 'several choices'].includes(chosen.type) ? undefined : event.key,
      );
    }
  };
  const toggle = (id: string | null) => {
    if (id === null) return;
    setPicked((before) => {
      const next = new Set(before);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  };
  const press = (spot: Spot) => (event: MouseEvent) => {
    if (event.button !== 0 || (editing && editing.spot.row === spot.row && editing.spot.column === spot.column)) return;
    // The grid itself has the focus: a cell may be scrolled out of the page and be gone.
    event.preventDefault();
    focus();
    setAnchor(event.shiftKey ? (anchor ?? active) : null);
    setActive(spot);
  };
  const drag = (spot: Spot) => (event: PointerEvent) => {
    if (event.buttons !== 1 || editing) return;
    setAnchor(anchor ?? active);
    setActive(spot);
  };

  const narrow = (part: Partial<typeof asked>) => {
    setAsked({ ...asked, ...part });
    setPicked(new Set());
    setActive({ row: 0, column: 0 });
    setAnchor(null);
    scroller.current?.scrollTo({ top: 0 });
  };
  const width = markWidth + grid.getTotalSize();
  const header = grid.getHeaderGroups()[0]!;
  const collect = async (): Promise<string[]> => {
    const ids: string[] = [];
    for (let after = ''; ;) {
      const page = await readRecords(base, info.table, { ...question, columns: shown[0]!.path, after, size: 200 });
      ids.push(...page.records.flatMap((record) => (record.id === null ? [] : [record.id])));
      if (page.next === null || ids.length >= 10_000) return ids;
      after = page.next;
    }
  };
  return (
    <div className="flex min-h-0 flex-1 flex-col" data-grid={info.table}>
      <GridBar
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
          ref={scroller}
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
          <div role="presentation" style={{ width, height: virtual.getTotalSize() + rowHeight, position: 'relative' }}>
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
                  checked={data.length > 0 && data.every((record) => record.id !== null && picked.has(record.id))}
                  onChange={(event) =>
                    setPicked(new Set(event.target.checked ? data.flatMap((record) => record.id ?? []) : []))
                  }
                />
              </div>
              {header.headers.map((head, i) => {
                const sorted = head.column.getIsSorted();
                return (
                  <div
                    key={head.id}
                    id={`${gridId}-head-${i}`}
                    role="columnheader"
                    aria-colindex={i + 2}
                    aria-sort={sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : undefined}
                    className="relative flex items-center border-r border-line"
                    style={{ width: head.getSize(), scrollMarginLeft: markWidth }}
                  >
                    {head.column.getCanSort() ? (
                      <button
                        type="button"
                        tabIndex={-1}
                        title="Sort; with Shift, sort by this too"
                        className="min-w-0 flex-1 truncate px-2 text-left hover:text-ink"
                        onClick={head.column.getToggleSortingHandler()}
                      >
                        {flexRender(head.column.columnDef.header, head.getContext())}
                        {sorted && (
                          <span>
                            {' '}
                            {sorted === 'asc' ? '↑' : '↓'}
                            {sorting.length > 1 ? head.column.getSortIndex() + 1 : ''}
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
                      onDoubleClick={() =>
                        setLayout({ widths: { ...layout.widths, [head.id]: startWidth[shown[i]!.type] ?? 160 } })
                      }
                    />
                  </div>
                );
              })}
            </div>
            {items.map(({ index, start }) => {
              const record = data[index]!;
              const isPicked = record.id !== null && picked.has(record.id);
              return (
                <div
                  key={record.id ?? index}
                  role="row"
                  aria-rowindex={index + 2}
                  aria-selected={isPicked}
                  className={`absolute left-0 flex border-b border-line ${isPicked ? 'bg-lichen-wash' : 'bg-paper'}`}
                  style={{ top: start + rowHeight, height: rowHeight, width }}
                >
                  <div
                    role="rowheader"
                    className={
                      'sticky left-0 z-[5] flex items-center gap-1 border-r border-line px-2 ' +
                      `${isPicked ? 'bg-lichen-wash' : 'bg-paper'}`
                    }
                    style={{ width: markWidth }}
                  >
                    {record.id !== null && (
                      <input
                        type="checkbox"
                        tabIndex={-1}
                        aria-label={`Select record ${index + 1}`}
                        checked={isPicked}
                        onChange={() => toggle(record.id)}
                      />
                    )}
                    {record.id !== null && (
                      <button
                        type="button"
                        tabIndex={-1}
                        aria-label={`Open record ${index + 1}`}
                        className="p-1 text-soft hover:text-ink"
                        onClick={() => setOpen(record.id)}
                      >
                        <Maximize2 size={13} aria-hidden />
                      </button>
                    )}
                  </div>
                  {shown.map((column, c) => {
                    const spot = { row: index, column: c };
                    const isActive = active.row === index && active.column === c;
                    const kept = record.id === null ? undefined : writes.unkept.get(cellKey(record.id, column.path));
                    const isEdited = editing?.spot.row === index && editing.spot.column === c;
                    return (
                      <div
                        key={column.path}
                        id={`${gridId}-${index}-${c}`}
                        role="gridcell"
                        tabIndex={-1}
                        aria-colindex={c + 2}
                        aria-invalid={kept?.reason ? true : undefined}
                        aria-selected={holds(selection, index, c)}
                        title={kept?.reason ?? undefined}
                        className={
                          'relative flex items-center border-r border-line px-2 outline-none select-none ' +
                          `${holds(selection, index, c) && anchor ? 'bg-water-wash' : ''} ` +
                          `${isActive ? 'shadow-[inset_0_0_0_2px_var(--water)]' : ''} ` +
                          `${kept?.reason ? 'bg-iron-wash' : ''} ` +
                          `${isNumeric(column.type) && !titles.has(column.path) ? 'justify-end' : ''}`
                        }
                        style={{ width: header.headers[c]?.getSize() }}
                        onMouseDown={press(spot)}
                        onPointerEnter={drag(spot)}
                        onDoubleClick={() => edit(spot)}
                      >
                        {isEdited ? (
                          <CellEditor
                            base={base}
                            info={info}
                            column={column}
                            text={editing.text}
                            title={
                              editing.text === plainText(record.values[column.path])
                                ? titleIn(record, titles.get(column.path))
                                : null
                            }
                            onTake={(text, onward) => take(spot, text, onward)}
                            onCancel={cancel}
                          />
                        ) : (
                          <span className="truncate">
                            <CellOrUnkept
                              base={base}
                              table={info.table}
                              column={column}
                              record={record}
                              kept={kept}
                              title={titleIn(record, titles.get(column.path))}
                            />
                          </span>
                        )}
                      </div>
                    );
                  })}
                </div>
              );
            })}
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
            onClose={() => {
              setOpen(null);
              focus();
            }}
          />
        )}
      </div>
      <div className="flex min-h-9 items-center gap-3 px-3 py-1 text-sm">
        <span
          role={writes.said?.fault ? 'alert' : 'status'}
          className={
            'min-w-0 flex-1 ' +
            (writes.said?.fault || faultAt(data, shown, active, writes.unkept) ? 'font-medium text-iron' : 'text-soft')
          }
        >
          {faultAt(data, shown, active, writes.unkept) || writes.said?.text}
        </span>
        {anchor && (
          <span className="text-soft">
            {counted((selection.bottom - selection.top + 1) * (selection.right - selection.left + 1), 'cell')}
          </span>
        )}
      </div>
    </div>
  );
}

/** A question as it is kept; each part may be empty. */
export interface KeptQuestion {
  sort: string;
  filter: string;
  search: string;
}

const sortText = (sorting: SortingState) => sorting.map(({ id, desc }) => `${desc ? '-' : ''}${id}`).join(',');

/** What was kept of a sort, as far as the table can still be sorted so. */
function sortingOf(text: string, all: ColumnInfo[]): SortingState {
  return text
    .split(',')
    .filter(Boolean)
    .map((term) => ({ id: term.replace(/^-/, ''), desc: term.startsWith('-') }))
    .filter(({ id }) => all.some((column) => column.path === id && column.sortable));
}

/** Nothing where it is no condition. */
function soundFilter(filter: string): string {
  try {
    if (filter !== '') parseCondition(filter);
    return filter;
  } catch {
    return '';
  }
}

/** What the record is called that a relation leads to, where the person sees it whole. */
function titleIn(record: ViewRecord, title: string | undefined): string | null {
  const value = title === undefined || record.masked.includes(title) ? null : record.values[title];
  return value === null || value === undefined || value === '' ? null : String(value);
}

function CellOrUnkept({
  base,
  table,
  column,
  record,
  kept,
  title,
}: {
  base: string;
  table: string;
  column: ColumnInfo;
  record: ViewRecord;
  kept: Unkept | undefined;
  title: string | null;
}) {
  if (kept)
    return (
      <span className={kept.reason ? 'font-medium text-iron' : 'text-soft'}>
        {kept.typed === '' ? '–' : kept.typed}
      </span>
    );
  if (
    column.kind === 'file' &&
    record.id !== null &&
    record.values[column.path] &&
    !record.masked.includes(column.path) &&
    !column.path.includes('.')
  )
    return <FileLink base={base} table={table} id={record.id} column={column.path} label={column.label} />;
  if (title !== null && !record.masked.includes(column.path))
    return <span title={`${column.label}: ${plainText(record.values[column.path])}`}>{title}</span>;
  return (
    <Cell
      type={column.type}
      notes={column}
      value={record.values[column.path]}
      masked={record.masked.includes(column.path)}
    />
  );
}

/** Why the active cell's value isn't kept, in words below the grid. */
function faultAt(data: ViewRecord[], shown: ColumnInfo[], active: Spot, unkept: ReadonlyMap<string, Unkept>): string {
  const [record, column] = [data[active.row], shown[active.column]];
  return record?.id && column ? (unkept.get(cellKey(record.id, column.path))?.reason ?? '') : '';
}
