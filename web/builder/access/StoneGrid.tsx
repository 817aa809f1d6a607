import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { ChevronDown, ChevronRight, Lock } from 'lucide-react';
import type { PortalDefinition, Role } from '../../../core/definition/definition';
import { isClosed } from '../../../core/table/catalogue';
import { Stones, type Level } from '../../ui/Stones';
import type { GridRow } from './grid-rows';
import { RoleMenu } from './RoleMenu';
import { levelOf, levels, type Stone } from './set-level';
import { blockOf, keyOf, pasted, stonesIn, stonesToLay, type Spot } from './stone-block';
import { grantWords, sentenceOf, TableCell } from './TableCell';
import { hint } from '../../ui/hint';
import { Named } from '../bench/Named';
import { namesOf, useNaming } from '../bench/names';
import { keepInSight } from './keep-in-sight';

export interface GridChoice {
  table: string;
  role: string;
  column: string | null;
}

const heights = { table: 46, column: 29 };
const widths = { name: 200, role: 134 };

/** More roles than these are drawn only where they are in sight. */
const fewRoles = 8;

/**
 * Tables opening into columns, against roles. One tab stop; the arrows move, with Shift they take a block, 0 to 3 lay
 * that many courses.
 */
export function StoneGrid({
  draft,
  rows,
  roles,
  chosen,
  onChoose,
  onOpen,
  onSet,
  onSelect,
}: {
  draft: PortalDefinition;
  rows: GridRow[];
  roles: Role[];
  chosen: GridChoice | null;
  onChoose: (choice: GridChoice) => void;
  onOpen: (table: string, open: boolean) => void;
  onSet: (stones: (Stone & { level: Level })[]) => void;
  onSelect: (stones: Stone[]) => void;
}) {
  const names = useMemo(() => namesOf(draft), [draft]);
  const naming = useNaming();
  const scroll = useRef<HTMLDivElement>(null);
  const [spot, setSpot] = useState<Spot>({ row: 0, column: -1 });
  const [anchor, setAnchor] = useState<Spot | null>(null);
  // Where the focus was led to. What a press focuses by itself is not: nothing moves away under a press.
  const [wanted, setWanted] = useState<Spot | null>(null);
  const [copied, setCopied] = useState<Level[][] | null>(null);
  // oxlint-disable-next-line react/incompatible-library -- what the lists give is used while rendering alone
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroll.current,
    estimateSize: (i) => heights[rows[i]!.kind],
    overscan: 12,
    getItemKey: (i) => keyOf(rows[i]!),
  });
  const across = useVirtualizer({
    horizontal: true,
    count: roles.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => widths.role,
    overscan: 2,
    paddingStart: widths.name,
    scrollPaddingStart: widths.name,
    enabled: roles.length > fewRoles,
  });
  const at: Spot = { row: Math.min(spot.row, rows.length - 1), column: Math.min(spot.column, roles.length - 1) };
  const block = blockOf(at, anchor);
  const inSight =
    roles.length > fewRoles
      ? [
          ...new Set([...across.getVirtualItems().map((item) => item.index), ...(at.column >= 0 ? [at.column] : [])]),
        ].toSorted((a, b) => a - b)
      : roles.map((_, j) => j);

  useEffect(() => {
    if (!wanted) return;
    virtual.scrollToIndex(wanted.row);
    if (wanted.column >= 0 && roles.length > fewRoles) across.scrollToIndex(wanted.column);
    const frame = requestAnimationFrame(() =>
      scroll.current?.querySelector<HTMLElement>(`[data-spot="${wanted.row}/${wanted.column}"]`)?.focus(),
    );
    return () => cancelAnimationFrame(frame);
  }, [wanted, virtual, across, roles.length]);
  useEffect(() => virtual.measure(), [rows, virtual]);
  // What is chosen opens below and takes room: it stays in sight.
  const chosenRow = chosen
    ? rows.findIndex(
        (row) => row.table.name === chosen.table && (row.kind === 'column' ? row.column.name : null) === chosen.column,
      )
    : -1;
  useEffect(() => {
    if (chosenRow < 0) return;
    virtual.scrollToIndex(chosenRow);
    return keepInSight(scroll.current!);
  }, [chosenRow, virtual]);

  const lines = { rows, roles };
  const move = (to: Spot, extend = false) => {
    const next = {
      row: Math.max(0, Math.min(rows.length - 1, to.row)),
      column: Math.max(-1, Math.min(roles.length - 1, to.column)),
    };
    const from = extend ? (anchor ?? at) : null;
    setAnchor(from);
    setSpot(next);
    setWanted(next);
    onSelect(from ? stonesToLay(lines, blockOf(next, from)) : []);
  };
  /** All roles of a line, or one role on all columns of a table. */
  const take = (from: Spot, to: Spot) => {
    setAnchor(from);
    setSpot(to);
    setWanted(to);
    onSelect(stonesIn(lines, blockOf(to, from)));
  };
  const choose = ({ row, column }: Spot) => {
    const line = rows[row];
    const role = roles[column];
    if (line && role)
      onChoose({ table: line.table.name, role: role.id, column: line.kind === 'column' ? line.column.name : null });
  };
  const openClose = (row: number, open?: boolean) => {
    const line = rows[row];
    if (line?.kind === 'table') onOpen(line.table.name, open ?? !line.open);
  };
  const tableBlock = (row: number): [number, number] => {
    let [first, last] = [row, row];
    while (first > 0 && rows[first]!.kind === 'column') first--;
    while (last + 1 < rows.length && rows[last + 1]!.kind === 'column') last++;
    return [Math.min(first + 1, last), last];
  };

  const onKey = (event: KeyboardEvent<HTMLElement>) => {
    const { key, shiftKey: extend } = event;
    const control = event.ctrlKey || event.metaKey;
    const line = rows[at.row];
    if (!line || event.altKey) return;
    const page = Math.max(1, Math.floor((scroll.current?.clientHeight ?? 400) / 32) - 2);
    const steps: Record<string, Spot> = {
      ArrowUp: { ...at, row: at.row - 1 },
      ArrowDown: { ...at, row: at.row + 1 },
      ArrowLeft: { ...at, column: at.column - 1 },
      ArrowRight: { ...at, column: at.column + 1 },
      Home: control ? { row: 0, column: -1 } : { ...at, column: -1 },
      End: control ? { row: rows.length - 1, column: roles.length - 1 } : { ...at, column: roles.length - 1 },
      PageUp: { ...at, row: at.row - page },
      PageDown: { ...at, row: at.row + page },
    };
    const level = /^[0-3]$/.test(key) && !control ? levels[Number(key)] : undefined;
    const done = (): void => event.preventDefault();
    if (key === 'ArrowRight' && at.column === -1 && line.kind === 'table' && !line.open && !extend) {
      done();
      openClose(at.row, true);
    } else if (key === 'ArrowLeft' && at.column === -1 && line.kind === 'table' && line.open && !extend) {
      done();
      openClose(at.row, false);
    } else if (steps[key]) {
      done();
      move(steps[key], extend);
    } else if (level && at.column >= 0) {
      done();
      onSet(stonesToLay(lines, block).map((stone) => ({ ...stone, level })));
    } else if (key === 'Enter' || key === ' ') {
      done();
      if (at.column >= 0) choose(at);
      else if (line.kind === 'table') openClose(at.row);
      else take({ row: at.row, column: 0 }, { row: at.row, column: roles.length - 1 });
    } else if (control && key.toLowerCase() === 'a') {
      done();
      const [first, last] = tableBlock(at.row);
      take({ row: first, column: 0 }, { row: last, column: roles.length - 1 });
    } else if (control && key.toLowerCase() === 'c' && at.column >= 0) {
      done();
      setCopied(
        rows
          .slice(block.top, block.bottom + 1)
          .flatMap((row) =>
            row.kind === 'column'
              ? [
                  roles
                    .slice(block.left, block.right + 1)
                    .map((role) => levelOf(draft, row.table, role.id, row.column.name)),
                ]
              : [],
          ),
      );
    } else if (control && key.toLowerCase() === 'v' && copied && at.column >= 0) {
      done();
      onSet(pasted(lines, copied, block));
    } else if (key === 'Escape' && anchor) {
      done();
      move(at);
    }
  };
  const isIn = (row: number, column: number) =>
    row >= block.top && row <= block.bottom && column >= block.left && column <= block.right;
  const spotProps = (row: number, column: number) => ({
    'data-spot': `${row}/${column}`,
    onFocus: () => {
      if (row !== at.row || column !== at.column) {
        setSpot({ row, column });
        setAnchor(null);
        onSelect([]);
      }
    },
  });
  const tab = (row: number, column: number) => (row === at.row && column === at.column ? 0 : -1);
  const template =
    `${widths.name}px repeat(${roles.length}, ` +
    `${roles.length > fewRoles ? `${widths.role}px` : `minmax(${widths.role}px, 1fr)`})`;
  return (
    <div ref={scroll} className="min-h-0 flex-1 overflow-auto">
      <div
        role="grid"
        aria-label="Access"
        tabIndex={-1}
        aria-rowcount={rows.length + 1}
        aria-colcount={roles.length + 1}
        aria-multiselectable
        className="outline-none"
        style={{ minWidth: widths.name + roles.length * widths.role }}
      >
        <div
          role="row"
          aria-rowindex={1}
          className="sticky top-0 z-10 grid border-b border-line-strong bg-paper"
          style={{ gridTemplateColumns: template }}
        >
          <div role="columnheader" className="sticky left-0 bg-paper px-3 py-1.5 font-semibold">
            Table and column
          </div>
          {inSight
            .map((j) => ({ role: roles[j]!, j }))
            .map(({ role, j }) => (
              <div
                key={role.id}
                role="columnheader"
                aria-colindex={j + 2}
                style={{ gridColumn: j + 2 }}
                className="px-1 py-0.5"
              >
                <RoleMenu
                  role={role}
                  table={rows[at.row]?.table ?? null}
                  onSet={(level, table) =>
                    onSet(table.columns.map((column) => ({ table, column: column.name, role: role.id, level })))
                  }
                />
              </div>
            ))}
        </div>
        <div role="rowgroup" className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((item) => {
            const row = rows[item.index]!;
            const i = item.index;
            return (
              <div
                key={item.key}
                role="row"
                aria-rowindex={i + 2}
                className={
                  'absolute top-0 left-0 grid w-full border-b border-line ' + `${row.kind === 'table' ? 'bg-sunk' : ''}`
                }
                style={{ gridTemplateColumns: template, height: item.size, transform: `translateY(${item.start}px)` }}
              >
                <div
                  role="rowheader"
                  className={
                    'sticky left-0 z-5 flex min-w-0 items-center gap-1 ' +
                    `${row.kind === 'table' ? 'bg-sunk px-2' : 'bg-paper pl-8 pr-2'}`
                  }
                  aria-expanded={row.kind === 'table' ? row.open : undefined}
                  {...spotProps(i, -1)}
                  tabIndex={tab(i, -1)}
                  onKeyDown={onKey}
                  onClick={() =>
                    row.kind === 'table'
                      ? openClose(i)
                      : take({ row: i, column: 0 }, { row: i, column: roles.length - 1 })
                  }
                >
                  {row.kind === 'table' &&
                    (row.open ? (
                      <ChevronDown size={15} aria-hidden className="shrink-0" />
                    ) : (
                      <ChevronRight size={15} aria-hidden className="shrink-0" />
                    ))}
                  <span
                    className={`cursor-pointer truncate ${row.kind === 'table' ? 'font-semibold' : ''}`}
                    {...hint(row.kind === 'table' ? row.table.name : row.column.name)}
                  >
                    {row.kind === 'table' ? (
                      <Named label={names.table(row.table.name)} raw={row.table.name} />
                    ) : (
                      names.column(row.table.name, row.column.name)
                    )}
                  </span>
                </div>
                {inSight.map((j) => {
                  const role = roles[j]!;
                  const isChosen =
                    chosen?.table === row.table.name &&
                    chosen.role === role.id &&
                    chosen.column === (row.kind === 'column' ? row.column.name : null);
                  const level = row.kind === 'column' ? levelOf(draft, row.table, role.id, row.column.name) : null;
                  const closed = row.kind === 'column' && isClosed(row.table, row.column.name);
                  const about = names.table(row.table.name);
                  const of = row.kind === 'column' ? names.column(row.table.name, row.column.name) : about;
                  const label = closed
                    ? `${of} is closed: the ceiling of ${about} lets nobody read it`
                    : `${of} for ${role.name}: ${level ?? grantWords(draft.access[row.table.name]?.[role.id])}`;
                  return (
                    <div
                      key={role.id}
                      role="gridcell"
                      aria-colindex={j + 2}
                      style={{ gridColumn: j + 2 }}
                      aria-label={label}
                      {...hint(
                        row.kind === 'table'
                          ? sentenceOf(draft.access[row.table.name]?.[role.id], naming(row.table.name))
                          : label,
                      )}
                      aria-selected={anchor !== null && isIn(i, j)}
                      aria-current={isChosen || undefined}
                      {...spotProps(i, j)}
                      tabIndex={tab(i, j)}
                      onKeyDown={onKey}
                      className={
                        'm-px flex min-w-0 scroll-mt-10 scroll-ml-52 cursor-pointer items-center gap-2 ' +
                        'rounded-stone px-1.5 text-sm hover:bg-water-wash ' +
                        (isChosen
                          ? 'bg-water-wash outline-2 -outline-offset-1 outline-water'
                          : anchor !== null && isIn(i, j)
                            ? 'bg-lichen-wash'
                            : '')
                      }
                      // Pressing with Shift takes a block from where the focus is: it must not move there first.
                      onMouseDown={(event) => {
                        if (event.shiftKey) event.preventDefault();
                      }}
                      onClick={(event) => {
                        if (event.shiftKey) move({ row: i, column: j }, true);
                        else {
                          move({ row: i, column: j });
                          choose({ row: i, column: j });
                        }
                      }}
                    >
                      {closed ? (
                        <span className="inline-flex items-center gap-1.5 text-soft italic">
                          <Lock size={13} aria-hidden />
                          closed
                        </span>
                      ) : level !== null ? (
                        <>
                          <Stones level={level} />
                          <span className={level === 'hidden' ? 'text-soft' : ''}>{level}</span>
                        </>
                      ) : (
                        <TableCell grant={draft.access[row.table.name]?.[role.id]} naming={naming(row.table.name)} />
                      )}
                    </div>
                  );
                })}
              </div>
            );
          })}
        </div>
        {rows.length === 0 && (
          <p className="p-4 text-soft">No table or column answers this. Change what is looked for above.</p>
        )}
      </div>
    </div>
  );
}
