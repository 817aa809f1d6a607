import { hung } from '../../core/definition/hung';
import { bring } from './import/bring';
import { correct, createCorrectable } from './write/correct';
import { create } from './write/create';
import { edit } from './write/edit';
import { discussed } from './read/discussed';
import { exportLined, exportRows } from './read/export';
import { figures, measures, type FigureQuestion } from './read/figures';
import { count, list, page } from './read/list';
import { lookup } from './read/lookup';
import { read } from './read/read';
import { related } from './read/related';
import { remove } from './write/remove';
import { several } from './write/several';
import { countHandOver, handOver, takeBack } from './write/hand-over';
import { pastWays } from './adversary-past-ways.fixture';
import { actionWays } from './adversary-action-ways.fixture';
import { columnsOf, tables, asking, question, everyPath, handsOver, Attempt } from './adversary.fixture';

/** For each way into the gate, everything that the adversary tries there. */
export const ways: Record<string, () => Attempt[]> = {
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
  discussed: () =>
    tables.flatMap((table) =>
      ['1', '2', '3', '50', '60', '100', '104', '999', 'x'].flatMap((id) =>
        hung.map((what): Attempt => [
          `hang ${what} on ${table} ${id}`,
          async ({ source }, visit) => {
            const { keys, rights } = await discussed(source, visit, what, table, id);
            return { keys, writes: rights.writes };
          },
        ]),
      ),
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
  exportLined: () =>
    tables.map((table): Attempt => [
      `export ${table} as lines`,
      async ({ source }, visit) => {
        const pages: unknown[] = [];
        const question = { columns: everyPath(table), sort: [], where: [], search: '' };
        for await (const part of exportLined({ ...visit, source } as never, table, question, { guard: true }))
          pages.push(part);
        return pages;
      },
    ]),
  ...pastWays,
  ...actionWays,
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
  createCorrectable: () =>
    tables.flatMap((table) =>
      columnsOf[table].map((column): Attempt => [
        `send ${table} ${column}`,
        // What lets it be corrected stays with the server.
        async ({ source }, visit) =>
          (await createCorrectable(source, visit, table, { name: 'Eve', [column]: 'P-1177' }, { trial: true })).made,
      ]),
    ),
  correct: () =>
    tables.flatMap((table) =>
      ['1', '50', '100', '999'].flatMap((id) =>
        columnsOf[table].map((column): Attempt => [
          `correct ${table} ${id} ${column}`,
          ({ source }, visit) =>
            correct(source, visit, table, { id, role: 'clerk', standing: '' }, { [column]: 'P-1177' }, { trial: true }),
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
  countHandOver: () =>
    ['1', '2', '3', '100', '104', '999', 'x'].map((id): Attempt => [
      `count what ${id} has to hand over`,
      ({ source }, visit) => countHandOver(source, visit, handsOver, id),
    ]),
  handOver: () =>
    ['1', '2', '100', '999'].flatMap((from) =>
      ['1', '3', '100', '101', '999'].map((to): Attempt => [
        `hand over from ${from} to ${to}`,
        async ({ source }, visit) => {
          const done = await handOver(source, visit, handsOver, from, to, undefined, true);
          // The digest stays with the product.
          return done.map(({ digest: _digest, ...record }) => record);
        },
      ]),
    ),
  takeBack: () =>
    ['1', '50', '60', '999'].map((id): Attempt => [
      `take ${id} back`,
      ({ source }, visit) =>
        takeBack(source, visit, handsOver, [
          { table: 'notes', column: 'client_id', id, from: '1', to: '2', digest: 'guessed' },
        ]),
    ]),
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
export const forBuilders: Record<string, string> = {
  goneRecords: 'closes what was said of records that are gone, in the background',
  why: 'shows raw values of the filters to builders',
  whyChange: 'the same of a change',
  whyCreate: 'the same of a new record',
  whyRemove: 'the same of deleting one',
  countCondition: 'counts for the builder beside the condition editor',
  rosterRows: 'draws members from rosters',
  rosterRepeats: 'draws members from rosters',
  rosterApart: 'draws members from rosters',
  isRosterRead: 'draws members from rosters',
  rosterStanding: "reads members' own facts",
  RostersBeside: 'the same, beside their session',
  Assumed: 'the same again, within the statement of a list',
  rosterFacts: 'counts for findings',
  makeTable: 'makes tables for builders',
  suggestRelations: 'gives builders counts of values found',
  suggestCrossings: 'the same across sources',
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
      'createScriptTables',
      'putScriptRows',
      'relateLater',
      'keepScript',
      'dropScript',
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
  prove: 'tells builders counts and where answers differ, no values',
};

/** What leads into another source: each is held against the same within one source in across.test.ts. */
export const intoOtherSources = ['across', 'exportAcross', 'relatedTo', 'beyond', 'at', 'divide'];

/** What is given out beside the ways in: it reads no record. */
export const tellsNothing = [
  'BadQuestion',
  'InvalidValues',
  'NotFound',
  'Refused',
  'ScriptRowsRefused',
  'SomeRefused',
  'ViewSql',
  'isSortable',
  'openTable',
  'readSavedQuery',
  'recordId',
  'keptRow',
  'readPast',
  'keyOfRecord',
  'refuseTaken',
  'sayOutcome',
  'titleFurther',
  'titleOf',
  'viewSql',
];
