import type { FigureMeasure } from './figure-measures';
import type { Audience } from './section-kinds';

/** The page of one record, arranged once for its table. */
export interface Sheet {
  /** Paths of all its columns, in order. */
  columns: string[];
  /** Of these, what stands under a heading of its own, below those that don't. */
  groups?: SheetGroup[];
  /** Whether columns outside groups stand two beside each other, where there is room. */
  across?: 2;
  /** Lists of records that point at it, in order. */
  linked?: LinkedList[];
  /** False where what is said of a record is not on it. */
  comments?: false;
  /** Whoever may say something of a record can say beside its facts that one is wrong. */
  doubts?: true;
  /** False where the files that hang on a record are not on it. */
  files?: false;
  /** False where what changed in a record is not on it. */
  history?: false;
}

/** Columns of a sheet under a heading. */
export interface SheetGroup {
  /** Never changes, and is the group's alone on its sheet. */
  id: string;
  title: string;
  columns: string[];
  across?: 2;
  /** Who gets it of those who get the record; all of them when absent. */
  audience?: Audience;
}

/** Records of a table that point at a record by a column of theirs. */
export interface LinkedList {
  table: string;
  /** The column that points, as a path in its text form. */
  column: string;
  /** What is shown of them, as paths. */
  columns: string[];
  /** As cards; as a table when absent. */
  as?: 'cards';
  /** Numbers over all of them, above them. */
  figures?: LinkedFigure[];
  audience?: Audience;
}

/** A number over linked records; only their number itself is of no column. */
export interface LinkedFigure {
  measure: FigureMeasure;
  /** As a path in its text form. */
  column: string;
}
