import type { Person } from '../../../core/access/person';
import type { PortalDefinition } from '../../../core/definition/definition';
import type { StandInKey } from '../../../core/mask/style';
import type { Catalogue, Table } from '../../../core/table/catalogue';
import type { Row, Value } from '../../../core/table/value';
import type { Source } from '../../sources/source';
import type { LinesBeside, RecordChange } from './record-change';
import type { Leaving } from './leaving';
import type { Assumed } from './assumed';

/** Files that columns of records hold by their id. */
export interface FilesOfColumns {
  /** Whether the person may put this file into this column; it is then kept as long as a record holds it. */
  hold(table: string, column: string, id: string): Promise<boolean>;
  /** How many are held by this visit. */
  held(): number;
  /** Holds no more what was held after so many: the write that they were for was not kept. */
  letGo(after: number): Promise<void>;
}

/** One source of a definition with its tables as the definition calls them. */
export interface Part {
  source: Source;
  catalogue: Catalogue;
  /** Its short name in the definition, null for the definition's own; absent where nobody opened it by that. */
  place?: string | null;
}

/** A row of a roster that somebody makes or changes as a steward. */
export interface RowLookedAfter {
  steward: string;
  /** The record; null for a new one. */
  id: string | null;
  /** What the row's e-mail becomes; absent where it stays. */
  email?: Value;
}

/**
 * What is written down in the product's own schema and waits there until what it tells of is kept, by their keys; the
 * schema is on the server of the records.
 */
export interface HeldBeside {
  schema: string;
  mails: readonly string[];
  calls: readonly string[];
}

/** Where what leaves by one write is written down, and let go or forgotten. */
export interface Leaver {
  /** Before it is kept; whatever this throws takes everything back. What lies on the same server is let go with it. */
  hold(leaving: Leaving): Promise<HeldBeside | null>;
  /** All is kept. */
  keep(): Promise<void>;
  /** Nothing was. */
  drop(): Promise<void>;
}

/** Where what a write changes in records is kept, of tables that keep a history. */
export interface HistoryKeeper {
  /** Before the write is kept: gives the lines to write beside it, or null where it has written them down itself. */
  hold(changes: readonly RecordChange[]): Promise<LinesBeside | null>;
  /** All is kept. */
  keep(): Promise<void>;
  /** Nothing was. */
  drop(): Promise<void>;
}

/** One person before one definition at one moment; everything that the gate decides follows from these. */
export interface Visit {
  definition: PortalDefinition;
  catalogue: Catalogue;
  person: Person;
  moment: Date;
  /** The portal's secret for stand-ins; without it they show nothing. */
  standIn?: StandInKey | null;
  /** Files that columns hold; without it none can be put in. */
  files?: FilesOfColumns;
  /** Opens a source of the definition by its short name, null for its own; absent where all tables are in one. */
  elsewhere?: (source: string | null) => Promise<Part>;
  /** Where it is, as `Part` says. */
  place?: string | null;
  /**
   * Asked before somebody changes as a steward who others are: throws Refused or InvalidValues where somebody would
   * come of it whom they don't look after. Without it nobody is looked after.
   */
  lookAfter?: (row: RowLookedAfter) => Promise<void>;
  /** Only what the person has of a roster by this that they do as a steward, by its id. */
  asSteward?: string;
  /** Makes what one write lets leave through; without it nothing leaves. */
  leaver?: () => Leaver;
  /** Keeps what one write changes; without it no record can be changed whose table keeps a history. */
  history?: () => HistoryKeeper;
  /** What was taken for true of the person: the first list that is read bears it out, or nothing is told. */
  assumed?: Assumed;
  /** The record of the page, in the filters of its sections. */
  record?: { table: Table; values: Row };
}

/** A visit at the source that it is about. */
export type PlacedVisit = Visit & { source: Source };
