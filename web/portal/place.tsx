import { createContext, useContext, type AnchorHTMLAttributes, type MouseEvent } from 'react';

/** Where a person is in a portal: a page, maybe a record beside it, and how its list is narrowed. */
export interface Spot {
  page: string;
  record: string | null;
  query: { search: string; filter: string; sort: string; after: string; before: string };
}

export const plainQuery: Spot['query'] = { search: '', filter: '', sort: '', after: '', before: '' };

/** Moving about in a portal: by the browser's address for members, in memory inside the builder's Seen by. */
export interface Place {
  spot: Spot;
  go(spot: Spot, how?: { replace?: boolean }): void;
  href(spot: Spot): string;
  /** API base of the person whose portal this is. */
  base: string;
  /** Nothing can be saved: a builder is looking. */
  seenBy: boolean;
  /** Asks before leaving while this is true. */
  setUnsaved(unsaved: boolean): void;
  /** Called with a cell that the builder wants explained. */
  onAskWhy?: (table: string, id: string, column: string) => void;
}

const PlaceContext = createContext<Place | null>(null);
export const PlaceProvider = PlaceContext.Provider;

export function usePlace(): Place {
  const place = useContext(PlaceContext);
  if (!place) throw new Error('usePlace outside a portal');
  return place;
}

/** A link to a spot of this portal. */
export function SpotLink({
  to,
  children,
  ...rest
}: { to: Spot } & Omit<AnchorHTMLAttributes<HTMLAnchorElement>, 'href'>) {
  const place = usePlace();
  const follow = (event: MouseEvent) => {
    if (event.metaKey || event.ctrlKey || event.shiftKey || event.button !== 0) return;
    event.preventDefault();
    place.go(to);
  };
  return (
    <a href={place.href(to)} onClick={follow} {...rest}>
      {children}
    </a>
  );
}
