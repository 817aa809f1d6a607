import type { Section, SectionKind, SectionKinds } from '../core/definition/section-kinds';
import type { ComponentType } from 'react';
import type { Page, PortalDefinition } from '../core/definition/definition';
import type { Table } from '../core/table/catalogue';

/** What a builder sets of a section. */
export type EditProps<K extends SectionKind> = Editor<SectionKinds[K]>;

interface Editor<S> {
  page: Page;
  section: S;
  /** Columns of a table that somebody who gets the section sees; all of it when it is for nobody yet. */
  visible(table: string): string[];
  onChange(label: string, recipe: (section: S) => void): Promise<string | null>;
}

/** A kind of section on the bench. */
interface Editing {
  default: ComponentType<Editor<Section>>;
  /** What it is called, to choose it by. */
  word: string;
  /** What it is for, in a few words after its name. */
  says: string;
  /** What one of it is called where it stands. */
  called(section: Section, draft: PortalDefinition): string;
  /**
   * Begins one, of a table where the kind is about one, or of one of its things; `visible` are the columns to begin
   * with.
   */
  empty(table: Table | null, visible: string[], thing: string | null): Omit<Section, 'id'>;
  /** Whether it is about a table. */
  ofTable: boolean;
  /** What else one of it must be of, where it is: without any none can be begun. */
  things?(draft: PortalDefinition): { id: string; label: string }[];
}

const found = import.meta.glob<Editing>('./*/Edit.tsx', { eager: true });

/** Every kind of section by its name, as builders work with it. */
export const sectionEdits: Readonly<Record<string, Editing>> = Object.fromEntries(
  Object.entries(found).map(([path, editing]) => [path.split('/')[1]!, editing]),
);
