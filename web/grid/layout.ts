import { useState } from 'react';

/** How a person wants a grid to look: which columns, in which order, how wide. Kept in their browser. */
export interface GridLayout {
  /** Paths of the columns shown, in order; null before anybody has chosen. */
  shown: string[] | null;
  widths: Record<string, number>;
}

const none: GridLayout = { shown: null, widths: {} };

export function useGridLayout(key: string): [GridLayout, (change: Partial<GridLayout>) => void] {
  const place = `stone-porch/grid/${key}`;
  const [layout, setLayout] = useState<GridLayout>(() => read(place));
  const change = (part: Partial<GridLayout>) => {
    const next = { ...layout, ...part };
    setLayout(next);
    try {
      localStorage.setItem(place, JSON.stringify(next));
    } catch {
      // Without room in the browser the layout lasts as long as the page.
    }
  };
  return [layout, change];
}

function read(place: string): GridLayout {
  try {
    const kept = JSON.parse(localStorage.getItem(place) ?? '{}') as Partial<GridLayout>;
    return {
      shown: Array.isArray(kept.shown) ? kept.shown.filter((path) => typeof path === 'string') : null,
      widths: typeof kept.widths === 'object' && kept.widths !== null ? kept.widths : {},
    };
  } catch {
    return none;
  }
}
