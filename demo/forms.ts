import type { Form } from '../core/definition/form';
import type { Page } from '../core/definition/definition';
import type { FormSection } from '../sections/form/spec';
import { when } from './page-parts';

/** What is sent in the demo: by whoever comes, without signing in. */
export const demoForms: Form[] = [
  {
    id: 'test-request',
    title: 'Ask for a test',
    table: 'test_requests',
    steps: [
      {
        id: 'you',
        title: 'About you',
        across: 2,
        parts: [
          { kind: 'input', column: 'name', required: true },
          { kind: 'input', column: 'email', label: 'E-mail', required: true },
          { kind: 'input', column: 'phone', hint: 'If we may ring you to find a day' },
        ],
      },
      {
        id: 'well',
        title: 'Your well',
        parts: [
          { kind: 'input', column: 'parish', hint: 'Where the well is', required: true },
          { kind: 'input', column: 'message', label: 'What you would like to know of your water' },
        ],
      },
      {
        id: 'day',
        title: 'A day that suits you',
        when: when('phone IS NOT NULL'),
        parts: [
          { kind: 'words', text: 'We ring in the week before, and come between eight and four.' },
          { kind: 'input', column: 'wished_for', label: 'Not before' },
        ],
      },
    ],
    send: 'Ask for it',
    says: '**Thank you.** The desk writes to you within a week. Nothing is owed before a day is agreed.',
    corrects: true,
  },
  {
    id: 'ask-for-visit',
    title: 'Ask for a visit',
    table: 'visits',
    from: 'wells',
    steps: [
      {
        id: 'well',
        title: 'Your well',
        across: 2,
        parts: [
          { kind: 'fact', of: 'record', path: ['code'], label: 'The well' },
          { kind: 'fact', of: 'record', path: ['address'] },
          { kind: 'fact', of: 'member', path: ['owners', 'phone'], label: 'We ring you at' },
          { kind: 'fact', of: 'member', path: ['owners', 'contact_by'] },
          { kind: 'words', text: 'Is that not right any more? Change it under *My details* before you ask.' },
        ],
      },
      {
        id: 'treatment',
        title: 'Treatment',
        ofRecord: when(
          "'softener' IN treatment OR 'UV' IN treatment OR 'iron filter' IN treatment OR " +
            "'reverse osmosis' IN treatment OR 'chlorination' IN treatment",
        ),
        parts: [
          { kind: 'fact', of: 'record', path: ['treatment'], label: 'Installed at this well' },
          {
            kind: 'words',
            text: 'Leave it running. We take one bottle before it and one behind it, and need a tap at both places.',
          },
        ],
      },
      {
        id: 'day',
        title: 'The day',
        parts: [
          {
            kind: 'input',
            column: 'planned_for',
            label: 'A day that suits you',
            hint: 'The desk writes to you once a sampler is free.',
            first: { kind: 'shifted', of: { kind: 'clock', what: 'today' }, count: 14, unit: 'DAY' },
          },
          { kind: 'input', column: 'access_note', label: 'What our sampler should know' },
        ],
      },
    ],
    fills: { well_id: { kind: 'this' }, asked_on: { kind: 'clock', what: 'today' } },
    send: 'Ask for it',
    says: '**Thank you.** The desk writes to you once a day is found.',
  },
  {
    id: 'doubt',
    title: 'A doubtful well',
    table: 'doubts',
    anonymous: true,
    steps: [
      {
        id: 'what',
        title: 'What you know',
        parts: [
          { kind: 'input', column: 'parish', hint: 'Where the well is', required: true },
          { kind: 'input', column: 'what', required: true },
          { kind: 'input', column: 'words', required: true },
        ],
      },
    ],
    send: 'Tell it',
    says: '**Thank you.** The desk looks into it. Nobody can ask you back, so tell it again if you learn more.',
  },
];

/** For those whose wells are not in the programme yet. */
export const askForTest: Page = {
  id: 'ask',
  title: 'Ask for a test',
  intro: 'For wells that are not in the programme yet. Nobody has to sign in for it.',
  audience: { roles: ['public'] },
  icon: 'drop',
  sections: [{ id: 'form', kind: 'form', form: 'test-request' } satisfies FormSection],
};

/** From a well, with what is known of it. */
export const askVisit: Page = {
  id: 'ask-visit',
  title: 'Ask for a visit',
  intro: '',
  audience: { roles: ['well_owner'] },
  unlisted: true,
  sections: [{ id: 'form', kind: 'form', form: 'ask-for-visit' } satisfies FormSection],
};

/** Whoever knows of a well that may harm somebody says so, and nobody learns who it was. */
export const tellDoubt: Page = {
  id: 'doubt',
  title: 'A doubtful well',
  intro: 'Do you know of a well whose water may harm somebody? Tell us, without your name.',
  audience: { roles: ['public', 'well_owner'] },
  icon: 'place',
  sections: [{ id: 'form', kind: 'form', form: 'doubt' } satisfies FormSection],
};
