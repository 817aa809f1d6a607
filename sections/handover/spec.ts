import Joi from 'joi';
import { stewardGone, type CheckedSpec } from '../../core/check/section-findings';
import { id } from '../../core/definition/name-schema';
import type { OnPage } from '../../core/definition/section-kinds';

/** Where a steward gives records of one person to another. */
export interface HandOverSection extends OnPage {
  kind: 'handover';
  /** What the steward does, by its id. */
  steward: string;
}

declare module '../../core/definition/section-kinds' {
  interface SectionKinds {
    handover: HandOverSection;
  }
}

export const spec: CheckedSpec<HandOverSection> = {
  schema: { kind: Joi.valid('handover').required(), steward: id.required() },
  asks: () => [],
  renamed: (section) => section,
  findings: ({ steward }, page, _catalogue, definition) => stewardGone(definition, page, steward, 'hand over'),
};
