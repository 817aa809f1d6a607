import { useCallback, useEffect, useLayoutEffect, useMemo, type ReactNode } from 'react';
import { defaultRangeExtractor, useVirtualizer, type Range } from '@tanstack/react-virtual';
import { markWidth, rowHeight } from './sizes';

export interface Reach {
  /** Brings a line into sight. */
  to(row: number): void;
}

/** The columns in sight, from the first to the last. */
export interface InSight {
  from: number;
  to: number;
}

/**
 * The lines in sight, with those of their columns that are. It alone is drawn anew while somebody scrolls, and of the
 * lines only those that come into sight: the others are as they were drawn, until `draw` is another.
 */
export function GridRows({
  scroller,
  count,
  widths,
  kept,
  draw,
  onLast,
  onReach,
}: {
  scroller: HTMLElement | null;
  count: number;
  /** Of the columns, in pixels, between commas. */
  widths: string;
  /** A line that stays wherever somebody scrolls to, since something is typed in it; -1 for none. */
  kept: number;
  draw: (index: number, columns: InSight) => ReactNode;
  /** Called with the last line that is drawn. */
  onLast: (index: number) => void;
  onReach: (reach: Reach) => void;
}) {
  const columns = useColumnsInSight(scroller, widths);
  const withKept = useCallback(
    (range: Range) => {
      const lines = defaultRangeExtractor(range);
      return kept < 0 || kept >= range.count || lines.includes(kept) ? lines : [...lines, kept].sort((a, b) => a - b);
    },
    [kept],
  );
  // What the list gives is used while rendering alone.
  // oxlint-disable-next-line react/incompatible-library
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => scroller,
    estimateSize: () => rowHeight,
    overscan: 12,
    scrollPaddingStart: rowHeight,
    scrollPaddingEnd: 12,
    rangeExtractor: withKept,
  });
  useEffect(() => onReach({ to: (row) => virtual.scrollToIndex(row) }), [virtual, onReach]);
  const items = virtual.getVirtualItems();
  const last = items.at(-1)?.index ?? -1;
  useEffect(() => onLast(last), [last, onLast]);
  const { from, to } = columns;
  const drawn = useMemo(
    () => ({ by: (index: number) => draw(index, { from, to }), lines: new Map<number, ReactNode>() }),
    [draw, from, to],
  );
  return items.map(({ index }) => {
    if (!drawn.lines.has(index)) drawn.lines.set(index, drawn.by(index));
    return drawn.lines.get(index);
  });
}

/** A table may have a hundred columns: only what is in sight of a line is drawn, and a little to its left and right. */
function useColumnsInSight(scroller: HTMLElement | null, widths: string): InSight {
  const each = useMemo(() => widths.split(',').map(Number), [widths]);
  // oxlint-disable-next-line react/incompatible-library
  const virtual = useVirtualizer({
    horizontal: true,
    count: each.length,
    getScrollElement: () => scroller,
    estimateSize: (column) => each[column]!,
    overscan: 2,
    paddingStart: markWidth,
  });
  useLayoutEffect(() => virtual.measure(), [virtual, each]);
  const items = virtual.getVirtualItems();
  return { from: items[0]?.index ?? 0, to: items.at(-1)?.index ?? -1 };
}
