import { createContext, useContext, type MouseEvent, type ReactNode } from 'react';

/** Where a record of a table can be opened from here; null where nowhere. */
export type RecordSpot = (table: string, id: string) => { href: string; go: () => void } | null;

const RecordLinks = createContext<RecordSpot>(() => null);
export const RecordLinksProvider = RecordLinks.Provider;

/** What leads to a record, as a link where there is a place to open it. */
export function RecordLink({ table, id, children }: { table: string; id: string; children: ReactNode }) {
  const spot = useContext(RecordLinks)(table, id);
  if (!spot) return children;
  const follow = (event: MouseEvent) => {
    event.stopPropagation();
    if (event.metaKey || event.ctrlKey || event.shiftKey || event.button !== 0) return;
    event.preventDefault();
    spot.go();
  };
  return (
    <a href={spot.href} onClick={follow}>
      {children}
    </a>
  );
}
