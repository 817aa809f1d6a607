import { createElement, useSyncExternalStore, type ReactNode } from 'react';
import type { SelectProps } from './select-props';

type Listed = (props: SelectProps) => ReactNode;
let listed: Listed | null = null;
let asked: Promise<void> | null = null;
const waiting = new Set<() => void>();

/** The list comes after the page; until then, and where fingers choose, the browser's own stands in its place. */
function ask(changed: () => void): () => void {
  waiting.add(changed);
  asked ??= import('./SelectList').then(
    (part) => {
      listed = part.default;
      waiting.forEach((tell) => tell());
    },
    // The browser's own goes on.
    () => undefined,
  );
  return () => waiting.delete(changed);
}
const fingers = () => window.matchMedia('(pointer: coarse)').matches;

/** One of several; in one look everywhere. */
export function Select({ className = '', ...props }: SelectProps) {
  const isListed = useSyncExternalStore(ask, () => listed !== null);
  const look = `field choice ${className}`;
  if (isListed && !fingers()) return createElement(listed!, { ...props, className: look });
  const { onPick, children, ...rest } = props;
  return (
    <span className="contents">
      <select {...rest} className={look} onChange={(event) => onPick(event.target.value)}>
        {children}
      </select>
    </span>
  );
}
