import { useEffect } from 'react';
import { useMe } from '../../web/client/portal';
import { plainList, usePlace, type ListState } from '../../web/place/place';

/** How somebody arranged a list: never what they looked for. Kept in their browser. */
export type Left = Pick<ListState, 'columns' | 'sort' | 'widths' | 'chart'>;

/**
 * Lets a list stand as this person left it, where its address says nothing else; `keep` is called with each way in
 * which they arrange it. Nothing is kept for visitors and in Seen by.
 */
export function useAsLeft(section: string): { isComing: boolean; keep: (left: Left) => void } {
  const { base, spot, go, seenBy } = usePlace();
  const { data: me } = useMe(base);
  const email = seenBy || me?.member.kind === 'visitor' ? null : (me?.member.email ?? null);
  const place = email === null ? null : `stone-porch/list/${JSON.stringify([base, email, spot.page, section])}`;
  const left = spot.lists[section] === undefined && place !== null ? read(place) : null;
  const coming = left === null ? '' : JSON.stringify(left);
  useEffect(() => {
    if (coming === '') return;
    const lists = { ...spot.lists, [section]: { ...plainList, ...(JSON.parse(coming) as Left) } };
    go({ ...spot, lists }, { replace: true });
  }, [coming, go, section, spot]);
  return {
    isComing: coming !== '',
    keep: (left) => {
      const { columns, sort, widths, chart } = left;
      if (place === null) return;
      try {
        if (columns + sort + widths + chart === '') localStorage.removeItem(place);
        else localStorage.setItem(place, JSON.stringify({ columns, sort, widths, chart }));
      } catch {
        // Without room in the browser the list stands so as long as its address says it.
      }
    },
  };
}

function read(place: string): Left | null {
  try {
    const kept = JSON.parse(localStorage.getItem(place) ?? 'null') as Partial<Left> | null;
    if (typeof kept?.columns !== 'string' || typeof kept.sort !== 'string') return null;
    // Of what could not be arranged then, nothing was kept.
    const text = (of: unknown) => (typeof of === 'string' ? of : '');
    return { columns: kept.columns, sort: kept.sort, widths: text(kept.widths), chart: text(kept.chart) };
  } catch {
    return null;
  }
}
