import Joi from 'joi';
import type { CheckedSpec } from '../../core/check/section-findings';
import type { OnPage } from '../../core/definition/section-kinds';

/** Those who ask to come in, for whoever is to agree. */
export interface RequestsSection extends OnPage {
  kind: 'requests';
}

declare module '../../core/definition/section-kinds' {
  interface SectionKinds {
    requests: RequestsSection;
  }
}

export const spec: CheckedSpec<RequestsSection> = {
  schema: { kind: Joi.valid('requests').required() },
  asks: () => [],
  renamed: (section) => section,
  findings: (_section, page, _catalogue, { signUps = [] }) =>
    signUps.some(({ approver }) => approver !== undefined)
      ? []
      : [
          {
            id: `section-requests/${page.id}`,
            kind: 'section does not work',
            severity: 'broken',
            place: { stage: 'pages', page: page.id },
            title: `${page.title} has a place for requests, and no sign-up asks anybody to agree`,
            why: 'It would be empty for everybody. Name an approver of a sign-up under People, or remove it.',
          },
        ],
};
