import Joi from 'joi';
import { pagesFor } from '../../core/access/audience';
import { form, listOf, said } from '../../server/http/answers';
import type { SectionServe } from '../serve';
import type { ButtonsSection, LinkButton } from './spec';

export interface ButtonsTold {
  /** Those that lead somewhere for this person. */
  buttons: LinkButton[];
}

declare module '../serve' {
  interface SectionTold {
    buttons: ButtonsTold;
  }
}

export const serve: SectionServe<ButtonsSection, ButtonsTold> = {
  tell: (visit, { buttons }) => {
    const theirs = pagesFor(visit);
    return Promise.resolve({
      buttons: buttons.filter(({ to }) => !('page' in to) || theirs.some(({ id }) => id === to.page)),
    });
  },
  told: {
    buttons: listOf(
      form<LinkButton>({
        label: said,
        words: said.optional(),
        to: Joi.alternatives().try(
          form<{ page: string }>({ page: said }),
          form<{ address: string }>({ address: said }),
        ),
      }),
    ),
  },
};
