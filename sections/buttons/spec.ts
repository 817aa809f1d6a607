import Joi from 'joi';
import type { Finding } from '../../core/check/finding';
import type { CheckedSpec } from '../../core/check/section-findings';
import type { PortalDefinition } from '../../core/definition/definition';
import { label } from '../../core/definition/name-schema';
import { outsideAddress } from '../../core/face/face-schema';
import type { OnPage } from '../../core/definition/section-kinds';

/**
 * Where a button leads: to a page of the portal, or to an address elsewhere; or what it does: an action, with whoever
 * presses as the record, as the row of their roster.
 */
type ButtonTarget = { page: string } | { address: string } | { action: string };

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
              Joi.object({ action: Joi.string().max(40).required() }),
            )
            .required(),
        }),
      )
      .max(12)
      .required(),
  },
  asks: () => [],
  renamed: (section) => section,
  findings: ({ id, title, buttons }, page, _catalogue, definition) => {
    const broken = (at: string, words: string, why: string): Finding => ({
      id: `buttons/${page.id}/${id}${at}`,
      kind: 'section does not work',
      severity: 'broken',
      place: { stage: 'pages', page: page.id },
      title: words,
      why,
    });
    const called = `${title ?? 'Buttons'} on ${page.title}`;
    const isEmpty = 'Its place is empty for everybody. Add a button, or take the section off.';
    if (buttons.length === 0) return [broken('', `${called} has no button yet`, isEmpty)];
    return buttons.flatMap(({ label: word, to }, at) => {
      const fault = targetFault(definition, to);
      return fault ? [broken(`/${at}`, `“${word}” on ${page.title} ${fault.what}`, fault.why)] : [];
    });
  },
};

function targetFault(
  { pages, actions = [], rosters }: PortalDefinition,
  to: ButtonTarget,
): { what: string; why: string } | null {
  if ('address' in to) return null;
  if ('page' in to)
    return pages.some(({ id }) => id === to.page)
      ? null
      : {
          what: 'leads to a page that is gone',
          why: 'Nobody gets the button. Choose another page for it, or take it out.',
        };
  const action = actions.find(({ id }) => id === to.action);
  if (!action)
    return {
      what: 'does an action that is gone',
      why: 'Nobody gets the button. Choose another action for it, or take it out.',
    };
  if (action.on)
    return {
      what: 'does an action that is done by itself',
      why: 'It can’t be pressed, so nobody gets the button. Choose another action for it, or take it out.',
    };
  return rosters.some(({ table }) => table === action.table)
    ? null
    : {
        what: `does “${action.name}”, which is no action with people`,
        why: 'On a page an action is done with the row of whoever presses. Choose one of a roster’s table.',
      };
}
