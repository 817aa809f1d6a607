import { createContext, useContext, useMemo, useRef, useState } from 'react';

/**
 * Something that was done in this window and can be taken back. A change of the draft is undone by the server, which
 * remembers it.
 */
type Done =
  | 'draft'
  | {
      label: string;
      /** Answers what is to be said of it where its own place isn't on the screen any more. */
      undo: () => Promise<string | null>;
    };

/** One order of all that was done in this window, in records and in the draft: what is undone is what was done last. */
export interface LastDone {
  /** What undoing would take back; null when that is a change of the draft, or nothing. */
  label: string | null;
  did(what: Done): void;
  /** Work that is still on its way: what is undone next may be what it does. */
  doing(work: Promise<unknown>): void;
  /** Undoes the last thing if it is records, and answers what to say of it; undefined leaves the draft to be undone. */
  undoRecords(draftCan: () => boolean): Promise<string | null | undefined>;
}

export function useLastDoneHere(): LastDone {
  const order = useRef<Done[]>([]);
  const under = useRef<Promise<unknown>>(Promise.resolve());
  const [label, setLabel] = useState<string | null>(null);
  return useMemo(() => {
    const show = () => {
      const top = order.current.at(-1);
      setLabel(top === undefined || top === 'draft' ? null : top.label);
    };
    return {
      label,
      did: (what) => {
        order.current.push(what);
        show();
      },
      doing: (work) => {
        under.current = Promise.allSettled([under.current, work]);
      },
      undoRecords: async (draftCan) => {
        await under.current;
        // What the server has forgotten of the draft can't stand before records that can still be undone.
        while (!draftCan() && order.current.at(-1) === 'draft') order.current.pop();
        const top = order.current.pop();
        show();
        if (top === undefined || top === 'draft') return undefined;
        return top.undo();
      },
    };
  }, [label]);
}

export const LastDoneContext = createContext<LastDone | null>(null);

export function useLastDone(): LastDone {
  const outer = useContext(LastDoneContext);
  const own = useLastDoneHere();
  return outer ?? own;
}
