import type { OnPage } from '../../core/definition/section-kinds';
import Joi from 'joi';
import { printOperand } from '../../core/condition/print';
import type { CheckedSpec } from '../../core/check/section-findings';
import { factsIn, factProblem } from './facts';

/** Words on a page, in Markdown, with what is known of whoever reads them. */
export interface TextSection extends OnPage {
  kind: 'text';
  /** Markdown (CommonMark 0.31); `{:member.owners.name}` stands for the reader's own value. */
  text: string;
}

declare module '../../core/definition/section-kinds' {
  interface SectionKinds {
    text: TextSection;
  }
}

export const spec: CheckedSpec<TextSection> = {
  schema: {
    kind: Joi.valid('text').required(),
    text: Joi.string().allow('').max(20_000).required(),
  },
  asks: () => [],
  renamed: (section, names) => ({
    ...section,
    text: factsIn(section.text).reduce((text, { written, fact }) => {
      const now = printOperand({ kind: 'member', fact: names.fact(fact) });
      return text.replaceAll(written, `{${now}}`);
    }, section.text),
  }),
  findings: (section, page, catalogue) =>
    factsIn(section.text).flatMap(({ written, fact }) => {
      const problem = factProblem(fact, catalogue);
      return problem === null
        ? []
        : [
            {
              id: `text/${page.id}/${section.id}/${fact.join('.')}`,
              kind: 'section does not work' as const,
              severity: 'broken' as const,
              place: { stage: 'pages' as const, page: page.id },
              title: `${page.title} says ${written}, and ${problem}`,
              why: 'Nothing stands in its place for anybody. Name another column of their roster, or take it out.',
            },
          ];
    }),
};
