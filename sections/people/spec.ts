import Joi from 'joi';
import { stewardGone, type CheckedSpec } from '../../core/check/section-findings';
import { id } from '../../core/definition/name-schema';
import type { OnPage } from '../../core/definition/section-kinds';

/** Those whom a steward looks after, with what may be done for them. */
export interface PeopleSection extends OnPage {
  kind: 'people';
  /** What the steward does, by its id. */
  steward: string;
}

declare module '../../core/definition/section-kinds' {
  interface SectionKinds {
    people: PeopleSection;
  }
}

export const spec: CheckedSpec<PeopleSection> = {
  schema: { kind: Joi.valid('people').required(), steward: id.required() },
  asks: () => [],
  renamed: (section) => section,
  findings: ({ steward }, page, _catalogue, definition) => stewardGone(definition, page, steward, 'look after people'),
};
