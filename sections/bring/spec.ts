import Joi from 'joi';
import { stewardGone, type CheckedSpec } from '../../core/check/section-findings';
import { id } from '../../core/definition/name-schema';
import type { OnPage } from '../../core/definition/section-kinds';

/** Where a steward brings files into the table that they keep, and takes it out. */
export interface BringSection extends OnPage {
  kind: 'bring';
  /** What the steward does, by its id. */
  steward: string;
}

declare module '../../core/definition/section-kinds' {
  interface SectionKinds {
    bring: BringSection;
  }
}

export const spec: CheckedSpec<BringSection> = {
  schema: { kind: Joi.valid('bring').required(), steward: id.required() },
  asks: () => [],
  renamed: (section) => section,
  findings: ({ steward }, page, _catalogue, definition) => stewardGone(definition, page, steward, 'keep a table'),
};
