import type { PortalPromise } from './promise';
import type { Condition, Operand } from '../condition/tree';
import type { MailKind, MailWords } from '../mail/mail-words';
import type { Face } from '../face/face';
import type { Mask } from '../mask/mask';
import type { ColumnKind } from '../table/column-kind';
import type { SignInRules } from '../sign-in/sign-in-rules';
import type { Column, Relation } from '../table/catalogue';
import type { HungGrant } from './hung';
import type { PageIcon } from './page-icons';
export type { LinkedFigure, LinkedList, Sheet, SheetGroup } from './sheet-parts';
import type { Sheet } from './sheet-parts';
import type { Action } from './action';
import type { Form } from './form';
import type { Brought } from './brought';
import type { OutsideAddress } from './outside-address';
import type { Audience, ForRoles, Section } from './section-kinds';
import type { SignUp } from './sign-up';
import type { Steward } from './steward';

/** The whole portal as one document: exported, applied, compared and published as it stands here. */
export const definitionFormat = 'stone-porch/portal';
export const definitionVersion = 2;

export interface PortalDefinition {
  format: typeof definitionFormat;
  formatVersion: typeof definitionVersion;
  portal: PortalFace;
  /** Where the records are whose tables are called by their plain names; rosters are always here. */
  source: PortalSource;
  /** Further sources by a short name. Their tables are called `name:table` throughout the definition. */
  sources?: Record<string, PortalSource>;
  /** What builders say of tables and columns beyond the catalogue. */
  tables: Record<string, TableNotes>;
  roles: Role[];
  rosters: Roster[];
  /** How members sign in; by password when absent. */
  signIn?: SignInRules;
  /** What mails say in place of our own words. */
  mails?: Partial<Record<MailKind, MailWords>>;
  /** Grants by table, then role. What is not granted is not there. */
  access: Record<string, Record<string, Grant>>;
  masks: MaskRule[];
  fences?: Fence[];
  stamps?: Stamp[];
  lifecycles?: Lifecycle[];
  /** What people may do with records by a press; each is a right of its roles. */
  actions?: Action[];
  /** What actions may call outside. */
  addresses?: OutsideAddress[];
  /** What is brought into tables each day. */
  brought?: Brought[];
  /** Ways of making records, laid out in steps. */
  forms?: Form[];
  /** Whoever proves an address of these domains is a member with these roles, without a row. */
  openTo?: OpenTo;
  /** Links by which somebody new can ask to come in. */
  signUps?: SignUp[];
  /** Slices of the administration, each given to a role. */
  stewards?: Steward[];
  promises?: PortalPromise[];
  /** Findings that are meant so; the check no longer counts them. */
  accepted?: AcceptedFinding[];
  /** How a record of a table is shown wherever one is opened; a table without one shows all columns that are seen. */
  sheets: Record<string, Sheet>;
  pages: Page[];
}

/** Where the records are: a schema of the product's own server, or of a database that builders connected. */
export interface PortalSource {
  kind: 'mariadb' | 'postgresql';
  /** The name of the connection; the product's own server when absent. */
  connection?: string;
  schema: string;
  /** The tables that the portal may use, as the database calls them; all when absent. */
  tables?: string[];
}

export interface PortalFace {
  slug: string;
  name: string;
  /** IANA name of the zone that `:today` is reckoned in. */
  timeZone: string;
  /** Colour of the portal's top, `#rrggbb`; made darker where white letters need it. */
  colour: string;
  face?: Face;
  /** Origins of sites whose pages may show the portal in a frame, as `https://www.example.org`; none when absent. */
  embeddedIn?: string[];
}

export const dataClasses = ['contact', 'identity', 'financial', 'health', 'location', 'secret'] as const;

export type DataClass = (typeof dataClasses)[number];

export interface ColumnNotes {
  label?: string;
  dataClass?: DataClass;
  /**
   * For a column of a saved query: why it is not what the columns are that it comes from, so that their data classes
   * and masks don't hold for it.
   */
  apart?: string;
  /** A meaning finer than the database's type. */
  kind?: ColumnKind;
  /** ISO 4217, for money. */
  currency?: string;
  /** Colours of choices and of values that have labels, by their place among those that a mark can have. */
  colours?: Record<string, number>;
  /** What values are called that stand for others, by the text of the value: `{"0": "new"}`. */
  labels?: Record<string, string>;
}

/** A condition on a table's records under a name. */
export interface NamedFilter {
  name: string;
  where: Condition;
}

/**
 * What a table asks of its records whenever one is written, whoever writes it. `required`: the columns hold something.
 * `kept`: they stay as they are once there is a record. `refused`: a record of which the condition is true is not kept.
 */
export interface FieldRule {
  id: string;
  does: 'required' | 'kept' | 'refused';
  /** Where what is wrong is said. */
  columns: string[];
  /** Of the record as it is after the write, for `kept` as it was before it; always when absent. */
  when?: Condition;
  /** What is said at the column, in place of words of ours. */
  message?: string;
}

export interface TableNotes {
  label?: string;
  /** The column that stands for a record where it is chosen or named; guessed when absent. */
  titleColumn?: string;
  /** Further columns that are said after it. */
  titleFurther?: string[];
  /** A unique column that names a record in its address, where the key is not to be read. */
  address?: string;
  /**
   * What tells the records of a table or view without a key apart, by a builder's word: they are then opened, and not
   * changed.
   */
  key?: string[];
  columns?: Record<string, ColumnNotes>;
  /** Conditions kept under a name, by an id; grants, fences and sections that are `named` so are always the same. */
  filters?: Record<string, NamedFilter>;
  rules?: FieldRule[];
  /**
   * To-one relations that the database doesn't know as foreign keys; `table` may be one of another source, which then
   * is looked up by value.
   */
  relations?: Relation[];
  /** What changes in its records is kept where present: for so many days, or as long as the portal. */
  history?: { days?: number };
}

export interface Role {
  id: string;
  name: string;
  /** Whom the role is for; members when absent. A visitor has every role for visitors. */
  for?: 'members' | 'visitors' | 'services';
  /** Meant also for people who stand on no roster: nothing is known of them but their address. */
  withoutRow?: true;
}

/**
 * A table that members are drawn from: each row with an e-mail becomes a member with the roles that the roster gives
 * the row.
 */
export interface Roster {
  table: string;
  name: string;
  /** Further columns of the name, said after the first. */
  nameFurther?: string[];
  email: string;
  /** Who counts: a row of which it isn't true is no member. Every row when absent. */
  where?: Condition;
  /** The role of everyone on it; without it the rules alone give roles. */
  role?: string;
  /** Roles by rule: a row has each whose condition holds for its own columns. */
  roles?: { role: string; where: Condition }[];
  /** The column that names the member's organisation. */
  organisation?: string;
}

export type RowFilter = Condition | 'every row';

/** A door that is open to whole domains. */
interface OpenTo {
  domains: string[];
  /** Roles that are meant for people without a row. */
  roles: string[];
}

/** What one role may do on one table. */
export interface Grant {
  see?: { where: RowFilter; columns: string[] };
  create?: {
    columns: string[];
    /** What a new record must satisfy; when absent that of `edit`, else the filter of `see`, else nothing. */
    keepIn?: RowFilter;
  };
  edit?: {
    /** `as seen` repeats the filter of `see`. */
    where: RowFilter | 'as seen';
    columns: string[];
    /** Columns that may be written over although they are masked or hidden for the role. */
    unseen?: string[];
    /** What a record must satisfy after the change; the edit filter itself when absent. */
    keepIn?: RowFilter;
  };
  delete?: { where: RowFilter | 'as seen' };
  /** Which of the rows seen may be taken out as a file. */
  export?: { where: RowFilter | 'as seen' };
  /** What may be said beside the rows seen. */
  comments?: HungGrant;
  /** Which files may be hung on the rows seen. */
  files?: HungGrant;
  /** What changed in the rows seen is read, as far as it was theirs to see then and is now. */
  history?: true;
}

/** Targets one column, or every column of a data class. */
export type MaskRule = {
  id: string;
  mask: Mask;
  to: ForRoles;
  exceptRoles: string[];
  /** E-mail addresses of members for whom it doesn't hold. */
  exceptMembers?: string[];
} & ({ table: string; column: string } | { dataClass: DataClass });

/** A condition that narrows every role on a table, but for the exempt. */
export interface Fence {
  id: string;
  table: string;
  where: Condition;
  exceptRoles: string[];
}

/**
 * A value that the server puts into a column, whatever the sender says; or, `left empty`, the default of a new record's
 * column, which the sender may fill otherwise.
 */
export interface Stamp {
  id: string;
  table: string;
  column: string;
  on: 'create' | 'change' | 'create and change' | 'left empty';
  value: Exclude<Operand, { kind: 'column' }>;
  to: ForRoles;
}

/** The states of a record, kept in one column that changes by moves alone. */
export interface Lifecycle {
  table: string;
  column: string;
  /** The state of a new record; the database's default when absent. */
  start?: string;
  moves: Move[];
}

export interface Move {
  id: string;
  name: string;
  from: string[];
  to: string;
  roles: string[];
  where?: Condition;
  /** Columns that must be filled once the move is made. */
  needs: string[];
}

/** A finding that is meant so: somebody looked at it and gave the reason. */
export interface AcceptedFinding {
  /** The finding's id. */
  finding: string;
  reason: string;
}

/** One page of the portal. */
export interface Page {
  /** Part of the page's address. */
  id: string;
  title: string;
  intro: string;
  audience: Audience;
  /** True where it doesn't stand among the pages and is only led to. */
  unlisted?: true;
  icon?: PageIcon;
  sections: Section[];
}

/** The sheet of a table; null where none was arranged. */
export function sheetOf({ sheets }: Pick<PortalDefinition, 'sheets'>, table: string): Sheet | null {
  return Object.hasOwn(sheets, table) ? sheets[table]! : null;
}

/** A portal with nothing in it yet. */
export function emptyDefinition(face: PortalFace, source: string | PortalSource): PortalDefinition {
  return {
    format: definitionFormat,
    formatVersion: definitionVersion,
    portal: face,
    source: typeof source === 'string' ? { kind: 'mariadb', schema: source } : source,
    tables: {},
    roles: [],
    rosters: [],
    access: {},
    masks: [],
    sheets: {},
    pages: [],
  };
}

/** The label of a column: the builder's, else made of its name. */
export function columnLabel(
  definition: Pick<PortalDefinition, 'tables'>,
  table: string,
  column: string,
  plain: (name: string) => string,
): string {
  return definition.tables[table]?.columns?.[column]?.label ?? plain(column);
}

/** A column in its table, as far as notes and masks are about it. */
type Placed = { name: string; columns: readonly Pick<Column, 'name' | 'from'>[] };

/** What builders noted of a column. */
export function columnNotes(definition: Pick<PortalDefinition, 'tables'>, table: string, column: string): ColumnNotes {
  const notes = Object.hasOwn(definition.tables, table) ? definition.tables[table]!.columns : undefined;
  return notes && Object.hasOwn(notes, column) ? notes[column]! : {};
}

/**
 * The columns whose data classes and masks hold for a column: itself, and for one of a saved query those that it comes
 * from, unless builders said that it is apart.
 */
export function originsOf(
  definition: Pick<PortalDefinition, 'tables'>,
  table: Placed,
  column: string,
): { table: string; column: string }[] {
  const own = { table: table.name, column };
  const from = table.columns.find((each) => each.name === column)?.from;
  return !from || columnNotes(definition, table.name, column).apart !== undefined ? [own] : [own, ...from];
}

/** From what harms most when it gets out to what harms least. */
const strictness: readonly DataClass[] = ['secret', 'health', 'financial', 'identity', 'location', 'contact'];

/** The data class that builders gave a column, or of what it comes from the strictest; null when none. */
export function dataClassOf(
  definition: Pick<PortalDefinition, 'tables'>,
  table: Placed,
  column: string,
): DataClass | null {
  const own = columnNotes(definition, table.name, column).dataClass;
  if (own) return own;
  const classes = originsOf(definition, table, column).map(
    (origin) => columnNotes(definition, origin.table, origin.column).dataClass,
  );
  return strictness.find((each) => classes.includes(each)) ?? null;
}

/** Whether a mask rule targets a column, by its name or by its data class, or targets what it comes from. */
export function maskTargets(
  definition: Pick<PortalDefinition, 'tables'>,
  rule: MaskRule,
  table: Placed,
  column: string,
): boolean {
  return originsOf(definition, table, column).some((origin) =>
    'dataClass' in rule
      ? columnNotes(definition, origin.table, origin.column).dataClass === rule.dataClass
      : rule.table === origin.table && rule.column === origin.column,
  );
}
