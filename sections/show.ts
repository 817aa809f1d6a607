import type { ComponentType } from 'react';
import type { SectionInfo } from './serve';

/** What shows a section to whoever gets it. */
export interface ShowProps<K extends SectionInfo['kind']> {
  section: Extract<SectionInfo, { kind: K }>;
}

type Show = ComponentType<{ section: SectionInfo }>;

/** By the folder of the kind; what is large of one is fetched where a page has it. */
const found = import.meta.glob<Show>('./*/Show.tsx', { eager: true, import: 'default' });

/** What shows sections of a kind. */
export function showOf(kind: SectionInfo['kind']): Show {
  return found[`./${kind}/Show.tsx`]!;
}
