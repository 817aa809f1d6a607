import { id } from '../../core/definition/name-schema';
import Joi from 'joi';
import type { CheckedSpec } from '../../core/check/section-findings';
import type { OnPage } from '../../core/definition/section-kinds';

/** A form, to be filled in and sent. */
export interface FormSection extends OnPage {
  kind: 'form';
  /** Its id among the portal's forms. */
  form: string;
}

declare module '../../core/definition/section-kinds' {
  interface SectionKinds {
    form: FormSection;
  }
}

export const spec: CheckedSpec<FormSection> = {
  schema: { kind: Joi.valid('form').required(), form: id.required() },
  asks: () => [],
  renamed: (section) => section,
  findings: ({ id: section, title, form }, page, _catalogue, { forms = [] }) =>
    forms.some((each) => each.id === form)
      ? []
      : [
          {
            id: `form/${page.id}/${section}`,
            kind: 'section does not work',
            severity: 'broken',
            place: { stage: 'pages', page: page.id },
            title: `${title ?? 'A form'} on ${page.title} is gone`,
            why: 'Its place is empty for everybody. Choose another form, or take the section off.',
          },
        ],
};
