import type { Person } from '../../core/access/person';
import { parseCondition } from '../../core/condition/parse';
import type { Condition } from '../../core/condition/tree';
import { emptyDefinition, type MaskRule, type PortalDefinition } from '../../core/definition/definition';
import type { Action } from '../../core/definition/action';
import type { HandsOver } from '../../core/definition/steward';
import type { Catalogue } from '../../core/table/catalogue';
import { MariadbSource } from '../sources/mariadb';
import type { ListQuestion } from './read/list';
import type { Visit } from './view/visit';

/**
 * Two worlds that look the same through one view and differ in everything that it hides: hidden columns, what masks
 * cover, rows outside. Whatever the adversary asks, both must answer alike to the last byte, errors included; any
 * difference would be something learned.
 */
export interface World {
  source: MariadbSource;
  catalogue: Catalogue;
}

/** Per row of the view: name, and what may differ: e-mail, birth date, pin, salary, secret, tax number, score. */
export const secrets = [
  [
    ['Ada', 'ada.one@example.org', '1980-01-05', 'P-1177', '1250.00', 'likes fog', 'T1', 3],
    ['Bo', 'bo@example.org', '1975-06-01', 'P-2288', '1999.99', 'owes much', null, 9],
    ['Cy', 'cy@example.net', '1990-12-31', 'P-3399', '4000.00', 'is ill', 'T3', 5],
  ],
  [
    ['Ada', 'a@example.org', '1980-12-30', 'Q-9977', '1900.50', 'hates fog', null, 8],
    ['Bo', 'zz.top@example.org', '1975-01-01', 'A-0088', '1000.00', 'owes nothing', 'T9', 1],
    ['Cy', 'mm@example.net', '1990-02-01', 'Z-1199', '4999.00', 'is well', null, 7],
  ],
] as const;

export const when = (text: string): Condition => parseCondition(text).condition;

const masks: MaskRule[] = (
  [
    ['email', { style: 'e-mail', show: 'domain' }],
    ['birth', { style: 'year' }],
    ['pin', { style: 'keep last', count: 2 }],
    ['salary', { style: 'step', size: '1000' }],
    ['tax', { style: 'all' }],
  ] as const
).map(([column, mask]) => ({ id: column, table: 'clients', column, mask, to: 'everyone', exceptRoles: [] }));

export const handsOver: HandsOver = {
  id: 'hand',
  role: 'clerk',
  does: 'hand over',
  roster: 'clients',
  tables: [{ table: 'notes', column: 'client_id' }],
};

const press = { roles: ['clerk'], asks: [], several: 'each by itself' } satisfies Partial<Action>;

/** Actions that go by what the clerk doesn't see, and write it, or lead where they see nothing. */
export const actions: Action[] = [
  {
    ...press,
    id: 'rename',
    name: 'Rename',
    table: 'clients',
    where: when('score >= 0'),
    asks: [{ id: 'name', table: 'clients', column: 'name' }],
    steps: [{ kind: 'set', values: { name: { kind: 'asked', ask: 'name' }, secret: { kind: 'asked', ask: 'name' } } }],
  },
  ...['secret', 'email', 'tax', 'score'].map((column): Action => ({
    ...press,
    id: `copy-${column}`,
    name: `Copy ${column}`,
    table: 'clients',
    steps: [{ kind: 'set', values: { name: { kind: 'column', path: [column] } } }],
  })),
  // What leaves the house is what is shown to whoever presses, and what comes back goes where they may write.
  ...['name', 'secret', 'email', 'tax', 'score'].map((column): Action => ({
    ...press,
    id: `tell-${column}`,
    name: `Tell ${column}`,
    table: 'clients',
    asks: [{ id: 'client', table: 'notes', column: 'client_id' }],
    steps: [
      {
        kind: 'call',
        address: 'outside',
        values: {
          what: { kind: 'column', path: [column] },
          which: { kind: 'this' },
          given: { kind: 'asked', ask: 'client' },
        },
        answers: { [column]: 'back.value' },
      },
    ],
  })),
  ...['secret', 'tax'].map((column): Action => ({
    ...press,
    id: `write-${column}`,
    name: `Write ${column}`,
    table: 'clients',
    steps: [
      { kind: 'mail', mail: { to: 'column', path: ['email'] }, subject: `It is {{${column}}}`, text: `{{${column}}}` },
    ],
  })),
  {
    ...press,
    id: 'note',
    name: 'Note',
    table: 'clients',
    asks: [{ id: 'words', table: 'notes', column: 'words', required: true }],
    steps: [
      {
        kind: 'make',
        table: 'notes',
        values: { client_id: { kind: 'this' }, words: { kind: 'asked', ask: 'words' } },
        keepIn: when('client.tenant = 1'),
      },
    ],
  },
  {
    ...press,
    id: 'give',
    name: 'Give',
    table: 'notes',
    asks: [{ id: 'client', table: 'notes', column: 'client_id' }],
    steps: [{ kind: 'set', values: { client_id: { kind: 'asked', ask: 'client' } } }],
  },
  {
    ...press,
    id: 'hide',
    name: 'Hide',
    table: 'notes',
    keepIn: 'every row',
    steps: [
      {
        kind: 'set',
        values: { visible: { kind: 'boolean', value: false }, words: { kind: 'column', path: ['client', 'name'] } },
      },
    ],
  },
  {
    ...press,
    id: 'spy',
    name: 'Spy',
    table: 'notes',
    steps: [{ kind: 'set', values: { words: { kind: 'column', path: ['client', 'secret'] } } }],
  },
];

export const definition: PortalDefinition = {
  ...emptyDefinition({ slug: 'adversary', name: 'Adversary', timeZone: 'UTC', colour: '#1f5f85' }, 'adversary'),
  roles: [{ id: 'clerk', name: 'Clerk' }],
  rosters: [{ table: 'clients', name: 'name', email: 'email', role: 'clerk' }],
  stewards: [handsOver],
  actions,
  addresses: [{ id: 'outside', name: 'Outside', url: 'https://outside.example.org/' }],
  masks,
  access: {
    clients: {
      clerk: {
        see: { where: when('tenant = 1'), columns: ['id', 'name', 'email', 'birth', 'pin', 'salary', 'tax'] },
        create: { columns: ['name'] },
        edit: { where: when('score >= 0'), columns: ['name', 'email', 'secret'], keepIn: 'every row' },
        delete: { where: when('tenant = 1') },
        export: { where: 'as seen' },
        comments: { forAll: ['write'] },
      },
    },
    badges: {
      clerk: {
        see: { where: 'every row', columns: ['id', 'client_slot', 'colour'] },
        edit: { where: 'every row', columns: ['client_slot'] },
        create: { columns: ['id', 'client_slot'] },
        export: { where: 'as seen' },
      },
    },
    notes: {
      clerk: {
        see: { where: when('client.tenant = 1 AND visible = TRUE'), columns: ['id', 'client_id', 'words'] },
        create: { columns: ['client_id', 'words'] },
        edit: { where: 'as seen', columns: ['words', 'client_id'] },
        delete: { where: 'as seen' },
        export: { where: 'as seen' },
        comments: { forAll: ['write', 'delete own'] },
      },
    },
  },
};

export const clerk: Person = {
  kind: 'member',
  id: 1,
  email: 'clerk@example.org',
  organisation: null,
  roles: ['clerk'],
  rows: {},
};

export const columnsOf = {
  clients: ['id', 'name', 'email', 'birth', 'pin', 'salary', 'secret', 'tax', 'score', 'tenant', 'slot', 'none'],
  badges: ['id', 'client_slot', 'colour', 'none'],
  notes: ['id', 'client_id', 'words', 'rating', 'visible', 'none'],
  logs: ['id', 'client_id', 'line'],
  none: ['id'],
};

export type TableName = keyof typeof columnsOf;

export const tables = Object.keys(columnsOf) as TableName[];

export const guesses = [
  "'ada.one@example.org'",
  "'a@example.org'",
  "'1980-01-05'",
  "'P-1177'",
  '1500',
  '1999.99',
  "'likes fog'",
  "'T1'",
  '5',
  '2',
  '1980',
  'TRUE',
  "'outside'",
  "'••••'",
];

/** Every way of asking about a column, here, along relations, and of related records. */
export const asking: Condition[] = [];

export const question: ListQuestion = {
  columns: [],
  sort: [],
  where: [],
  search: '',
  after: null,
  before: null,
  size: 3,
};

export const everyPath = (table: TableName) =>
  [
    ...columnsOf[table],
    ...(table === 'badges' ? ['client_slot_record.name', 'client_slot_record.id', 'client_slot_record.secret'] : []),
    ...(table === 'notes' ? columnsOf.clients.map((column) => `client.${column}`) : []),
  ].map((path) => path.split('.'));

export type Attempt = [name: string, run: (world: World, visit: Visit) => Promise<unknown>];
