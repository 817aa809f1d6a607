import fc from 'fast-check';
import { Client } from 'pg';
import type { Connection } from 'mariadb';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { demoDefinition } from '../../demo/definition';
import { loadTables } from '../../demo/load';
import { loadDemoIntoPostgres } from '../../test/demo-in-postgres';
import { freshSchema } from '../../test/tables';
import type { MaskRule, PortalDefinition } from '../../core/definition/definition';
import { namedCatalogue } from '../../core/definition/sources';
import type { Catalogue } from '../../core/table/catalogue';
import { columnInfos, tableInfo } from '../columns/column-info';
import { SourceGone } from '../sources/gone';
import { MariadbSource } from '../sources/mariadb';
import { PostgresSource } from '../sources/postgres';
import type { RawRow } from '../sources/source';
import { across } from './view/across';
import type { PlacedVisit } from './view/visit';
import { exportAcross, exportRows } from './read/export';
import { list } from './read/list';
import { lookup } from './read/lookup';
import { related } from './read/related';
import { when, moment, everything, columns, masks, person, Policy, policies } from './across.fixture';
import { tries } from '../../test/thorough';

/**
 * One portal over one database, and the same portal with its wells and owners in another (PostgreSQL), reached by
 * value: whatever a person gets along a relation must be the same. The first is held against PostgreSQL's row security
 * elsewhere; here it is the yardstick.
 */
let plain: Connection;

let client: Client;

let own: { source: MariadbSource; catalogue: Catalogue };

let far: { source: PostgresSource; catalogue: Catalogue };

let asked = { own: 0, far: 0 };

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'across');
  await loadTables(inject('database'), 'across');
  const admin = new Client(inject('postgres'));
  await admin.connect();
  await admin.query('CREATE DATABASE across_far');
  await admin.end();
  client = new Client({ ...inject('postgres'), database: 'across_far' });
  await client.connect();
  await loadDemoIntoPostgres(client);
  const [here, there] = [
    new MariadbSource(inject('database'), 'across'),
    new PostgresSource({ ...inject('postgres'), database: 'across_far' }, 'public'),
  ];
  own = { source: here, catalogue: await here.catalogue() };
  far = {
    source: there,
    catalogue: { ...namedCatalogue(await there.catalogue(), 'fen'), rosters: own.catalogue.tables },
  };
  const counting = <S extends { rows: (text: never) => Promise<RawRow[]> }>(source: S, of: 'own' | 'far') => {
    const rows = source.rows.bind(source);
    source.rows = (text) => {
      asked[of]++;
      return rows(text);
    };
  };
  counting(here, 'own');
  counting(there, 'far');
});

afterAll(async () => {
  await Promise.all([own?.source.close(), far?.source.close(), client?.end(), plain?.end()]);
});

/**
 * The policy over one database, or with its wells and owners twice: also as `fen:wells` and `fen:owners` in the other.
 */
function definitionOf({ grants, masked }: Policy, divided: boolean): PortalDefinition {
  const access: PortalDefinition['access'] = {};
  const rules: MaskRule[] = [];
  for (const prefix of divided ? ['', 'fen:'] : ['']) {
    for (const [table, [one, two]] of Object.entries(grants))
      access[`${prefix}${table}`] = { ...(one ? { one } : {}), ...(two ? { two } : {}) };
    masked.forEach(({ table, column, role }, i) =>
      rules.push({
        id: `${prefix.slice(0, 3)}m${i}`,
        table: `${prefix}${table}`,
        column,
        mask: masks[column]!,
        to: [role],
        exceptRoles: [],
      }),
    );
  }
  return {
    ...demoDefinition('across'),
    access,
    masks: rules,
    roles: [
      { id: 'one', name: 'One' },
      { id: 'two', name: 'Two' },
    ],
    ...(divided ? { sources: { fen: { kind: 'postgresql', connection: 'fen', schema: 'public' } } } : {}),
    tables: divided
      ? {
          visits: { relations: [{ name: 'there', column: 'well_id', table: 'fen:wells', targetColumn: 'id' }] },
          wells: { relations: [{ name: 'there', column: 'owner_id', table: 'fen:owners', targetColumn: 'id' }] },
          'fen:wells': { relations: [{ name: 'back', column: 'owner_id', table: 'owners', targetColumn: 'id' }] },
        }
      : {},
  };
}

const visitOf = (policy: Policy, divided: boolean): PlacedVisit => ({
  definition: definitionOf(policy, divided),
  ...own,
  person,
  moment,
  standIn: null,
  ...(divided ? { elsewhere: async (name: string | null) => (name === null ? own : far) } : {}),
});

const pathsOf = (relation: string, rest: string, of: string[]) =>
  of.map((column) => [relation, ...(rest ? [rest] : []), column]);

/** Answers and refusals alike, with the names of the divided relations made the plain ones'. */
const told = async (ask: () => Promise<unknown>) =>
  JSON.parse(
    JSON.stringify(await ask().catch((error: unknown) => (error as Error).message))
      .replaceAll('there.back.', 'well.owner.')
      .replaceAll('"there.owner.', '"well.owner.')
      .replaceAll('"there.', '"well.'),
  ) as unknown;

/** Every way along a relation: plain names first, then across. */
const ways: [string, (visit: PlacedVisit, across: boolean) => Promise<unknown>][] = [
  [
    'columns of the record that it leads to',
    (visit, divided) => along(visit, pathsOf(divided ? 'there' : 'well', '', columns.wells)),
  ],
  [
    'columns two steps away, both there',
    (visit, divided) => along(visit, pathsOf(divided ? 'there' : 'well', 'owner', columns.owners)),
  ],
  [
    'columns two steps away, there and back',
    (visit, divided) => along(visit, pathsOf(divided ? 'there' : 'well', divided ? 'back' : 'owner', columns.owners)),
  ],
  [
    'an export',
    async (visit, divided) => {
      const paths = [['id'], ...pathsOf(divided ? 'there' : 'well', '', columns.wells)];
      const records: unknown[] = [];
      for await (const page of divided
        ? exportAcross(visit, 'visits', { columns: paths, sort: [], where: [], search: '' })
        : exportRows(visit.source, visit, 'visits', { columns: paths, sort: [], where: [], search: '' })) {
        for (const { cells, masked } of page.records.slice(0, 300))
          records.push(
            Object.fromEntries(
              page.columns.flatMap((path, i) =>
                cells[i] === undefined ? [] : [[path, masked.includes(i) ? ['masked', cells[i]] : cells[i]]],
              ),
            ),
          );
      }
      return records;
    },
  ],
  ['records to choose', (visit, divided) => lookup(visit, 'visits', divided ? 'there' : 'well', 'AF-00', 9)],
];

const along = async (visit: PlacedVisit, paths: string[][]) => {
  const { records } = await across(visit, 'visits', [['id'], ...paths], (some) =>
    list(visit.source, visit, 'visits', { ...everything, sort: [], columns: some }),
  );
  return records.map(({ id, values, masked }) => [id, Object.entries(values).toSorted(), masked.toSorted()]).toSorted();
};

describe('a relation into another source', () => {
  it.each(ways)('gives the same as one within a source: %s', async (_name, way) => {
    let filled = 0;
    await fc.assert(
      fc.asyncProperty(policies, async (policy) => {
        const expected = await told(() => way(visitOf(policy, false), false));
        expect(await told(() => way(visitOf(policy, true), true))).toEqual(expected);
        if (JSON.stringify(expected).includes('well') || JSON.stringify(expected).includes('label')) filled++;
      }),
      { numRuns: tries(10, 40), seed: 20261123 },
    );
    expect(filled).toBeGreaterThan(tries(2, 5));
  });

  it('tells of those columns of which the person sees something, and of no others than within a source', async () => {
    const infos = async (visit: PlacedVisit, relation: string) =>
      (
        await columnInfos(
          visit,
          'visits',
          pathsOf(relation, '', columns.wells).map((path) => path.join('.')),
        )
      ).map(({ path, veiled }) => `${path.split('.')[1]} ${veiled ? 'veiled' : 'whole'}`);
    await fc.assert(
      fc.asyncProperty(policies, async (policy) => {
        const visit = visitOf(policy, true);
        const known = await infos(visit, 'there');
        expect(await infos(visitOf(policy, false), 'well')).toEqual(expect.arrayContaining(known));
        const records = (await along(visit, pathsOf('there', '', columns.wells)).catch(() => [])) as [
          string,
          [string, unknown][],
          string[],
        ][];
        const seen = new Set(
          records.flatMap(([, values]) => values.map(([path]) => path)).filter((path) => path !== 'id'),
        );
        expect(known.map((each) => `there.${each.split(' ')[0]}`)).toEqual(expect.arrayContaining([...seen]));
      }),
      { numRuns: tries(10, 40), seed: 7 },
    );
  });

  it('gives the same related records', async () => {
    const policy: Policy = {
      grants: {
        visits: [{ see: { where: when("state <> 'cancelled'"), columns: columns.visits } }, null],
        wells: [{ see: { where: when("parish = 'Saltby'"), columns: ['id', 'code'] } }, null],
        owners: [null, null],
      },
      masked: [],
    };
    const [one, two] = [visitOf(policy, false), visitOf(policy, true)];
    const [saltby, other] = await Promise.all(
      ["parish = 'Saltby'", "parish <> 'Saltby'"].map(async (where) =>
        String(
          (
            await plain.query<unknown[][]>({
              rowsAsArray: true,
              sql: `SELECT MIN(w.id) FROM wells w JOIN visits v ON v.well_id = w.id WHERE ${where}`,
            })
          )[0]![0],
        ),
      ),
    );
    const ask = () => ({ ...everything, columns: [['id'], ['state'], ['fee']] });
    const expected = await related(one, 'wells', saltby!, 'visits', ask);
    expect(expected.total).toBeGreaterThan(0);
    expect(await related(two, 'wells', saltby!, 'visits', ask)).toEqual(expected);
    for (const relation of ['visits', 'nothing'])
      await expect(related(two, 'wells', relation === 'visits' ? other! : saltby!, relation, ask)).rejects.toThrow(
        'There is no such record',
      );
    // And from a well of this database to the visits of the other one, which point to it by value.
    const back: PlacedVisit = {
      ...two,
      definition: {
        ...two.definition,
        tables: {
          ...two.definition.tables,
          'fen:visits': { relations: [{ name: 'of', column: 'well_id', table: 'wells', targetColumn: 'id' }] },
        },
      },
      catalogue: { ...own.catalogue, tables: own.catalogue.tables.map((table) => ({ ...table, many: [] })) },
    };
    const there = await related(back, 'wells', saltby!, 'visits', ask);
    expect([there.total, there.records.map((record) => record.values)]).toEqual([
      expected.total,
      expected.records.map((record) => record.values),
    ]);
    await expect(related(back, 'wells', other!, 'visits', ask)).rejects.toThrow('There is no such record');
  });

  it('asks each source once a page, however many records there are', async () => {
    const all: Policy = {
      grants: {
        visits: [{ see: { where: 'every row', columns: columns.visits } }, null],
        wells: [{ see: { where: 'every row', columns: columns.wells } }, null],
        owners: [{ see: { where: 'every row', columns: columns.owners } }, null],
      },
      masked: [],
    };
    for (const size of [5, 200]) {
      asked = { own: 0, far: 0 };
      const visit = visitOf(all, true);
      const question = { ...everything, size };
      const page = await across(
        visit,
        'visits',
        [['id'], ['there', 'code'], ['there', 'owner', 'name'], ['there', 'back', 'name']],
        (some) => list(own.source, visit, 'visits', { ...question, columns: some }),
      );
      expect(
        page.records.every(
          (record) =>
            (record.values['there.back.name'] ?? null) === record.values['there.owner.name'] &&
            record.values['there.code'] !== undefined,
        ),
      ).toBe(true);
      expect(page.records).toHaveLength(size);
      // The page with its number, and the owners who stand here; there the wells with their owners.
      expect(asked).toEqual({ own: 2, far: 1 });
    }
    expect(
      (await tableInfo(visitOf(all, true), 'visits')).through
        .filter((column) => column.path.startsWith('there.'))
        .every((column) => column.asked === null && !column.sortable),
    ).toBe(true);
  });

  it('shows nothing of a source that is away, and goes on with the rest', async () => {
    const all: Policy = {
      grants: {
        visits: [{ see: { where: 'every row', columns: columns.visits } }, null],
        wells: [{ see: { where: 'every row', columns: columns.wells } }, null],
        owners: [null, null],
      },
      masked: [],
    };
    const visit: PlacedVisit = {
      ...visitOf(all, true),
      elsewhere: async (name) => {
        if (name === null) return own;
        throw new SourceGone('gone');
      },
    };
    const page = await across(visit, 'visits', [['state'], ['there', 'code']], (some) =>
      list(own.source, visit, 'visits', { ...everything, size: 3, columns: some }),
    );
    expect([page.records.map(({ values }) => Object.keys(values)), page.away]).toEqual([
      [['state'], ['state'], ['state']],
      ['there.code'],
    ]);
    expect(await columnInfos(visit, 'visits', ['there.code'])).toMatchObject([
      { path: 'there.code', label: 'There code', away: true, asked: null, sortable: false },
    ]);
    // Whoever has nothing of it granted is not told either, and what is taken out is whole or refused.
    const none = { ...visit, definition: { ...visit.definition, access: { visits: visit.definition.access.visits! } } };
    expect([
      (
        await across(none, 'visits', [['state'], ['there', 'code']], (some) =>
          list(own.source, none, 'visits', { ...everything, size: 3, columns: some }),
        )
      ).away,
      await columnInfos(none, 'visits', ['there.code']),
    ]).toEqual([undefined, []]);
    const taken = exportAcross(
      {
        ...visit,
        definition: {
          ...visit.definition,
          access: {
            ...visit.definition.access,
            visits: { one: { ...visit.definition.access.visits!.one, export: { where: 'as seen' } } },
          },
        },
      },
      'visits',
      { columns: [['id'], ['there', 'code']], sort: [], where: [], search: '' },
    );
    await expect(taken.next()).rejects.toThrow(SourceGone);
    await expect(lookup(visit, 'visits', 'there', '', 5)).rejects.toThrow(SourceGone);
  });
});
