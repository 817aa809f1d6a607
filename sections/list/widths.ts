import { useState } from 'react';
import type { ColumnInfo } from '../../web/client/portal';
import { useListState } from '../../web/place/place';
import { useAsLeft } from './as-left';

/** In CSS pixels: so narrow and so wide a column can be made, by such a step, and comes where it was not sized. */
const [narrowest, widest, step, usual] = [56, 900, 24, 160];

type Widths = ReadonlyMap<string, number>;

const within = (width: number): number => Math.round(Math.min(widest, Math.max(narrowest, width)));

/** The widths that a text tells by columns; null where it tells none. What is odd in it is left out. */
export function widthsIn(text: string): Widths | null {
  const found = text.split(',').flatMap((each): [string, number][] => {
    const at = each.lastIndexOf(':');
    const width = Number(each.slice(at + 1));
    return at > 0 && Number.isFinite(width) && width > 0 ? [[each.slice(0, at), within(width)]] : [];
  });
  return found.length > 0 ? new Map(found) : null;
}

export const widthsText = (widths: Widths): string =>
  [...widths].map(([column, width]) => `${column}:${within(width)}`).join(',');

/** One column wider or narrower by a step. */
export const stepped = (widths: Widths, column: string, by: -1 | 1): Widths =>
  new Map([...widths, [column, within((widths.get(column) ?? usual) + by * step)]]);

/** How wide the columns of a list stand now, so that the others stay as they are when one is sized. */
export function measured(section: string): Widths {
  const heads = document.querySelectorAll<HTMLElement>(`[data-list="${CSS.escape(section)}"] th[data-column]`);
  return new Map([...heads].map((head) => [head.dataset.column!, head.offsetWidth]));
}

/** How wide a list's columns stand, and how one of them is sized. */
export interface Sizing {
  /** Null where each is as wide as what it holds asks for. */
  widths: Widths | null;
  /** All of them together. */
  whole: number;
  /** Shows it while it is sized, and keeps it at the end. */
  size(column: string, width: number, isDone: boolean): void;
}

export function useWidths(section: string, columns: ColumnInfo[]): Sizing {
  const { state, turn } = useListState(section);
  const { keep } = useAsLeft(section);
  const [moving, setMoving] = useState<Widths | null>(null);
  const kept = widthsIn(state.widths);
  const told = moving ?? kept;
  const widths = told && new Map(columns.map(({ path }) => [path, told.get(path) ?? usual]));
  return {
    widths,
    whole: [...(widths?.values() ?? [])].reduce((sum, width) => sum + width, 0),
    size: (column, width, isDone) => {
      const next = new Map([...(told ?? measured(section)), [column, within(width)]]);
      setMoving(isDone ? null : next);
      if (!isDone) return;
      const text = widthsText(next);
      keep({ ...state, widths: text });
      turn({ widths: text });
    },
  };
}
