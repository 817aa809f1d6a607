import type { OnPage, SectionKind, SectionWidth, RefreshPeriod } from '../core/definition/section-kinds';
import type Joi from 'joi';
import type { Value } from '../core/table/value';
import type { FigureAnswer, ListAnswer, ListQuestion, PlacedVisit } from '../server/gate/gate';
import type { Page } from '../core/definition/definition';
import type { ListQuery } from '../server/records/record-question';
import type { Narrowed } from '../server/records/section-numbers';

/** What a page tells of a section, by its kind: each adds itself in its `serve.ts`. */
// oxlint-disable-next-line typescript/no-empty-interface
export interface SectionTold {}

/** A section as a person gets it. */
export type SectionInfo = {
  [K in SectionKind & keyof SectionTold]: {
    id: string;
    kind: K;
    title?: string;
    width?: SectionWidth;
    refresh?: RefreshPeriod;
  } & SectionTold[K];
}[SectionKind & keyof SectionTold];

/** A number over records that a person sees, and how many cells it left out because they are hidden. */
type TakenNumber = { number: Value; leftOut: number } | { tooFew: true };

/** What a figure comes to now. */
export interface FigureTaken {
  taken: TakenNumber;
  /** What it is held against; null where it is against nothing. */
  against: TakenNumber | null;
}

/** Sums of columns, by their paths, and how many cells each left out because they are hidden. */
export interface Totals {
  totals: { column: string; number: Value; leftOut: number }[];
}

/** How many records each tab of a list holds. */
export interface Counts {
  counts: { tab: string; count: number }[];
}

/** What the server does for a kind of section. */
export interface SectionServe<S extends OnPage, Told extends object> {
  /** What the page tells of it: what the person sees, and nothing more. */
  tell(visit: PlacedVisit, section: S, page: Page): Promise<Told>;
  readonly told: { readonly [K in keyof Told]-?: Joi.Schema };
  /** Its records, where it lists some. */
  list?(
    visit: PlacedVisit,
    section: S,
    query: ListQuery,
  ): Promise<ListAnswer & { away?: string[]; marks?: string[][]; acts?: string[][] }>;
  /** What a file of its records holds, where they may be taken out; throws where they may not. */
  takenOut?(
    visit: PlacedVisit,
    section: S,
    query: ListQuery,
  ): Promise<{
    visit: PlacedVisit;
    table: string;
    question: ListQuestion;
    /** What its columns are called, by their paths. */
    called: ReadonlyMap<string, string>;
  }>;
  /** Its number, where it has one. */
  figure?(visit: PlacedVisit, section: S, page: Page, narrowed: Narrowed): Promise<FigureTaken>;
  /** The sums below its columns, where it has some. */
  totals?(visit: PlacedVisit, section: S, narrowed: Narrowed): Promise<Totals>;
  /** How many records its tabs hold, where it has some. */
  counts?(visit: PlacedVisit, section: S): Promise<Counts>;
  /** Its numbers by groups, where it draws some; `draw` says what a list is to be drawn by. */
  chart?(visit: PlacedVisit, section: S, page: Page, narrowed: Narrowed & { draw: string }): Promise<FigureAnswer>;
}
