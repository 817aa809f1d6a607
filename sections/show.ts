import { lazy, type ComponentType } from 'react';
import type { SectionInfo } from './serve';

/** What shows a section to whoever gets it. */
export interface ShowProps<K extends SectionInfo['kind']> {
  section: Extract<SectionInfo, { kind: K }>;
}

type Show = ComponentType<{ section: SectionInfo }>;

/** By the folder of the kind: what most pages have comes with the portal, the others where a page has one. */
const found: Record<string, Show> = {
  ...Object.fromEntries(
    Object.entries(import.meta.glob<{ default: Show }>(['./*/Show.tsx', '!./{list,text}/Show.tsx'])).map(
      ([path, load]) => [path, lazy(load)],
    ),
  ),
  ...import.meta.glob<Show>('./{list,text}/Show.tsx', { eager: true, import: 'default' }),
};

const rooms = import.meta.glob<(section: SectionInfo) => string>('./*/room.ts', { eager: true, import: 'room' });

/** The class that keeps the room of a section until it is there, where its kind knows how high it will be. */
export const roomOf = (section: SectionInfo): string | undefined => rooms[`./${section.kind}/room.ts`]?.(section);

/** What shows sections of a kind. */
export function showOf(kind: SectionInfo['kind']): Show {
  return found[`./${kind}/Show.tsx`]!;
}
