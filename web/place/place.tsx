import {
  createContext,
  useCallback,
  useContext,
  useEffect,
  useId,
  type AnchorHTMLAttributes,
  type MouseEvent,
} from 'react';

/** How a section that lists records is narrowed. */
export interface ListState {
  /** Its tab; empty for the first. */
  view: string;
  /** Its columns, where it doesn't stand as it came. */
  columns: string;
  search: string;
  filter: string;
  sort: string;
  after: string;
  before: string;
  /** How wide its columns are, where somebody sized them: `code:180,depth_m:96`. Nothing is asked anew for it. */
  widths: string;
  /** What it is drawn by above it, as `drawnText` writes it. */
  chart: string;
}

export const plainList: ListState = {
  view: '',
  columns: '',
  search: '',
  filter: '',
  sort: '',
  after: '',
  before: '',
  widths: '',
  chart: '',
};

/** Where a person is in a portal: a page, how its sections stand, and maybe a record opened from one of them. */
export interface Spot {
  page: string;
  record: { section: string; id: string } | null;
  /** By the section's id; those that stand as they came are absent. */
  lists: Readonly<Record<string, ListState>>;
  /** What stands at first in the inputs of its forms, by column, where a link says so. */
  given?: Readonly<Record<string, string>>;
  /** What a link says that can't be changed; the server reads it. */
  signed?: string;
}

/** In the place of a record's id while one is being made: no id has such a sign as it is. */
export const newRecord = '+new';

/** A page as it comes. */
export const pageSpot = (page: string): Spot => ({ page, record: null, lists: {} });

/** Moving about in a portal: by the browser's address for members, in memory inside the builder's Seen by. */
export interface Place {
  spot: Spot;
  go(spot: Spot, how?: { replace?: boolean }): void;
  href(spot: Spot): string;
  /** API base of the person whose portal this is. */
  base: string;
  /** Nothing can be saved: a builder is looking. */
  seenBy: boolean;
  /** They have not signed in, so nothing is kept for them. */
  isVisitor?: boolean;
  /** Asks before leaving while this is true. */
  setUnsaved(form: string, unsaved: boolean): void;
  /** Called with a cell that the builder wants explained. */
  onAskWhy?: (table: string, id: string, column: string) => void;
  /** Called with a section that the builder wants to change. */
  onSection?: (page: string, section: string) => void;
}

const PlaceContext = createContext<Place | null>(null);
export const PlaceProvider = PlaceContext.Provider;

export function usePlace(): Place {
  const place = useContext(PlaceContext);
  if (!place) throw new Error('usePlace outside a portal');
  return place;
}

/**
 * Keeps people from leaving what they typed in a form; of several on a page each counts for itself. Gives what says
 * that this one is settled, for whoever goes on right after it is sent.
 */
export function useUnsaved(dirty: boolean): () => void {
  const { setUnsaved } = usePlace();
  const form = useId();
  useEffect(() => {
    setUnsaved(form, dirty);
    return () => setUnsaved(form, false);
  }, [form, dirty, setUnsaved]);
  return useCallback(() => setUnsaved(form, false), [form, setUnsaved]);
}

/** What stays as it is while something else is looked for. */
const arranged = ({ columns, widths, chart }: ListState) => ({ columns, widths, chart });

/** How a section stands, and what would make it stand otherwise. */
export function useListState(section: string) {
  const { spot, go } = usePlace();
  const state = spot.lists[section] ?? plainList;
  const standing = (next: ListState): Spot['lists'] => {
    const { [section]: _was, ...others } = spot.lists;
    return Object.values(next).every((value) => value === '') ? others : { ...others, [section]: next };
  };
  return {
    state,
    /** The record that is open here. */
    open: spot.record?.section === section ? spot.record.id : null,
    /** The same page with a record of this section open. */
    at: (id: string | null): Spot => ({ ...spot, record: id === null ? null : { section, id } }),
    turn: (change: Partial<ListState>) => go({ ...spot, lists: standing({ ...state, ...change }) }),
    /** Other records are listed from here on, so none stays open. */
    narrow: (change: Partial<ListState>) =>
      go({ ...spot, record: null, lists: standing({ ...state, after: '', before: '', ...change }) }),
    clear: () =>
      go({
        ...spot,
        lists: standing({ ...plainList, view: state.view, ...arranged(state) }),
      }),
    /** The same list in another of its tabs, with nothing else looked for. */
    inTab: (view: string): Spot => ({
      ...spot,
      record: null,
      lists: standing({ ...plainList, view, ...arranged(state) }),
    }),
  };
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
