import type { AcceptedFinding } from '../core/definition/definition';
import type { PortalPromise } from '../core/definition/promise';
import { when } from './access';

/** The programme's own people work on all records, and reference tables are for reading. */
export const demoAccepted: AcceptedFinding[] = [
  ...[
    'owners',
    'labs',
    'lab_staff',
    'samplers',
    'staff',
    'wells',
    'visits',
    'samples',
    'results',
    'advisories',
    'test_requests',
    'doubts',
  ].map((table) => ({ finding: `open/${table}/desk`, reason: 'The desk works on all records of the programme.' })),
  ...['owners', 'wells', 'visits'].map((table) => ({
    finding: `open/${table}/accounts`,
    reason: 'Accounts bills every visit.',
  })),
  ...['well_owner', 'lab_chemist', 'desk'].map((role) => ({
    finding: `open/analytes/${role}`,
    reason: 'A reference table without personal data.',
  })),
  ...['edit', 'create'].map((way) => ({
    finding: `written/owners/desk/email/${way}`,
    reason: 'The desk keeps the addresses of owners, and knows them.',
  })),
  ...['owners', 'wells', 'visits', 'samples', 'results', 'analytes'].map((table) => ({
    finding: `open/${table}/post`,
    reason: 'It writes to the owner of whichever well a result is of, and nobody signs in as it.',
  })),
  { finding: 'open/analytes/limits_office', reason: 'It keeps the limits of all that is looked for.' },
  { finding: 'open/samples/bottle_tracker', reason: 'It follows every bottle by its code.' },
  {
    finding: 'excepted/owners-birth_date/desk',
    reason: 'The desk tells two owners of one name apart by their dates of birth.',
  },
  { finding: 'excepted/owners-iban/desk', reason: 'The desk settles refunds with the owners.' },
];

export const demoPromises: PortalPromise[] = [
  { id: 'labs-know-no-owner', who: { role: 'lab_chemist' }, says: 'may never', operation: 'see', table: 'owners' },
  {
    id: 'desk-no-tax-number',
    who: { role: 'desk' },
    says: 'may never',
    operation: 'see',
    table: 'owners',
    column: 'tax_number',
  },
  {
    id: 'owners-approved-only',
    who: { role: 'well_owner' },
    says: 'may only',
    operation: 'see',
    table: 'results',
    where: when("state = 'approved'"),
  },
  {
    id: 'sampler-no-account',
    who: { role: 'sampler' },
    says: 'may never',
    operation: 'see',
    table: 'owners',
    column: 'iban',
  },
  {
    id: 'visitor-published-only',
    who: { role: 'public' },
    says: 'may only',
    operation: 'see',
    table: 'advisories',
    where: when('published = TRUE'),
  },
  {
    id: 'accounts-put-off',
    who: { everyone: true, exceptRoles: ['accounts'] },
    says: 'may never',
    operation: 'act',
    table: 'visits',
    step: 'put-off',
  },
  {
    id: 'no-owner-leaves',
    who: { everyone: true, exceptRoles: ['desk'] },
    says: 'may never',
    operation: 'export',
    table: 'owners',
  },
  {
    id: 'ines-three-wells',
    who: { member: 'ines.brannock@example.org' },
    says: 'sees exactly',
    records: 3,
    table: 'wells',
  },
];
