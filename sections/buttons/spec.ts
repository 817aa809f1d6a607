import Joi from 'joi';
import type { CheckedSpec } from '../../core/check/section-findings';
import { label } from '../../core/definition/name-schema';
import { outsideAddress } from '../../core/face/face-schema';
import type { OnPage } from '../../core/definition/section-kinds';

/** Where a button leads: to a page of the portal, or to an address elsewhere. */
type ButtonTarget = { page: string } | { address: string };

export interface LinkButton {
  label: string;
  /** What it is for, said below its name. */
  words?: string;
  to: ButtonTarget;
}

/** Ways on from a page, each as a button. */
export interface ButtonsSection extends OnPage {
  kind: 'buttons';
  buttons: LinkButton[];
}

declare module '../../core/definition/section-kinds' {
  interface SectionKinds {
    buttons: ButtonsSection;
  }
}

export const spec: CheckedSpec<ButtonsSection> = {
  schema: {
    kind: Joi.valid('buttons').required(),
    buttons: Joi.array()
      .items(
        Joi.object({
          label: label.min(1).max(60).required(),
          words: label.min(1).max(200),
          to: Joi.alternatives()
            .try(
              Joi.object({ page: Joi.string().max(40).required() }),
              Joi.object({ address: outsideAddress.required() }),
            )
            .required(),
        }),
      )
      .max(12)
      .required(),
  },
  asks: () => [],
  renamed: (section) => section,
  findings: ({ id, title, buttons }, page, _catalogue, { pages }) => {
    const place = { stage: 'pages' as const, page: page.id };
    const called = `${title ?? 'Buttons'} on ${page.title}`;
    if (buttons.length === 0)
      return [
        {
          id: `buttons/${page.id}/${id}`,
          kind: 'section does not work',
          severity: 'broken',
          place,
          title: `${called} has no button yet`,
          why: 'Its place is empty for everybody. Add a button, or take the section off.',
        },
      ];
    return buttons.flatMap(({ label: word, to }, at) =>
      'page' in to && !pages.some((each) => each.id === to.page)
        ? [
            {
              id: `buttons/${page.id}/${id}/${at}`,
              kind: 'section does not work' as const,
              severity: 'broken' as const,
              place,
              title: `“${word}” on ${page.title} leads to a page that is gone`,
              why: 'Nobody gets the button. Choose another page for it, or take it out.',
            },
          ]
        : [],
    );
  },
};
