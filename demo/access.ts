import { parseCondition } from '../core/condition/parse';
import type {
  FieldRule,
  Fence,
  Grant,
  MaskRule,
  PortalDefinition,
  Role,
  Roster,
  RowFilter,
} from '../core/definition/definition';
import { alwaysTheirs, ownTalk, talkOfDesk } from './hung-grants';

export const when = (text: string) => parseCondition(text).condition;
const rows = (text: string): RowFilter => (text === '' ? 'every row' : when(text));

/** The rows that the condition holds for, every row when it is empty, and the columns seen. */
const see = (text: string, columns: string): Grant => ({ see: { where: rows(text), columns: columns.split(' ') } });

export const demoRoles: Role[] = [
  { id: 'well_owner', name: 'Well owner' },
  { id: 'sampler', name: 'Sampler' },
  { id: 'lab_chemist', name: 'Lab chemist' },
  { id: 'lab_courier', name: 'Lab courier' },
  { id: 'lab_lead', name: 'Lab lead' },
  { id: 'desk', name: 'Programme desk' },
  { id: 'accounts', name: 'Accounts' },
  { id: 'steward', name: 'Parish steward' },
  { id: 'public', name: 'Visitor', for: 'visitors' },
  { id: 'bottle_tracker', name: 'Bottle tracker', for: 'services' },
  { id: 'post', name: 'Post', for: 'services' },
  { id: 'limits_office', name: 'Office of limits', for: 'services' },
];

export const demoRosters: Roster[] = [
  { table: 'owners', name: 'name', email: 'email', role: 'well_owner' },
  { table: 'samplers', name: 'name', email: 'email', role: 'sampler' },
  {
    table: 'lab_staff',
    name: 'name',
    email: 'email',
    organisation: 'lab_id',
    roles: [
      { role: 'lab_chemist', where: when("kind = 'chemist'") },
      { role: 'lab_courier', where: when("kind = 'courier'") },
      { role: 'lab_lead', where: when("kind = 'chemist' AND leads = TRUE") },
    ],
  },
  {
    table: 'staff',
    name: 'name',
    email: 'email',
    roles: [
      { role: 'desk', where: when("duty = 'desk'") },
      { role: 'accounts', where: when("duty = 'accounts'") },
      { role: 'steward', where: when("duty = 'parish steward'") },
    ],
  },
];

const published = 'published = TRUE AND (valid_until IS NULL OR valid_until >= :today)';
const notice = 'parish title text valid_until';
const sentToMyLab = 'samples.lab_id = :member.lab_staff.lab_id';
export const myParish = ':member.staff.parish';

export function demoAccess(): PortalDefinition['access'] {
  return {
    owners: {
      well_owner: {
        ...see(
          'id = :member.owners.id',
          'id name email phone birth_date tax_number iban postal_address parish contact_by',
        ),
        edit: { where: 'as seen', columns: ['phone', 'postal_address', 'contact_by'] },
      },
      sampler: see('parish = :member.samplers.district', 'name phone parish'),
      desk: {
        ...see('', 'id name email phone birth_date iban postal_address parish contact_by'),
        create: { columns: ['name', 'email', 'phone', 'postal_address', 'parish', 'contact_by'] },
        edit: { where: 'as seen', columns: ['name', 'email', 'phone', 'postal_address', 'parish', 'contact_by'] },
      },
      accounts: see('', 'name iban'),
      post: see('', 'id name email'),
      steward: {
        ...see(`parish = ${myParish}`, 'id name email phone postal_address parish contact_by'),
        edit: { where: 'as seen', columns: ['phone', 'postal_address', 'contact_by'] },
      },
    },
    labs: {
      lab_chemist: see('id = :member.lab_staff.lab_id', 'name accreditation_number valid_until'),
      lab_courier: see('id = :member.lab_staff.lab_id', 'name'),
      desk: see('', 'id name accreditation_number valid_until'),
    },
    lab_staff: { desk: see('', 'id name email lab_id kind') },
    samplers: {
      desk: see('', 'id name email phone district active'),
      steward: see('active = TRUE', 'id name district'),
    },
    staff: { desk: see('', 'id name email duty parish') },
    wells: {
      well_owner: {
        ...see(
          'owner_id = :member.owners.id',
          'code owner_id address postcode parish depth_m casing drilled_on state treatment',
        ),
        edit: { where: 'as seen', columns: ['treatment'] },
        ...ownTalk,
        history: true,
      },
      sampler: see(
        'EXISTS (visits WHERE visits.sampler_id = :member.samplers.id OR visits.planned_by = :member.id)',
        'code owner_id address postcode parish depth_m state',
      ),
      lab_chemist: see(
        `EXISTS (visits WHERE EXISTS (visits.samples WHERE ${sentToMyLab}))`,
        'postcode latitude longitude',
      ),
      lab_courier: see(`EXISTS (visits WHERE EXISTS (visits.samples WHERE ${sentToMyLab}))`, 'address postcode'),
      desk: {
        ...see(
          '',
          'id code owner_id address postcode parish latitude longitude depth_m casing drilled_on state treatment photo',
        ),
        create: {
          columns: [
            'code',
            'owner_id',
            'address',
            'postcode',
            'parish',
            'latitude',
            'longitude',
            'depth_m',
            'casing',
            'drilled_on',
            'state',
            'treatment',
          ],
        },
        edit: {
          where: 'as seen',
          columns: [
            'owner_id',
            'address',
            'postcode',
            'parish',
            'latitude',
            'longitude',
            'depth_m',
            'casing',
            'drilled_on',
            'state',
            'treatment',
          ],
        },
        ...talkOfDesk,
        history: true,
      },
      accounts: see('', 'code owner_id'),
      post: see('', 'id code owner_id'),
      steward: see(`parish = ${myParish}`, 'id code owner_id address postcode parish state'),
    },
    visits: {
      well_owner: {
        ...see('well.owner_id = :member.owners.id', 'well_id asked_on planned_for state access_note fee paid'),
        create: { columns: ['well_id', 'asked_on', 'planned_for', 'access_note'] },
        edit: {
          where: when("well.owner_id = :member.owners.id AND state IN ('asked', 'planned')"),
          columns: ['access_note'],
        },
        ...ownTalk,
      },
      sampler: {
        ...see(
          'sampler_id = :member.samplers.id OR planned_by = :member.id',
          'well_id sampler_id planned_by asked_on planned_for state access_note seal_number seal_photo',
        ),
        edit: { where: 'as seen', columns: ['planned_for', 'access_note', 'seal_number'] },
        // Whoever goes there next must know of the gate and the dog.
        ...alwaysTheirs,
      },
      lab_chemist: see('EXISTS (samples WHERE samples.lab_id = :member.lab_staff.lab_id)', 'well_id planned_for'),
      lab_courier: see('EXISTS (samples WHERE samples.lab_id = :member.lab_staff.lab_id)', 'well_id'),
      desk: {
        ...see(
          '',
          'id well_id sampler_id planned_by asked_on planned_for state access_note seal_number fee paid seal_photo',
        ),
        create: { columns: ['well_id', 'sampler_id', 'asked_on', 'planned_for', 'access_note', 'fee'] },
        edit: { where: 'as seen', columns: ['sampler_id', 'asked_on', 'planned_for', 'access_note', 'fee', 'paid'] },
        export: { where: 'as seen' },
        ...talkOfDesk,
      },
      accounts: {
        ...see('', 'well_id planned_for state fee paid'),
        edit: { where: 'as seen', columns: ['fee', 'paid'] },
        export: { where: 'as seen' },
      },
      post: see('', 'id well_id'),
      steward: {
        ...see(`well.parish = ${myParish}`, 'id well_id sampler_id asked_on planned_for state'),
        create: {
          columns: ['well_id', 'sampler_id', 'asked_on', 'planned_for'],
          keepIn: when(`well.parish = ${myParish}`),
        },
      },
    },
    samples: {
      well_owner: see('visit.well.owner_id = :member.owners.id', 'visit_id bottle_code received_at'),
      sampler: see('visit.sampler_id = :member.samplers.id', 'visit_id bottle_code received_at accepted'),
      lab_chemist: {
        ...see('lab_id = :member.lab_staff.lab_id', 'id visit_id bottle_code received_at temperature_c accepted'),
        edit: { where: 'as seen', columns: ['received_at', 'temperature_c', 'accepted'] },
      },
      lab_courier: see(
        'lab_id = :member.lab_staff.lab_id',
        'visit_id bottle_code temperature_c handed_over_at tracking_number',
      ),
      desk: see('', 'id visit_id bottle_code lab_id received_at temperature_c accepted'),
      bottle_tracker: see('', 'bottle_code lab_id received_at'),
      post: see('', 'id visit_id bottle_code'),
    },
    results: {
      well_owner: see(
        "state = 'approved' AND sample.visit.well.owner_id = :member.owners.id",
        'sample_id analyte_code value unit below_detection',
      ),
      lab_chemist: {
        ...see(
          'sample.lab_id = :member.lab_staff.lab_id',
          'sample_id analyte_code value unit below_detection state remark',
        ),
        create: { columns: ['sample_id', 'analyte_code', 'value', 'unit', 'below_detection', 'remark'] },
        edit: {
          where: when("sample.lab_id = :member.lab_staff.lab_id AND state = 'draft'"),
          columns: ['value', 'unit', 'below_detection', 'remark'],
        },
      },
      lab_lead: {
        ...see(
          'sample.lab_id = :member.lab_staff.lab_id',
          'sample_id analyte_code value unit below_detection state remark',
        ),
        edit: {
          where: when("sample.lab_id = :member.lab_staff.lab_id AND state = 'submitted'"),
          columns: ['remark'],
        },
      },
      desk: see('', 'id sample_id analyte_code value unit below_detection state remark'),
      post: see('', 'id sample_id analyte_code state'),
    },
    analytes: {
      ...Object.fromEntries(
        ['well_owner', 'lab_chemist', 'desk'].map((role) => [
          role,
          see('', 'code name unit limit_low limit_value limit_kind'),
        ]),
      ),
      limits_office: {
        ...see('', 'code name unit limit_low limit_value'),
        edit: { where: 'as seen', columns: ['limit_low', 'limit_value'] },
      },
      post: see('', 'code name'),
    },
    advisories: {
      well_owner: see(published, notice),
      sampler: see(published, notice),
      steward: see(published, notice),
      public: see(published, notice),
      desk: {
        ...see('', `id ${notice} published`),
        create: { columns: `${notice} published`.split(' ') },
        edit: { where: 'as seen', columns: `${notice} published`.split(' ') },
        delete: { where: 'as seen' },
      },
    },
    test_requests: {
      public: { create: { columns: ['name', 'email', 'phone', 'parish', 'message', 'wished_for'] } },
      desk: { ...see('', 'id name email phone parish message wished_for'), delete: { where: 'as seen' } },
      steward: see(`parish = ${myParish}`, 'id name parish message wished_for'),
    },
    doubts: {
      public: { create: { columns: ['parish', 'what', 'words'] } },
      well_owner: { create: { columns: ['parish', 'what', 'words'] } },
      desk: { ...see('', 'id parish what words'), delete: { where: 'as seen' } },
    },
  };
}

export const demoMasks: MaskRule[] = [
  {
    id: 'owners-tax_number',
    table: 'owners',
    column: 'tax_number',
    mask: { style: 'keep last', count: 3 },
    to: 'everyone',
    exceptRoles: [],
  },
  {
    id: 'owners-birth_date',
    table: 'owners',
    column: 'birth_date',
    mask: { style: 'year' },
    to: 'everyone',
    exceptRoles: ['desk'],
  },
  {
    id: 'owners-iban',
    table: 'owners',
    column: 'iban',
    mask: { style: 'keep last', count: 4 },
    to: 'everyone',
    exceptRoles: ['desk'],
  },
  {
    id: 'wells-postcode',
    table: 'wells',
    column: 'postcode',
    mask: { style: 'area', count: 3 },
    to: ['lab_chemist'],
    exceptRoles: [],
  },
  {
    id: 'coarse-place',
    dataClass: 'location',
    mask: { style: 'round', digits: 1 },
    to: ['lab_chemist'],
    exceptRoles: [],
  },
];

/** A lab's own records are its own, whatever a role of the labs is granted. */
export const demoFences: Fence[] = [
  {
    id: 'own-lab',
    table: 'samples',
    where: when('lab_id = :member.lab_staff.lab_id'),
    exceptRoles: ['well_owner', 'sampler', 'desk', 'bottle_tracker', 'post'],
  },
  { id: 'own-colleagues', table: 'lab_staff', where: when('lab_id = :member.lab_staff.lab_id'), exceptRoles: ['desk'] },
];

/** Whoever wants to be rung needs a number. */
export const demoOwnerRules: FieldRule[] = [
  {
    id: 'number-to-ring',
    does: 'required',
    columns: ['phone'],
    when: when("contact_by = 'phone'"),
    message: 'To be rung you need to give a number.',
  },
];
