import type { ListSection } from '../sections/list/spec';
import type { FigureSection } from '../sections/figure/spec';
import type { BringSection } from '../sections/bring/spec';
import type { HandOverSection } from '../sections/handover/spec';
import type { PeopleSection } from '../sections/people/spec';
import type { RequestsSection } from '../sections/requests/spec';
import type { TextSection } from '../sections/text/spec';
import { parseCondition } from '../core/condition/parse';
import type { Page, Sheet } from '../core/definition/definition';

const when = (text: string) => parseCondition(text).condition;

interface Listed {
  table: string;
  where?: string;
  sort?: string;
  newestFirst?: boolean;
  columns: string[];
  /** What a record shows that is opened from here. */
  record: string[];
}

/** How records look: as the first page has them that lists the table. */
export const demoSheets: Record<string, Sheet> = {};

function page(id: string, title: string, intro: string, roles: string[], listed: Listed, text?: string): Page {
  const { table, where, sort, newestFirst, columns, record } = listed;
  const sheet: Sheet = { columns: record };
  const known = (demoSheets[table] ??= sheet);
  const list: ListSection = {
    id: table,
    kind: 'list',
    table,
    columns,
    where: where === undefined ? 'every row' : when(where),
    sort: sort === undefined ? [] : [{ column: sort, descending: newestFirst === true }],
    ...(known === sheet ? {} : { sheet }),
  };
  const words: TextSection[] = text === undefined ? [] : [{ id: 'words', kind: 'text', text }];
  return { id, title, intro, audience: { roles }, sections: [list, ...words] };
}

/** With a way to bring the plan as a file. */
const planned = (of: Page): Page => ({
  ...of,
  sections: [{ id: 'plan', kind: 'bring', steward: 'weekly-plan' } satisfies BringSection, ...of.sections],
});

/** With a number before the list. */
const withFigure = (figure: FigureSection, of: Page): Page => ({ ...of, sections: [figure, ...of.sections] });

const people = (id: string, steward: string): PeopleSection => ({ id, kind: 'people', steward });

/** Each page keeps to what its title says: a person with two roles sees more of the tables than one page is about. */
export const demoPages: Page[] = [
  page('my-wells', 'My wells', 'The wells in your name. Tell us when the treatment changes.', ['well_owner'], {
    table: 'wells',
    where: 'owner_id = :member.owners.id',
    sort: 'code',
    columns: ['code', 'address', 'parish', 'depth_m', 'state', 'treatment'],
    record: ['code', 'address', 'postcode', 'parish', 'depth_m', 'casing', 'drilled_on', 'state', 'treatment'],
  }),
  withFigure(
    {
      id: 'to-pay',
      kind: 'figure',
      title: 'To pay',
      table: 'visits',
      measure: 'sum',
      column: 'fee',
      where: when('well.owner_id = :member.owners.id AND paid = FALSE'),
    },
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
  page(
    'my-details',
    'My details',
    'What we hold about you. Please keep it up to date.',
    ['well_owner'],
    {
      table: 'owners',
      where: 'id = :member.owners.id',
      columns: ['name', 'phone', 'postal_address', 'contact_by'],
      record: ['name', 'email', 'phone', 'contact_by', 'postal_address', 'parish', 'birth_date', 'tax_number', 'iban'],
    },
    '## How we write to you\n\nResults go to **{:member.owners.email}**. If letters to ' +
      '{:member.owners.postal_address} would not find you any more, open the line above and change the address.',
  ),
  page('my-results', 'Results', 'Results of your water, once they are approved.', ['well_owner'], {
    table: 'results',
    where: 'sample.visit.well.owner_id = :member.owners.id',
    columns: ['sample.bottle_code', 'analyte_code_record.name', 'value', 'unit', 'below_detection'],
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
  page('my-visits', 'My visits', 'Visits assigned to you or planned by you.', ['sampler'], {
    table: 'visits',
    where: 'sampler_id = :member.samplers.id OR planned_by = :member.id',
    sort: 'planned_for',
    newestFirst: true,
    columns: ['well.code', 'planned_for', 'well.parish', 'well.owner.name', 'state', 'seal_number'],
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
    columns: ['bottle_code', 'visit.well.address', 'visit.well.postcode'],
    record: ['bottle_code', 'visit.well.address', 'visit.well.postcode'],
  }),
  page('all-visits', 'All visits', 'Every visit of the programme.', ['desk'], {
    table: 'visits',
    sort: 'planned_for',
    newestFirst: true,
    columns: ['well.code', 'well.owner.name', 'planned_for', 'sampler.name', 'state', 'fee', 'paid'],
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
    record: ['name', 'email', 'phone', 'contact_by', 'postal_address', 'parish', 'birth_date', 'iban'],
  }),
  {
    id: 'leaving',
    title: 'Hand over visits',
    intro: 'When a sampler leaves or falls ill: all visits that are still to come go to a colleague.',
    audience: { roles: ['desk'] },
    sections: [{ id: 'visits', kind: 'handover', steward: 'visits-of-samplers' } satisfies HandOverSection],
  },
  {
    id: 'requests',
    title: 'Requests',
    intro: 'Well owners who ask to come in by a link of their parish.',
    audience: { roles: ['desk'] },
    sections: [{ id: 'requests', kind: 'requests' } satisfies RequestsSection],
  },
  page('fees', 'Fees', 'Fees of all visits, and what is paid.', ['accounts'], {
    table: 'visits',
    sort: 'planned_for',
    newestFirst: true,
    columns: ['well.code', 'well.owner.name', 'well.owner.iban', 'planned_for', 'fee', 'paid'],
    record: ['well.code', 'well.owner.name', 'well.owner.iban', 'planned_for', 'state', 'fee', 'paid'],
  }),
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
    },
  ),
];
