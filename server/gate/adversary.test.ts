import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { freshSchema } from '../../test/tables';
import type { Person } from '../../core/access/person';
import { parseCondition } from '../../core/condition/parse';
import type { Condition } from '../../core/condition/tree';
import { emptyDefinition, type MaskRule, type PortalDefinition } from '../../core/definition/definition';
import type { Catalogue } from '../../core/table/catalogue';
import { MariadbSource } from '../sources/mariadb';
import { bring } from './import/bring';
import { create } from './write/create';
import { edit } from './write/edit';
import { SomeRefused } from './view/errors';
import { exportRows } from './read/export';
import { figures, measures, type FigureQuestion } from './read/figures';
import { count, list, page, type ListQuestion } from './read/list';
import { lookup } from './read/lookup';
import { read } from './read/read';
import { related } from './read/related';
import { remove } from './write/remove';
import { several } from './write/several';
import type { Visit } from './view/visit';

/**
 * Two worlds that look the same through one view and differ in everything that it hides: hidden columns, what masks
 * cover, rows outside. Whatever the adversary asks, both must answer alike to the last byte, errors included; any
 * difference would be something learned.
 */
interface World {
  source: MariadbSource;
  catalogue: Catalogue;
}

const worlds: World[] = [];
const connections: Connection[] = [];
const schemas = ['adversary', 'adversary_twin'];

/** Per row of the view: name, and what may differ: e-mail, birth date, pin, salary, secret, tax number, score. */
const secrets = [
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

beforeAll(async () => {
  for (const [world, schema] of schemas.entries()) {
    const plain = await freshSchema(inject('database'), schema);
    connections.push(plain);
    await plain.query(
      'CREATE TABLE clients (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL, email VARCHAR(80), ' +
        'birth DATE, pin VARCHAR(20) UNIQUE, salary DECIMAL(10,2), secret VARCHAR(40), tax VARCHAR(20), score ' +
        'INT, tenant INT NOT NULL DEFAULT 1, slot INT UNIQUE) AUTO_INCREMENT = 500',
    );
    // Who wears which badge is told by a column that is hidden: a relation that ends in it must not give it away.
    await plain.query(
      'CREATE TABLE badges (id INT PRIMARY KEY, client_slot INT NULL, colour VARCHAR(20), FOREIGN KEY ' +
        '(client_slot) REFERENCES clients (slot))',
    );
    await plain.query(
      'CREATE TABLE notes (id INT AUTO_INCREMENT PRIMARY KEY, client_id INT NULL, words VARCHAR(40), rating ' +
        'INT, visible BOOLEAN NOT NULL DEFAULT TRUE, FOREIGN KEY (client_id) REFERENCES clients (id)) ' +
        'AUTO_INCREMENT = 500',
    );
    await plain.query(
      'CREATE TABLE logs (id INT PRIMARY KEY, client_id INT NULL, line VARCHAR(40), FOREIGN KEY (client_id) ' +
        'REFERENCES clients (id))',
    );
    for (const [i, row] of secrets[world]!.entries())
      await plain.query('INSERT INTO clients VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, 1, ?)', [
        i + 1,
        ...row,
        1 + ((i + world) % 3),
      ]);
    // Outside of the view: other clients, their notes, notes that are not visible, and a table that is not granted.
    for (let i = 0; i < (world === 0 ? 2 : 5); i++)
      await plain.query('INSERT INTO clients VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, 2, ?)', [
        100 + i,
        `Out ${world}${i}`,
        `out${i}@example.com`,
        '2000-01-01',
        `O-${world}${i}`,
        10 * world,
        'outside',
        'T',
        world,
        10 + world * 10 + i,
      ]);
    for (let i = 1; i <= 6; i++)
      await plain.query('INSERT INTO notes VALUES (?, ?, ?, ?, TRUE)', [
        i,
        1 + (i % 3),
        `note ${i}`,
        world === 0 ? i : 10 - i,
      ]);
    for (let i = 0; i < 3; i++)
      await plain.query('INSERT INTO notes VALUES (?, ?, ?, ?, FALSE)', [
        50 + i,
        world === 0 ? 1 : 2,
        `unseen ${world}`,
        7,
      ]);
    await plain.query("INSERT INTO notes VALUES (60, ?, 'of others', 1, TRUE)", [100 + world]);
    for (let i = 1; i <= 3; i++)
      await plain.query('INSERT INTO badges VALUES (?, ?, ?)', [i, i, ['red', 'green', 'blue'][i - 1]]);
    for (let i = 0; i < 1 + world; i++)
      await plain.query('INSERT INTO logs VALUES (?, ?, ?)', [i, 1 + world, `line ${world}`]);
    const source = new MariadbSource(inject('database'), schema);
    worlds.push({ source, catalogue: await source.catalogue() });
  }
});

afterAll(async () => {
  for (const world of worlds) await world.source.close();
  for (const connection of connections) await connection.end();
});

const when = (text: string): Condition => parseCondition(text).condition;

const masks: MaskRule[] = (
  [
    ['email', { style: 'e-mail', show: 'domain' }],
    ['birth', { style: 'year' }],
    ['pin', { style: 'keep last', count: 2 }],
    ['salary', { style: 'step', size: '1000' }],
    ['tax', { style: 'all' }],
  ] as const
).map(([column, mask]) => ({ id: column, table: 'clients', column, mask, to: 'everyone', exceptRoles: [] }));

const definition: PortalDefinition = {
  ...emptyDefinition({ slug: 'adversary', name: 'Adversary', timeZone: 'UTC', colour: '#1f5f85' }, 'adversary'),
  roles: [{ id: 'clerk', name: 'Clerk' }],
  masks,
  access: {
    clients: {
      clerk: {
        see: { where: when('tenant = 1'), columns: ['id', 'name', 'email', 'birth', 'pin', 'salary', 'tax'] },
        create: { columns: ['name'] },
        edit: { where: when('score >= 0'), columns: ['name', 'email', 'secret'], keepIn: 'every row' },
        delete: { where: when('tenant = 1') },
        export: { where: 'as seen' },
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
      },
    },
  },
};

const clerk: Person = {
  kind: 'member',
  id: 1,
  email: 'clerk@example.org',
  organisation: null,
  roles: ['clerk'],
  rows: {},
};

const columnsOf = {
  clients: ['id', 'name', 'email', 'birth', 'pin', 'salary', 'secret', 'tax', 'score', 'tenant', 'slot', 'none'],
  badges: ['id', 'client_slot', 'colour', 'none'],
  notes: ['id', 'client_id', 'words', 'rating', 'visible', 'none'],
  logs: ['id', 'client_id', 'line'],
  none: ['id'],
};

type TableName = keyof typeof columnsOf;

const tables = Object.keys(columnsOf) as TableName[];

const guesses = [
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
const asking: Condition[] = [];

for (const column of new Set([
  ...columnsOf.clients,
  ...columnsOf.notes,
  'client.secret',
  'client.email',
  'client.salary',
  'client.birth',
  'client.tenant',
  'client.score',
  'client_slot_record.name',
  'client_slot_record.id',
])) {
  for (const guess of guesses)
    asking.push(
      ...['=', '<>', '<', '>='].map((sign) => when(`${column} ${sign} ${guess}`)),
      when(`NOT (${column} = ${guess})`),
      when(`${column} IN (${guess}, 1)`),
    );
  asking.push(
    when(`${column} IS NULL`),
    when(`${column} LIKE 'a%'`),
    when(`${column} LIKE '%9%'`),
    when(`${column} = ${column === 'name' ? 'pin' : 'name'}`),
    when(`${column} BETWEEN 0 AND 1500`),
  );
}

for (const inside of [
  'notes.rating > 5',
  'notes.visible = FALSE',
  "notes.words LIKE 'unseen%'",
  "notes.client.secret = 'is ill'",
  'notes.client.score > 4',
  'notes.id > 40',
])
  asking.push(
    when(`EXISTS (notes WHERE ${inside})`),
    when(`NOT EXISTS (notes WHERE ${inside})`),
    when(`EXISTS (client.notes WHERE ${inside})`),
  );

asking.push(
  when("EXISTS (badges WHERE badges.colour = 'red')"),
  when('EXISTS (badges)'),
  when('EXISTS (client.badges WHERE badges.id = 2)'),
  when('EXISTS (notes)'),
  when('EXISTS (logs)'),
  when("EXISTS (logs WHERE logs.line = 'line 0')"),
  when('EXISTS (client.logs)'),
);

const question: ListQuestion = { columns: [], sort: [], where: [], search: '', after: null, before: null, size: 3 };

const everyPath = (table: TableName) =>
  [
    ...columnsOf[table],
    ...(table === 'badges' ? ['client_slot_record.name', 'client_slot_record.id', 'client_slot_record.secret'] : []),
    ...(table === 'notes' ? columnsOf.clients.map((column) => `client.${column}`) : []),
  ].map((path) => path.split('.'));

type Attempt = [name: string, run: (world: World, visit: Visit) => Promise<unknown>];

/** For each way into the gate, everything that the adversary tries there. */
const ways: Record<string, () => Attempt[]> = {
  list: () =>
    tables.flatMap((table): Attempt[] => [
      ...everyPath(table).flatMap((path): Attempt[] =>
        [true, false].map((descending) => [
          `sort ${table} by ${path.join('.')}`,
          ({ source }, visit) =>
            list(source, visit, table, { ...question, columns: everyPath(table), sort: [{ path, descending }] }),
        ]),
      ),
      ...asking.map((where, i): Attempt => [
        `filter ${table} ${i}`,
        ({ source }, visit) => list(source, visit, table, { ...question, columns: everyPath(table), where: [where] }),
      ]),
      ...['fog', 'ada', 'P-1', '9', 'T1', 'unseen', 'out', '%', '•'].map((search): Attempt => [
        `search ${table} for ${search}`,
        ({ source }, visit) => list(source, visit, table, { ...question, columns: everyPath(table), search }),
      ]),
      [
        `cursor into ${table}`,
        ({ source }, visit) =>
          list(source, visit, table, { ...question, after: Buffer.from('["99"]').toString('base64url') }),
      ],
    ]),
  page: () =>
    tables.flatMap((table) =>
      everyPath(table).map((path): Attempt => [
        `page of ${table} by ${path.join('.')}`,
        ({ source }, visit) =>
          page(source, visit, table, { ...question, columns: everyPath(table), sort: [{ path, descending: true }] }),
      ]),
    ),
  count: () =>
    tables.flatMap((table) =>
      asking.map((where, i): Attempt => [
        `count ${table} ${i}`,
        ({ source }, visit) => count(source, visit, table, [where]),
      ]),
    ),
  read: () =>
    tables.flatMap((table) =>
      ['1', '2', '3', '50', '60', '100', '104', '999', 'x'].map((id): Attempt => [
        `read ${table} ${id}`,
        ({ source }, visit) => read(source, visit, table, id, everyPath(table)),
      ]),
    ),
  figures: () =>
    tables.flatMap((table) =>
      everyPath(table).flatMap((path): Attempt[] => [
        ...measures.map((what): Attempt => [
          `${what} of ${table}.${path.join('.')}`,
          ({ source }, visit) => figures(source, visit, table, { measures: [{ what, path }], by: [], where: [] }),
        ]),
        ...([undefined, 'day', 'month', 'year'] as const).map((step): Attempt => [
          `${table} by ${path.join('.')} ${step}`,
          ({ source }, visit) =>
            figures(source, visit, table, {
              measures: [{ what: 'count' }],
              by: [{ path, step }],
              where: [],
            } satisfies FigureQuestion),
        ]),
        [
          `${table} where ${path.join('.')}`,
          ({ source }, visit) =>
            figures(source, visit, table, {
              measures: [{ what: 'count' }],
              by: [],
              where: [{ kind: 'null', left: { kind: 'column', path } }],
            }),
        ],
      ]),
    ),
  related: () =>
    tables.flatMap((table) =>
      ['notes', 'logs', 'badges', 'clients', 'none'].flatMap((relation) =>
        ['1', '2', '50', '100', '999'].map((id): Attempt => [
          `${relation} of ${table} ${id}`,
          ({ source }, visit) => related({ ...visit, source }, table, id, relation, () => question),
        ]),
      ),
    ),
  lookup: () =>
    tables.flatMap((table) =>
      ['client', 'client_slot_record', 'clients', 'none'].flatMap((relation) =>
        ['', 'fog', 'P-11', 'out'].map((search): Attempt => [
          `${table} ${relation} ${search}`,
          ({ source }, visit) => lookup({ ...visit, source }, table, relation, search, 9),
        ]),
      ),
    ),
  exportRows: () =>
    tables.flatMap((table) =>
      [null, ...everyPath(table)].map((path): Attempt => [
        `export ${table} by ${path?.join('.')}`,
        async ({ source }, visit) => {
          const pages: unknown[] = [];
          for await (const part of exportRows(source, visit, table, {
            columns: everyPath(table),
            sort: path ? [{ path, descending: true }] : [],
            where: path ? [{ kind: 'null', left: { kind: 'column', path } }] : [],
            search: '',
          }))
            pages.push(part);
          return pages;
        },
      ]),
    ),
  edit: () =>
    tables.flatMap((table) =>
      ['1', '2', '50', '60', '100', '999'].flatMap((id) =>
        columnsOf[table].flatMap((column) =>
          ['Ada', 'P-1177', 1, 11, 20, 100, 101, null].map((to): Attempt => [
            `edit ${table} ${id} ${column} ${to}`,
            ({ source }, visit) =>
              edit(
                source,
                visit,
                table,
                id,
                { [column]: { from: column === 'name' ? 'Ada' : null, to } },
                { trial: true },
              ),
          ]),
        ),
      ),
    ),
  create: () =>
    tables.flatMap((table) =>
      columnsOf[table].flatMap((column) =>
        ['Eve', 'P-1177', 'O-00', 1, 11, 20, 100, 101, null].map((value): Attempt => [
          `create ${table} ${column} ${value}`,
          ({ source }, visit) =>
            create(
              source,
              visit,
              table,
              table === 'clients' && column !== 'name' ? { name: 'Eve', [column]: value } : { [column]: value },
              { trial: true },
            ),
        ]),
      ),
    ),
  remove: () =>
    tables.flatMap((table) =>
      ['1', '4', '50', '60', '100', '999'].map((id): Attempt => [
        `delete ${table} ${id}`,
        ({ source }, visit) =>
          remove(source, visit, table, id, { pin: 'P-1177', email: 'ada.one@example.org' }, { trial: true }),
      ]),
    ),
  bring: () =>
    tables.flatMap((table) =>
      columnsOf[table].flatMap((key) =>
        [
          null,
          ...everyPath(table)
            .filter((path) => path.length === 2)
            .map((path) => path[1]!),
        ].map((by): Attempt => [
          `bring into ${table} by ${key} ${by}`,
          ({ source }, visit) =>
            bring(
              source,
              visit,
              {
                table,
                key: key === 'name' ? null : key,
                unknown: 'add',
                known: 'change',
                empty: 'keep',
                columns: [
                  { header: 'key', column: key },
                  { header: 'name', column: table === 'clients' ? 'name' : 'words' },
                  ...(table === 'notes' && by ? [{ header: 'whose', column: 'client_id', by }] : []),
                ],
              },
              async function* () {
                yield {
                  rows: ['1', 'P-1177', 'Ada', '100', 'T1', '11', 'ada.one@example.org'].map((value) => [
                    value,
                    'Ada',
                    value,
                  ]),
                  lines: [1, 2, 3, 4, 5, 6, 7],
                };
              },
              { write: null },
            ),
        ]),
      ),
    ),
  several: () =>
    tables.map((table): Attempt => [
      `several in ${table}`,
      ({ source }, visit) =>
        several(
          source,
          visit,
          table,
          [
            { create: { name: 'x' } },
            { edit: '100', changes: { name: { from: 'a', to: 'b' } } },
            { delete: '101' },
            { edit: '1', changes: { words: { from: null, to: 'b' }, secret: { from: null, to: 'b' } } },
          ],
          'each by itself',
          { trial: true },
        ),
    ]),
};

/** Entries that are not for members: each says for whom. */
const forBuilders: Record<string, string> = {
  why: 'shows raw values of the filters to builders',
  whyChange: 'the same of a change',
  whyCreate: 'the same of a new record',
  whyRemove: 'the same of deleting one',
  countCondition: 'counts for the builder beside the condition editor',
  rosterRows: 'draws members from rosters',
  rosterRow: "reads a member's own facts",
  rosterFacts: 'counts for findings',
  makeTable: 'makes tables for builders',
  suggestRelations: 'gives builders counts of values found',
  countByValue: 'the same across sources',
  countForPeople: 'counts for builders what a condition lets through',
  maskSamples: 'shows builders what a mask leaves',
  sideBySide: 'two persons for builders',
  dataFacts: 'gives builders counts',
  tryKey: 'tells builders whether columns tell records apart',
  brokenKeys: 'the same for findings',
  suggestClasses: 'gives builders counts of what values look like',
  rosterPeople: "draws all members' facts for comparing",
  ...Object.fromEntries(
    [
      'drawTable',
      'addColumn',
      'changeType',
      'renameColumn',
      'renameTable',
      'takeColumnAway',
      'takeTableAway',
      'beginScript',
      'listGone',
      'bringBack',
      'dropMakings',
      'missingIndexes',
      'makeIndex',
    ].map((name) => [name, 'shapes tables for builders']),
  ),
  savedTable: 'reads how a saved query looks',
  trySavedQuery: 'the same for builders',
  withSavedQueries: 'puts saved queries into the catalogue',
  compareDefinitions: 'change report for builders',
  testPromises: 'promises of builders',
};

/** What leads into another source: each is held against the same within one source in across.test.ts. */
const intoOtherSources = ['across', 'exportAcross', 'relatedTo', 'beyond', 'at', 'divide'];

/** Parts of the entries, used inside the gate alone. */
const inside = [
  'recordsByValue',
  'readPage',
  'readState',
  'isInView',
  'editIn',
  'createIn',
  'removeIn',
  'pageRows',
  'countOf',
  'insert',
  'readForWhy',
  'writing',
  'refuseForeignRelations',
  'refuseForeignCombinations',
  'underPolicy',
  'keeps',
  'matching',
  'writeTogether',
  'writeEach',
  'readRows',
  'dropTables',
  'tellsApart',
];

/** What the adversary learns: the attempts whose answers differ between the worlds. */
async function learned(attempts: Attempt[], asked: PortalDefinition): Promise<string[]> {
  const found: string[] = [];
  for (const [name, run] of attempts) {
    const answers: string[] = [];
    for (const world of worlds)
      answers.push(
        await answerOf(() =>
          run(world, {
            definition: asked,
            catalogue: world.catalogue,
            person: clerk,
            moment: new Date('2026-11-23T12:00:00Z'),
          }),
        ),
      );
    if (answers[0] !== answers[1]) found.push(`${name}: ${answers.join(' | ')}`);
  }
  return found;
}

async function answerOf(work: () => Promise<unknown>): Promise<string> {
  const say = (value: unknown): unknown =>
    value instanceof Error
      ? [
          value.constructor.name,
          value.message,
          (value as { fields?: unknown }).fields ?? null,
          value instanceof SomeRefused
            ? value.outcomes.map((outcome) => (outcome.done ? outcome : say(outcome.error)))
            : null,
        ]
      : value;
  try {
    return JSON.stringify(await work(), (_, value: unknown) => say(value));
  } catch (error) {
    // Only the gate's own answers may reach a person; anything else would be a fault of the server.
    if (
      !['NotFound', 'BadQuestion', 'InvalidValues', 'Refused', 'Conflict', 'SomeRefused'].includes(
        (error as Error).constructor.name,
      )
    )
      throw error;
    return JSON.stringify(say(error));
  }
}

describe('an adversary', () => {
  it('sees the same in both worlds to begin with', async () => {
    const [one, other] = await Promise.all(
      worlds.map((world) =>
        list(world.source, { definition, catalogue: world.catalogue, person: clerk, moment: new Date() }, 'clients', {
          ...question,
          size: 9,
          columns: everyPath('clients'),
        }),
      ),
    );
    expect(one).toEqual(other);
    expect(one!.records.map((record) => record.values)).toMatchObject([
      { name: 'Ada', email: '•••@example.org', birth: '1980', pin: '••••••77', salary: '1000–2000', tax: '••••' },
      { name: 'Bo' },
      { name: 'Cy' },
    ]);
  });

  for (const way of Object.keys(ways)) {
    it(`learns nothing by ${way}`, async () => {
      const attempts = ways[way]!();
      expect(attempts.length).toBeGreaterThan(3);
      expect(await learned(attempts, definition)).toEqual([]);
    });
  }

  it('would learn without the masks, the row filter or the hidden columns', async () => {
    const open = (change: (draft: PortalDefinition) => void) => {
      const draft = structuredClone(definition);
      change(draft);
      return draft;
    };
    const attempts = [...ways.list!(), ...ways.count!()];
    expect(
      (
        await learned(
          attempts,
          open((draft) => {
            draft.masks = draft.masks.filter((mask) => mask.id !== 'pin');
          }),
        )
      ).length,
    ).toBeGreaterThan(10);
    expect(
      (
        await learned(
          attempts,
          open((draft) => {
            draft.access.notes!.clerk!.see!.columns.push('rating');
          }),
        )
      ).length,
    ).toBeGreaterThan(10);
    expect(
      (
        await learned(
          attempts,
          open((draft) => {
            draft.access.clients!.clerk!.see!.where = 'every row';
          }),
        )
      ).length,
    ).toBeGreaterThan(10);
  });

  it('is tried on every way into the gate', () => {
    const folder = new URL('.', import.meta.url).pathname;
    const sources = readdirSync(folder, { recursive: true, encoding: 'utf8' })
      .filter((file) => file.endsWith('.ts') && !file.endsWith('.test.ts'))
      .map((file) => readFileSync(join(folder, file), 'utf8'));
    const entries = sources.flatMap((text) =>
      [
        ...text.matchAll(
          new RegExp(
            'export (?:async )?function\\*? (\\w+)[^{]*?\\(\\s*' +
              '(?:source: Source|runner: (?:Runner|Transaction)|visit: (?:PlacedVisit|V))\\b',
            'g',
          ),
        ),
      ].map((match) => match[1]!),
    );
    expect(entries.length).toBeGreaterThan(20);
    expect(
      entries.filter(
        (name) =>
          !(name in ways) && !(name in forBuilders) && !inside.includes(name) && !intoOtherSources.includes(name),
      ),
    ).toEqual([]);
    // What is a part only must not be reached from outside.
    const server = join(folder, '..');
    const outside = readdirSync(server, { recursive: true, encoding: 'utf8' })
      .filter((file) => file.endsWith('.ts') && !file.endsWith('.test.ts') && !file.startsWith('gate/'))
      .map((file) => readFileSync(join(server, file), 'utf8'));
    const imported = outside.flatMap((text) =>
      [...text.matchAll(/import \{([^}]*)\} from '(?:\.\.?\/)+gate\//g)].flatMap((match) =>
        match[1]!.split(',').map((each) => each.replace('type ', '').trim()),
      ),
    );
    expect(imported.filter((name) => inside.includes(name))).toEqual([]);
  });
});
