import type { Condition } from '../condition/tree';
import type { Mask } from '../mask/mask';

/** The whole portal as one document: exported, applied, compared and published as it stands here. */
export const definitionFormat = 'stone-porch/portal';
export const definitionVersion = 1;

export interface PortalDefinition {
  format: typeof definitionFormat;
  formatVersion: typeof definitionVersion;
  portal: PortalFace;
  source: { kind: 'mariadb'; schema: string };
  /** What builders say of tables and columns beyond the catalogue. */
  tables: Record<string, TableNotes>;
  roles: Role[];
  rosters: Roster[];
  /** Grants by table, then role. What is not granted is not there. */
  access: Record<string, Record<string, Grant>>;
  masks: MaskRule[];
  pages: Page[];
}

export interface PortalFace {
  slug: string;
  name: string;
  /** IANA name of the zone that `:today` is reckoned in. */
  timeZone: string;
  /** Colour of the portal's top, `#rrggbb`; dark enough for white text. */
  colour: string;
}

export const dataClasses = ['contact', 'identity', 'financial', 'health', 'location', 'secret'] as const;
export type DataClass = (typeof dataClasses)[number];

export interface TableNotes {
  label?: string;
  columns?: Record<string, { label?: string; dataClass?: DataClass }>;
}

export interface Role {
  id: string;
  name: string;
}

/** A table that members are drawn from: each row with an e-mail becomes a member with the role. */
export interface Roster {
  table: string;
  name: string;
  email: string;
  role: string;
}

export type RowFilter = Condition | 'every row';

/** What one role may do on one table. */
export interface Grant {
  see?: { where: RowFilter; columns: string[] };
  edit?: {
    /** `as seen` repeats the filter of `see`. */
    where: RowFilter | 'as seen';
    columns: string[];
    /** What a record must satisfy after the change; the edit filter itself when absent. */
    keepIn?: Condition;
  };
}

export interface MaskRule {
  id: string;
  table: string;
  column: string;
  mask: Mask;
  to: 'everyone' | string[];
  exceptRoles: string[];
}

export interface Page {
  /** Part of the page's address. */
  id: string;
  title: string;
  intro: string;
  roles: string[];
  sections: ListSection[];
}

/** A list of one table's records, each opening as a record page. */
export interface ListSection {
  kind: 'list';
  table: string;
  /** Paths in their text form: `code`, `well.code`. */
  columns: string[];
  sort: { column: string; descending: boolean }[];
  where: RowFilter;
  /** Columns of the record page, in order. */
  record: string[];
}

/** A portal with nothing in it yet. */
export function emptyDefinition(face: PortalFace, schema: string): PortalDefinition {
  return {
    format: definitionFormat,
    formatVersion: definitionVersion,
    portal: face,
    source: { kind: 'mariadb', schema },
    tables: {},
    roles: [],
    rosters: [],
    access: {},
    masks: [],
    pages: [],
  };
}

/** The label of a column: the builder's, else made of its name. */
export function columnLabel(definition: Pick<PortalDefinition, 'tables'>, table: string, column: string, plain: (name: string) => string): string {
  return definition.tables[table]?.columns?.[column]?.label ?? plain(column);
}
