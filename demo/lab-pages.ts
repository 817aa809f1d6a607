import type { Page } from '../core/definition/definition';
import { page, people, when } from './page-parts';

/** What those at the labs get. */
export const labPages: Page[] = [
  page('lab-bottles', 'Bottles', 'Samples sent to your lab, newest first.', ['lab_chemist'], {
    table: 'samples',
    sort: 'received_at',
    newestFirst: true,
    columns: ['bottle_code', 'received_at', 'temperature_c', 'accepted', 'visit.well.postcode'],
    record: [
      'bottle_code',
      'received_at',
      'temperature_c',
      'accepted',
      'visit.planned_for',
      'visit.well.postcode',
      'visit.well.latitude',
      'visit.well.longitude',
    ],
  }),
  page('lab-results', 'Results', 'What your lab has found.', ['lab_chemist'], {
    table: 'results',
    tabs: [
      { id: 'all', name: 'All', where: 'every row' },
      { id: 'drafts', name: 'To submit', where: when("state = 'draft'") },
      { id: 'waiting', name: 'To be signed', where: when("state = 'submitted'") },
    ],
    acts: ['submit-result', 'sign-result', 'send-back-result'],
    columns: ['sample.bottle_code', 'analyte_code_record.name', 'value', 'unit', 'state'],
    record: [
      'sample.bottle_code',
      'analyte_code_record.name',
      'value',
      'unit',
      'analyte_code_record.limit_value',
      'below_detection',
      'state',
      'remark',
    ],
  }),
  {
    id: 'couriers',
    title: 'Couriers',
    intro: 'Who fetches bottles for your lab.',
    audience: { roles: ['lab_lead'] },
    sections: [people('couriers', 'lab-couriers')],
  },
  page('pick-ups', 'Pick-ups', 'Bottles to fetch, with where they are.', ['lab_courier'], {
    table: 'samples',
    sort: 'bottle_code',
    columns: ['bottle_code', 'visit.well.address', 'visit.well.postcode', 'handed_over_at', 'tracking_number'],
    acts: ['hand-over-bottle'],
    record: [
      'bottle_code',
      'visit.well.address',
      'visit.well.postcode',
      'temperature_c',
      'handed_over_at',
      'tracking_number',
    ],
  }),
];
