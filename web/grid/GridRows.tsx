import { useEffect, useMemo, type ReactNode } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { rowHeight } from './sizes';

export interface Reach {
  /** Brings a line into sight. */
  to(row: number): void;
}

/**
 * The lines in sight. It alone is drawn anew while somebody scrolls, and of the lines only those that come into sight:
 * the others are as they were drawn, until `draw` is another.
 */
export function GridRows({
  scroller,
  count,
  draw,
  onLast,
  onReach,
}: {
  scroller: HTMLElement | null;
  count: number;
  draw: (index: number) => ReactNode;
  /** Called with the last line that is drawn. */
  onLast: (index: number) => void;
  onReach: (reach: Reach) => void;
}) {
  // What the list gives is used while rendering alone.
  // oxlint-disable-next-line react/incompatible-library
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => scroller,
    estimateSize: () => rowHeight,
    overscan: 12,
    scrollPaddingStart: rowHeight,
    scrollPaddingEnd: 12,
  });
  useEffect(() => onReach({ to: (row) => virtual.scrollToIndex(row) }), [virtual, onReach]);
  const items = virtual.getVirtualItems();
  const last = items.at(-1)?.index ?? -1;
  useEffect(() => onLast(last), [last, onLast]);
  const drawn = useMemo(() => ({ by: draw, lines: new Map<number, ReactNode>() }), [draw]);
  return items.map(({ index }) => {
    if (!drawn.lines.has(index)) drawn.lines.set(index, drawn.by(index));
    return drawn.lines.get(index);
  });
}
