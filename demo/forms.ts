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
