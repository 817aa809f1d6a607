import type { OnPage, SectionKind } from '../core/definition/section-kinds';
import type Joi from 'joi';
import type { Value } from '../core/table/value';
import type { ListAnswer, PlacedVisit } from '../server/gate/gate';
import type { ListQuery } from '../server/records/record-question';

/** What a page tells of a section, by its kind: each adds itself in its `serve.ts`. */
// oxlint-disable-next-line typescript/no-empty-interface
export interface SectionTold {}

/** A section as a person gets it. */
export type SectionInfo = {
  [K in SectionKind & keyof SectionTold]: { id: string; kind: K; title?: string } & SectionTold[K];
}[SectionKind & keyof SectionTold];

/** A number over records that a person sees, and how many cells it left out because they are hidden. */
type TakenNumber = { number: Value; leftOut: number } | { tooFew: true };

/** What a figure comes to now. */
export interface FigureTaken {
  taken: TakenNumber;
  /** What it is held against; null where it is against nothing. */
  against: TakenNumber | null;
}

/** What the server does for a kind of section. */
export interface SectionServe<S extends OnPage, Told extends object> {
  /** What the page tells of it: what the person sees, and nothing more. */
  tell(visit: PlacedVisit, section: S): Promise<Told>;
  readonly told: { readonly [K in keyof Told]-?: Joi.Schema };
  /** Its records, where it lists some. */
  list?(visit: PlacedVisit, section: S, query: ListQuery): Promise<ListAnswer & { away?: string[] }>;
  /** Its number, where it has one. */
  figure?(visit: PlacedVisit, section: S): Promise<FigureTaken>;
}
