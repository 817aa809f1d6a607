import type { Action } from '../core/definition/action';
import type { Brought } from '../core/definition/brought';
import type { ImportPlan } from '../core/table/import-plan';
import type { OutsideAddress } from '../core/definition/outside-address';
import { when } from './page-parts';

/** Where the stand-ins listen that the demo calls: another place at each start. */
export interface DemoOutsideAt {
  tracker: string;
  receiver: string;
}

const nowhere: DemoOutsideAt = { tracker: 'https://bottles.example.org', receiver: 'https://desk.example.org' };

export const demoAddresses = ({ tracker, receiver } = nowhere): OutsideAddress[] => [
  { id: 'bottle-tracker', name: 'Bottle tracker', url: `${tracker}/hand-overs` },
  { id: 'lab-desk', name: 'Lab desk', url: `${receiver}/visits` },
  { id: 'limits', name: 'Office of limits', url: `${receiver}/limits.csv` },
];

/** What is brought each night: the limits of what is looked for in water. */
export const demoBrought: Brought[] = [
  {
    id: 'limits-nightly',
    name: 'Limits',
    address: 'limits',
    table: 'analytes',
    at: '02:30',
    role: 'limits_office',
    refused: 'hold',
  },
];

/** How the columns of that file go, as if somebody had brought it once by hand. */
export const demoMapping: ImportPlan = {
  table: 'analytes',
  columns: [
    { header: 'Code', column: 'code' },
    { header: 'At least', column: 'limit_low' },
    { header: 'At most', column: 'limit_value' },
  ],
  key: 'code',
  unknown: 'refuse',
  known: 'change',
  empty: 'clear',
};

/** What people of the demo do with records by a press. */
export const demoActions: Action[] = [
  {
    id: 'close-visit',
    name: 'Close visit',
    table: 'visits',
    roles: ['sampler'],
    where: when("state = 'planned' AND sampler_id = :member.samplers.id"),
    asks: [
      {
        id: 'planned_for',
        table: 'visits',
        column: 'planned_for',
        label: 'Sampled on',
        required: true,
        first: { kind: 'column', path: ['planned_for'] },
      },
      { id: 'seal_number', table: 'visits', column: 'seal_number', label: 'Number of the seal', required: true },
      { id: 'seal_photo', table: 'visits', column: 'seal_photo', label: 'Photo of the sealed bottles' },
    ],
    steps: [
      {
        kind: 'set',
        values: {
          planned_for: { kind: 'asked', ask: 'planned_for' },
          seal_number: { kind: 'asked', ask: 'seal_number' },
          seal_photo: { kind: 'asked', ask: 'seal_photo' },
        },
      },
      { kind: 'move', move: 'sample' },
    ],
    says: 'The visit is closed.',
  },
  {
    id: 'to-the-lab',
    name: 'Hand to the lab',
    table: 'visits',
    roles: ['sampler'],
    where: when("state = 'sampled'"),
    several: 'each by itself',
    asks: [],
    confirm: 'The lab has the bottles, and has signed for them?',
    steps: [
      { kind: 'move', move: 'hand-over' },
      {
        kind: 'call',
        address: 'lab-desk',
        values: {
          visit: { kind: 'this' },
          well: { kind: 'column', path: ['well', 'code'] },
          seal: { kind: 'column', path: ['seal_number'] },
        },
      },
    ],
  },
  {
    id: 'put-off',
    name: 'Put off by 14 days',
    table: 'visits',
    roles: ['accounts'],
    where: when("state IN ('asked', 'planned') AND planned_for IS NOT NULL"),
    several: 'each by itself',
    asks: [],
    steps: [
      {
        kind: 'set',
        values: {
          planned_for: { kind: 'shifted', of: { kind: 'column', path: ['planned_for'] }, count: 14, unit: 'DAY' },
        },
      },
    ],
  },
  {
    id: 'answer-request',
    name: 'Say that we come',
    table: 'test_requests',
    roles: ['desk'],
    asks: [
      {
        id: 'wished_for',
        table: 'test_requests',
        column: 'wished_for',
        label: 'The day',
        required: true,
        first: { kind: 'column', path: ['wished_for'] },
      },
    ],
    steps: [
      { kind: 'set', values: { wished_for: { kind: 'asked', ask: 'wished_for' } } },
      {
        kind: 'mail',
        mail: { to: 'column', path: ['email'] },
        subject: 'We come to your well in {{parish}}',
        text:
          'Hello {{name}},\n\nour sampler comes on **{{wished_for}}**, between eight and four.\n\n' +
          '{{presser}}, {{portal}}',
      },
    ],
    says: 'They are written to.',
  },
  {
    id: 'take-on',
    name: 'Take on',
    table: 'test_requests',
    roles: ['desk'],
    asks: [
      { id: 'code', table: 'wells', column: 'code', label: 'Code of the new well', required: true },
      { id: 'address', table: 'wells', column: 'address', required: true },
      { id: 'postcode', table: 'wells', column: 'postcode', required: true },
      { id: 'latitude', table: 'wells', column: 'latitude', required: true },
      { id: 'longitude', table: 'wells', column: 'longitude', required: true },
      { id: 'planned_for', table: 'visits', column: 'planned_for', label: 'First visit, not before' },
    ],
    steps: [
      {
        kind: 'make',
        table: 'owners',
        values: {
          name: { kind: 'column', path: ['name'] },
          email: { kind: 'column', path: ['email'] },
          phone: { kind: 'column', path: ['phone'] },
          parish: { kind: 'column', path: ['parish'] },
          postal_address: { kind: 'asked', ask: 'address' },
        },
      },
      {
        kind: 'make',
        table: 'wells',
        values: {
          owner_id: { kind: 'made', make: 0 },
          code: { kind: 'asked', ask: 'code' },
          address: { kind: 'asked', ask: 'address' },
          postcode: { kind: 'asked', ask: 'postcode' },
          parish: { kind: 'column', path: ['parish'] },
          latitude: { kind: 'asked', ask: 'latitude' },
          longitude: { kind: 'asked', ask: 'longitude' },
          state: { kind: 'text', text: 'active' },
        },
      },
      {
        kind: 'make',
        table: 'visits',
        values: {
          well_id: { kind: 'made', make: 1 },
          asked_on: { kind: 'clock', what: 'today' },
          planned_for: { kind: 'asked', ask: 'planned_for' },
          access_note: { kind: 'column', path: ['message'] },
        },
      },
      {
        kind: 'mail',
        mail: { to: 'column', path: ['email'] },
        subject: 'Your well is in the programme',
        text:
          'Hello {{name}},\n\nyour well in {{parish}} is in our programme, and we find a day for the first ' +
          'visit. You can sign in with this address.\n\n{{presser}}, {{portal}}',
      },
    ],
    says: 'Owner, well and first visit are there, and they are written to.',
  },
  {
    id: 'hand-over-bottle',
    name: 'Hand over',
    table: 'samples',
    roles: ['lab_courier'],
    where: when('handed_over_at IS NULL'),
    several: 'each by itself',
    asks: [
      {
        id: 'temperature_c',
        table: 'samples',
        column: 'temperature_c',
        label: 'Temperature in the box, °C',
        required: true,
      },
    ],
    steps: [
      {
        kind: 'set',
        values: {
          handed_over_at: { kind: 'clock', what: 'now' },
          temperature_c: { kind: 'asked', ask: 'temperature_c' },
        },
      },
      {
        kind: 'call',
        address: 'bottle-tracker',
        values: {
          bottle: { kind: 'column', path: ['bottle_code'] },
          'handed-over-at': { kind: 'column', path: ['handed_over_at'] },
          'temperature-c': { kind: 'column', path: ['temperature_c'] },
        },
        answers: { tracking_number: 'receipt.number' },
      },
    ],
    says: 'The lab has the bottle.',
  },
  {
    id: 'ask-for-visit',
    name: 'Ask for a visit',
    table: 'wells',
    roles: ['well_owner'],
    where: when("state = 'active'"),
    asks: [],
    steps: [{ kind: 'go', page: 'ask-visit', withRecord: true }],
  },
  {
    id: 'call-me',
    name: 'Be called by the desk',
    table: 'owners',
    roles: ['well_owner'],
    asks: [
      {
        id: 'phone',
        table: 'owners',
        column: 'phone',
        label: 'At this number',
        required: true,
        first: { kind: 'column', path: ['phone'] },
      },
    ],
    confirm: 'The desk calls within two working days. The number is kept with your details.',
    steps: [
      { kind: 'set', values: { phone: { kind: 'asked', ask: 'phone' } } },
      {
        kind: 'mail',
        mail: { to: 'role', role: 'desk' },
        subject: '{{name}} asks to be called',
        text: '{{name}}, {{parish}}, asks to be called at **{{phone}}**.\n\n{{portal}}',
      },
    ],
    says: 'The desk knows, and calls you.',
  },
  {
    id: 'submit-result',
    name: 'Submit',
    table: 'results',
    roles: ['lab_chemist'],
    where: when("state = 'draft'"),
    several: 'each by itself',
    asks: [],
    steps: [{ kind: 'move', move: 'submit' }],
    says: 'Submitted. Whoever leads your lab signs it.',
  },
  {
    id: 'sign-result',
    name: 'Sign',
    table: 'results',
    roles: ['lab_lead'],
    where: when("state = 'submitted'"),
    several: 'each by itself',
    asks: [],
    steps: [{ kind: 'move', move: 'sign' }],
    says: 'Signed. The owner of the well is written to.',
  },
  {
    id: 'send-back-result',
    name: 'Send back',
    table: 'results',
    roles: ['lab_lead'],
    where: when("state = 'submitted'"),
    several: 'each by itself',
    asks: [{ id: 'remark', table: 'results', column: 'remark', label: 'What is to be done', required: true }],
    steps: [
      { kind: 'set', values: { remark: { kind: 'asked', ask: 'remark' } } },
      { kind: 'move', move: 'send-back' },
    ],
    says: 'It is with the chemist again.',
  },
  {
    id: 'tell-owner',
    name: 'Tell the owner of a result',
    table: 'results',
    roles: ['post'],
    on: { what: 'moved', move: 'sign' },
    asks: [],
    steps: [
      {
        kind: 'mail',
        mail: { to: 'column', path: ['sample', 'visit', 'well', 'owner', 'email'] },
        subject: 'A result of your well {{sample.visit.well.code}}',
        text:
          'Hello {{sample.visit.well.owner.name}},\n\nthe lab has signed what it found of **' +
          '{{analyte_code_record.name}}** in the water of your well {{sample.visit.well.code}}. ' +
          'You find it under Results.\n\n{{portal}}',
      },
    ],
  },
];
