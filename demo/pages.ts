import { askForTest, askVisit, tellDoubt } from './forms';
import { icons } from './icons';
import type { HandOverSection } from '../sections/handover/spec';
import type { RecordSection } from '../sections/record/spec';
import type { RequestsSection } from '../sections/requests/spec';
import type { TextSection } from '../sections/text/spec';
import type { LinkedList, Page } from '../core/definition/definition';
import { homePage } from './home-page';
import { labPages } from './lab-pages';
import { aboveLimit, when, page, planned, withNumbers, people, withWaysOn, demoSheets } from './page-parts';

export { demoSheets } from './page-parts';

const resultsIntro =
  'Results of your water, once they are approved. Limits are those of Directive (EU) 2020/2184, Annex I.';

/** Each page keeps to what its title says: a person with two roles sees more of the tables than one page is about. */
export const demoPages: Page[] = [
  homePage,
  withWaysOn(
    page('my-wells', 'My wells', 'The wells in your name. Tell us when the treatment changes.', ['well_owner'], {
      table: 'wells',
      where: 'owner_id = :member.owners.id',
      sort: 'code',
      columns: ['code', 'address', 'parish', 'depth_m', 'state', 'treatment'],
      record: ['code', 'address', 'postcode', 'parish', 'depth_m', 'casing', 'drilled_on', 'state', 'treatment'],
    }),
  ),
  withNumbers(
    [
      {
        id: 'to-pay',
        kind: 'figure',
        title: 'To pay',
        table: 'visits',
        measure: 'sum',
        column: 'fee',
        where: when('well.owner_id = :member.owners.id AND paid = FALSE'),
      },
    ],
    page(
      'visits',
      'Visits',
      'Visits to your wells, newest first. You can leave a note for the sampler.',
      ['well_owner'],
      {
        table: 'visits',
        where: 'well.owner_id = :member.owners.id',
        sort: 'planned_for',
        newestFirst: true,
        columns: ['well.code', 'planned_for', 'state', 'fee', 'paid'],
        record: ['well.code', 'well.address', 'asked_on', 'planned_for', 'state', 'access_note', 'fee', 'paid'],
      },
    ),
  ),
  {
    id: 'my-details',
    title: 'My details',
    intro: 'What we hold about you. Please keep it up to date.',
    audience: { roles: ['well_owner'] },
    sections: [
      { id: 'owners', kind: 'record', table: 'owners', where: when('id = :member.owners.id'), sort: [] },
      {
        id: 'words',
        kind: 'text',
        text:
          '## How we write to you\n\nResults go to **{:member.owners.email}**. If letters to ' +
          '{:member.owners.postal_address} would not find you any more, change the address above.',
      },
    ] satisfies [RecordSection, TextSection],
  },
  withNumbers(
    [
      {
        id: 'nitrate',
        kind: 'chart',
        title: 'Nitrate over the years, in mg/l',
        table: 'results',
        form: 'lines',
        measure: 'average',
        column: 'value',
        by: { column: 'sample.visit.planned_for', step: 'year' },
        series: { column: 'sample.visit.well.code' },
        where: when("sample.visit.well.owner_id = :member.owners.id AND analyte_code = 'NO3'"),
        line: { at: 50, label: 'Limit: 50 mg/l (Directive (EU) 2020/2184, Annex I)' },
      },
    ],
    page('my-results', 'Results', resultsIntro, ['well_owner'], {
      table: 'results',
      where: 'sample.visit.well.owner_id = :member.owners.id',
      columns: [
        'sample.visit.well.code',
        'analyte_code_record.name',
        'value',
        'unit',
        'analyte_code_record.limit_value',
        'sample.visit.planned_for',
      ],
      headings: {
        'sample.visit.well.code': 'Well',
        'analyte_code_record.name': 'Substance',
        value: 'Found',
        'analyte_code_record.limit_value': 'Limit',
        'sample.visit.planned_for': 'Sampled on',
      },
      marks: [aboveLimit],
      tabs: [
        { id: 'all', name: 'All', where: 'every row' },
        { id: 'above', name: 'Above the limit', where: when('value > analyte_code_record.limit_value') },
      ],
      record: [
        'sample.bottle_code',
        'sample.visit.well.code',
        'sample.visit.planned_for',
        'analyte_code_record.name',
        'value',
        'unit',
        'analyte_code_record.limit_value',
        'below_detection',
      ],
    }),
  ),
  page('my-visits', 'My visits', 'Visits assigned to you or planned by you.', ['sampler'], {
    table: 'visits',
    where: 'sampler_id = :member.samplers.id OR planned_by = :member.id',
    sort: 'planned_for',
    newestFirst: true,
    columns: ['well.code', 'planned_for', 'well.parish', 'well.owner.name', 'state', 'seal_number'],
    acts: ['close-visit'],
    group: 'planned_for',
    record: [
      'well.code',
      'well.address',
      'well.postcode',
      'well.owner.name',
      'well.owner.phone',
      'planned_for',
      'state',
      'access_note',
      'seal_number',
    ],
  }),
  ...labPages,
  page('all-visits', 'All visits', 'Every visit of the programme.', ['desk'], {
    table: 'visits',
    sort: 'planned_for',
    newestFirst: true,
    columns: ['well.code', 'well.owner.name', 'planned_for', 'sampler.name', 'state', 'fee', 'paid'],
    shares: ['desk'],
    inPlace: ['planned_for', 'fee', 'paid'],
    tabs: [
      { id: 'all', name: 'All', where: 'every row' },
      {
        id: 'asked',
        name: 'To plan',
        where: when("state = 'asked'"),
        sort: [{ column: 'asked_on', descending: false }],
      },
      {
        id: 'coming',
        name: 'Next seven days',
        where: when("state = 'planned' AND planned_for >= :today AND planned_for < :today + INTERVAL 7 DAY"),
        sort: [{ column: 'planned_for', descending: false }],
      },
      { id: 'unpaid', name: 'Reported, not paid', where: when("state = 'reported' AND paid = FALSE") },
    ],
    record: [
      'well.code',
      'well.address',
      'well.owner.name',
      'well.owner.phone',
      'sampler.name',
      'asked_on',
      'planned_for',
      'state',
      'access_note',
      'seal_number',
      'fee',
      'paid',
    ],
  }),
  page('all-owners', 'Owners', 'Everyone who owns a well.', ['desk'], {
    table: 'owners',
    sort: 'name',
    columns: ['name', 'email', 'phone', 'parish', 'contact_by'],
  }),
  page('all-wells', 'Wells', 'Every well of the programme, and what its owner says of it.', ['desk'], {
    table: 'wells',
    sort: 'code',
    columns: ['code', 'owner_id', 'address', 'parish', 'state'],
    record: ['code', 'owner_id', 'address', 'postcode', 'parish', 'depth_m', 'casing', 'state', 'treatment'],
  }),
  {
    id: 'glance',
    title: 'At a glance',
    intro: 'How the programme stands today.',
    audience: { roles: ['desk'] },
    sections: [
      {
        id: 'coming',
        width: 'half',
        kind: 'figure',
        title: 'Visits of the next seven days',
        table: 'visits',
        measure: 'count',
        where: when("state = 'planned' AND planned_for >= :today AND planned_for < :today + INTERVAL 7 DAY"),
        against: {
          label: 'in the seven days before',
          where: when('planned_for >= :today - INTERVAL 7 DAY AND planned_for < :today'),
        },
      },
      {
        id: 'waiting',
        width: 'half',
        kind: 'figure',
        title: 'Results to approve',
        table: 'results',
        measure: 'count',
        where: when("state = 'draft'"),
      },
      {
        id: 'quarters',
        kind: 'chart',
        title: 'Visits by quarter',
        table: 'visits',
        form: 'areas',
        measure: 'count',
        by: { column: 'planned_for', step: 'quarter' },
        series: { column: 'state' },
        where: 'every row',
      },
      {
        id: 'samplers',
        kind: 'chart',
        title: 'Visits by sampler',
        table: 'visits',
        form: 'bars',
        measure: 'count',
        by: { column: 'sampler.name' },
        where: when("state IN ('planned', 'sampled')"),
      },
    ],
  } satisfies Page,
  page('notices', 'Advisories to keep', 'What owners and samplers read, and what is to come.', ['desk'], {
    table: 'advisories',
    sort: 'valid_until',
    newestFirst: true,
    columns: ['parish', 'title', 'valid_until', 'published'],
    record: ['parish', 'title', 'text', 'valid_until', 'published'],
  }),
  {
    id: 'leaving',
    title: 'Hand over visits',
    intro: 'When a sampler leaves or falls ill: all visits that are still to come go to a colleague.',
    audience: { roles: ['desk'] },
    sections: [{ id: 'visits', kind: 'handover', steward: 'visits-of-samplers' } satisfies HandOverSection],
  },
  page('asked', 'Asked for a test', 'Who wants their well in the programme.', ['desk'], {
    table: 'test_requests',
    columns: ['name', 'parish', 'wished_for', 'message'],
    acts: ['answer-request', 'take-on'],
    record: ['name', 'email', 'phone', 'parish', 'wished_for', 'message'],
  }),
  page('doubts', 'Doubtful wells', 'What was told of wells without a name. Nobody can be asked back.', ['desk'], {
    table: 'doubts',
    columns: ['parish', 'what', 'words'],
    record: ['parish', 'what', 'words'],
  }),
  {
    id: 'requests',
    title: 'Requests',
    intro: 'Well owners who ask to come in by a link of their parish.',
    audience: { roles: ['desk'] },
    sections: [{ id: 'requests', kind: 'requests' } satisfies RequestsSection],
  },
  withNumbers(
    [
      {
        id: 'open',
        kind: 'figure',
        title: 'Still to be paid',
        table: 'visits',
        measure: 'sum',
        column: 'fee',
        where: when('paid = FALSE'),
        follows: 'visits',
      },
      {
        id: 'months',
        kind: 'chart',
        title: 'Fees by month',
        table: 'visits',
        form: 'bars',
        measure: 'sum',
        column: 'fee',
        by: { column: 'planned_for', step: 'month' },
        series: { column: 'paid' },
        where: 'every row',
        follows: 'visits',
      },
    ],
    page('fees', 'Fees', 'Fees of all visits, and what is paid.', ['accounts'], {
      table: 'visits',
      sort: 'planned_for',
      newestFirst: true,
      columns: ['well.code', 'well.owner.name', 'well.owner.iban', 'planned_for', 'fee', 'paid'],
      acts: ['put-off'],
      totals: ['fee'],
      record: ['well.code', 'well.owner.name', 'well.owner.iban', 'planned_for', 'state', 'fee', 'paid'],
    }),
  ),
  {
    id: 'parish',
    title: 'Owners of my parish',
    intro: 'Whom you look after.',
    audience: { roles: ['steward'] },
    sections: [people('owners', 'parish-owners')],
  },
  planned(
    page('week', 'The weekly plan', 'Visits in your parish.', ['steward'], {
      table: 'visits',
      sort: 'planned_for',
      newestFirst: true,
      columns: ['well.code', 'planned_for', 'sampler.name', 'state'],
      record: ['well.code', 'asked_on', 'planned_for', 'sampler.name', 'state'],
    }),
  ),
  page(
    'advisories',
    'Advisories',
    'What holds now for private wells in the county.',
    ['well_owner', 'sampler', 'steward', 'public'],
    {
      table: 'advisories',
      sort: 'valid_until',
      newestFirst: true,
      columns: ['parish', 'title', 'valid_until'],
      record: ['parish', 'title', 'text', 'valid_until'],
      opens: 'under',
    },
  ),
  askForTest,
  askVisit,
  tellDoubt,
];

for (const each of demoPages) {
  const icon = icons[each.id];
  if (icon) each.icon = icon;
}

/** What belongs to a record, below it, wherever it looks as every record of its table does. */
const linked: Record<string, LinkedList[]> = {
  owners: [{ table: 'wells', column: 'owner_id', columns: ['code', 'address', 'state'] }],
  wells: [
    {
      table: 'visits',
      column: 'well_id',
      columns: ['planned_for', 'state', 'fee'],
      figures: [
        { measure: 'sum', column: 'fee' },
        { measure: 'maximum', column: 'planned_for' },
      ],
    },
  ],
  visits: [{ table: 'samples', column: 'visit_id', columns: ['bottle_code', 'received_at', 'accepted'] }],
  samples: [{ table: 'results', column: 'sample_id', columns: ['analyte_code_record.name', 'value', 'unit'] }],
};
for (const [table, lists] of Object.entries(linked)) demoSheets[table]!.linked = lists;
// What can’t be changed of a well is often known better by whoever has it.
demoSheets.wells!.doubts = true;
