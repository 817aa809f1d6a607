import type { ButtonHTMLAttributes, ReactNode } from 'react';

/** Something to do; words over some; a line between; or further entries behind one. */
export type MenuEntry =
  | { label: ReactNode; key: string; onSelect: () => void }
  | { words: ReactNode }
  | { line: true }
  | { within: string; entries: MenuEntry[] };

export interface MenuProps {
  /** Of the button that opens it. */
  button: ButtonHTMLAttributes<HTMLButtonElement> & Record<`data-${string}`, string>;
  align?: 'start' | 'end';
  entries: () => MenuEntry[];
}
