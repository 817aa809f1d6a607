import { useLayoutEffect, useState, type RefObject } from 'react';

/** From this width on a list is a table, and a stack of lines below; its style says the same. */
const tableFrom = 560;

/**
 * Whether a list is drawn as a table now. Only asked where something must stand in the one or the other, and not in
 * both: a form, say.
 */
export function useIsWide(frame: RefObject<HTMLElement | null>, isAsked: boolean): boolean {
  const [isWide, setIsWide] = useState(true);
  useLayoutEffect(() => {
    const box = frame.current?.parentElement;
    if (!isAsked || !box) return undefined;
    const measure = () => setIsWide(box.clientWidth >= tableFrom);
    measure();
    const watch = new ResizeObserver(measure);
    watch.observe(box);
    return () => watch.disconnect();
  }, [frame, isAsked]);
  return isWide;
}
