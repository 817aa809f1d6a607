import { Client } from 'pg';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { loadTables } from '../../demo/load';
import { loadDemoIntoPostgres } from '../../test/demo-in-postgres';
import { freshSchema } from '../../test/tables';
import type { KnownPerson } from '../../core/access/people';
import type { Person } from '../../core/access/person';
import type { Catalogue } from '../../core/table/catalogue';
import { MariadbSource } from '../sources/mariadb';
import { PostgresSource } from '../sources/postgres';
import type { Source } from '../sources/source';
import { compareDefinitions } from './review/compare';
import { create } from './write/create';
import { edit } from './write/edit';
import { exportRows } from './read/export';
import { figures } from './read/figures';
import { list, type ListQuestion } from './read/list';
import { lookup } from './read/lookup';
import { testPromises } from './review/promises';
import { past } from './read/past';
import { read } from './read/read';
import { related } from './read/related';
import { remove } from './write/remove';
import { rosterFacts, rosterPeople } from './facts/roster';
import { several } from './write/several';
import type { Visit } from './view/visit';
import { why } from './review/why';
import { whyChange } from './review/why-write';
import { when, definition, people } from './both-databases.fixture';

/**
 * The demo's portal over MariaDB and over PostgreSQL: every way into the gate must give the same answers, errors
 * included.
 */
let plain: Connection;

let client: Client;

const sides: { source: Source; catalogue: Catalogue }[] = [];

const moment = new Date('2026-11-23T12:00:00Z');

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'both');
  await loadTables(inject('database'), 'both');
  const admin = new Client(inject('postgres'));
  await admin.connect();
  await admin.query('CREATE DATABASE both_databases');
  await admin.end();
  client = new Client({ ...inject('postgres'), database: 'both_databases' });
  await client.connect();
  await loadDemoIntoPostgres(client);
  for (const source of [
    new MariadbSource(inject('database'), 'both'),
    new PostgresSource({ ...inject('postgres'), database: 'both_databases' }, 'public'),
  ])
    sides.push({ source, catalogue: await source.catalogue() });
});

afterAll(async () => {
  await Promise.all([...sides.map((side) => side.source.close()), client?.end(), plain?.end()]);
});

const question: ListQuestion = { columns: [], sort: [], where: [], search: '', after: null, before: null, size: 40 };

const paths = (...names: string[]) => names.map((name) => name.split('.'));

/** A well as it was, as it is kept. */
const wellThen = (id: string, owner: number | null, depth: string | null = null) => ({
  id: Number(id),
  code: 'AF-0999',
  owner_id: owner,
  address: 'Mill Lane 9',
  postcode: 'AF1 9ZZ',
  parish: 'Saltby',
  latitude: '52.10000',
  longitude: '0.10000',
  depth_m: depth,
  casing: 'steel',
  drilled_on: owner === 18 ? '1998-05-01' : null,
  state: owner === null ? 'closed' : 'active',
  treatment: owner === 42 ? ['UV'] : [],
  photo: null,
});

type Ask = (source: Source, visit: Visit) => Promise<unknown>;

const listing =
  (table: string, more: Partial<ListQuestion>): Ask =>
  (source, visit) =>
    list(source, visit, table, { ...question, ...more });

const asks: Record<string, Ask> = {};

for (const table of ['owners', 'wells', 'visits', 'advisories', 'samples']) {
  const columns = {
    owners: paths('phone', 'parish', 'birth_date', 'iban', 'tax_number'),
    wells: paths('code', 'owner.name', 'depth_m', 'treatment', 'latitude', 'drilled_on', 'state'),
    visits: paths('well.code', 'planned_for', 'state', 'fee', 'paid', 'well.owner.phone'),
    advisories: paths('title', 'valid_until'),
    samples: paths('id'),
  }[table]!;
  asks[`list ${table}`] = listing(table, { columns });
  for (const sort of [
    'planned_for',
    'fee',
    'state',
    'depth_m',
    'birth_date',
    'latitude',
    'drilled_on',
    'well.depth_m',
    'valid_until',
    'code',
  ])
    for (const descending of [true, false]) {
      asks[`sort ${table} by ${sort} ${descending}`] = async (source, visit) => {
        const first = await list(source, visit, table, {
          ...question,
          size: 15,
          columns,
          sort: [{ path: sort.split('.'), descending }],
        });
        const second = await list(source, visit, table, {
          ...question,
          size: 15,
          columns,
          sort: [{ path: sort.split('.'), descending }],
          after: first.next,
        });
        return [
          first,
          second,
          await list(source, visit, table, {
            ...question,
            size: 15,
            columns,
            sort: [{ path: sort.split('.'), descending }],
            before: second.previous,
          }),
        ];
      };
    }
  for (const filter of [
    "state IN ('planned', 'active')",
    'fee > 60',
    "planned_for BETWEEN '2025-01-01' AND '2025-06-30 12:00'",
    'depth_m < 40.5 OR depth_m IS NULL',
    "'UV' IN treatment",
    'birth_date > 60',
    "EXISTS (visits WHERE visits.state = 'at lab')",
    "well.parish = 'Saltby' AND NOT (paid = TRUE)",
    'latitude >= 53.1',
    'drilled_on > :today - INTERVAL 20 YEAR',
    "owner.parish = 'Saltby'",
  ])
    asks[`filter ${table} ${filter}`] = listing(table, { columns, where: [when(filter)] });
  for (const search of ['saltby', 'AF-02', 'lane', '0163'])
    asks[`search ${table} ${search}`] = listing(table, { columns, search });
}

for (const [table, ids] of [
  ['visits', ['1', '9', '100', '2000', '99999']],
  ['wells', ['1', '231', '419']],
  ['owners', ['17', '42', '18']],
] as const)
  for (const id of ids) {
    asks[`read ${table} ${id}`] = (source, visit) => read(source, visit, table, id);
    asks[`why ${table} ${id}`] = (source, visit) => why(source, visit, table, id, table === 'visits' ? 'fee' : null);
    if (table === 'wells')
      asks[`past of ${table} ${id}`] = async (source, visit) => {
        const { tells } = await past({ ...visit, source }, table, id);
        return tells([17, 42, 18, null].map((owner) => ({ was: wellThen(id, owner), now: wellThen(id, 17, '31.5') })));
      };
    asks[`delete ${table} ${id}`] = (source, visit) => remove(source, visit, table, id, {}, { trial: true });
  }

const trial = { trial: true };

Object.assign(asks, {
  'by state': (source, visit) =>
    figures(source, visit, 'visits', {
      measures: [
        { what: 'count' },
        { what: 'sum', path: ['fee'] },
        { what: 'maximum', path: ['planned_for'] },
        { what: 'distinct', path: ['well_id'] },
      ],
      by: [{ path: ['state'] }],
      where: [],
    }),
  'smallest group': (source, visit) =>
    figures(source, visit, 'owners', {
      measures: [{ what: 'count' }],
      by: [{ path: ['birth_date'] }],
      where: [],
      smallestGroup: 8,
    }),
  'average depth': (source, visit) =>
    figures(source, visit, 'wells', {
      measures: [
        { what: 'sum', path: ['depth_m'] },
        { what: 'minimum', path: ['depth_m'] },
        { what: 'maximum', path: ['drilled_on'] },
      ],
      by: [],
      where: [],
    }),
  'related visits': (source, visit) => related({ ...visit, source }, 'wells', '231', 'visits', () => question),
  'wells to choose': (source, visit) => lookup({ ...visit, source }, 'visits', 'well', '', 9),
  export: async (source, visit) => {
    const pages: unknown[] = [];
    for await (const page of exportRows(source, visit, 'visits', {
      columns: paths('id', 'fee', 'planned_for'),
      sort: [],
      where: [],
      search: '',
    }))
      pages.push(page.columns, ...page.records);
    return pages;
  },
  'make a visit': (source, visit) =>
    create(source, visit, 'visits', { well_id: 231, asked_on: '2026-11-23', fee: '61.50' }, trial).then(
      (made) => made.record?.values.state,
    ),
  'make a visit nowhere': (source, visit) =>
    create(source, visit, 'visits', { well_id: 99_999, asked_on: '2026-11-23' }, trial),
  'make a visit with a long seal': (source, visit) =>
    create(source, visit, 'visits', { well_id: 231, asked_on: '2026-11-23', seal_number: 'x'.repeat(40) }, trial),
  'make a visit without a day': (source, visit) => create(source, visit, 'visits', { well_id: 231 }, trial),
  'change treatment': async (source, visit) =>
    edit(
      source,
      visit,
      'wells',
      '231',
      { treatment: { from: (await read(source, visit, 'wells', '231')).values.treatment, to: ['UV', 'softener'] } },
      trial,
    ),
  'stale note': (source, visit) =>
    edit(source, visit, 'visits', '100', { access_note: { from: 'never so', to: 'x' } }, trial),
  'move a visit': (source, visit) =>
    edit(source, visit, 'visits', '2000', { state: { from: 'at lab', to: 'reported' } }, trial),
  'why not': (source, visit) => whyChange(source, visit, 'visits', '9', { sampler_id: 3 }),
  'several visits': (source, visit) =>
    several(
      source,
      visit,
      'visits',
      [{ edit: '1', changes: { access_note: { from: null, to: 'x' } } }, { delete: '3' }, { create: { fee: 1 } }],
      'each by itself',
      trial,
    ),
} satisfies Record<string, Ask>);

for (const step of ['day', 'week', 'month', 'quarter', 'year'] as const)
  asks[`by ${step}`] = (source, visit) =>
    figures(source, visit, 'visits', {
      measures: [{ what: 'count' }],
      by: [{ path: ['planned_for'], step }, { path: ['state'] }],
      where: [],
    });

async function answer(ask: Ask, side: (typeof sides)[number], person: Person): Promise<unknown> {
  try {
    return JSON.parse(
      JSON.stringify(
        (await ask(side.source, { definition, catalogue: side.catalogue, person, moment })) ?? null,
        (key, value: unknown) =>
          typeof value === 'bigint'
            ? String(value)
            : (key === 'next' || key === 'previous') && value !== null
              ? 'a cursor'
              : value,
      ),
    );
  } catch (error) {
    const { constructor, message, fields } = error as Error & { fields?: unknown };
    return [constructor.name, message, fields];
  }
}

describe('MariaDB and PostgreSQL', () => {
  it('have the same catalogue of the demo, as far as people meet it', () => {
    const [one, other] = sides.map(({ catalogue }) =>
      catalogue.tables
        .map((table) => ({
          name: table.name,
          key: table.key,
          relations: table.relations,
          many: table.many,
          columns: table.columns.map(
            ({ name, type, nullable, automatic, unique, choices, maxLength, precision, scale, hasDefault }) => ({
              name,
              type,
              nullable,
              automatic,
              unique,
              choices,
              maxLength: type === 'long text' ? 0 : maxLength,
              precision,
              scale,
              hasDefault: hasDefault && !nullable,
            }),
          ),
        }))
        .toSorted((a, b) => (a.name < b.name ? -1 : 1)),
    );
    expect(other).toEqual(one);
  });

  for (const [who, person] of Object.entries(people)) {
    it(`answer ${who} alike`, async () => {
      let records = 0;
      const different: string[][] = [];
      for (const [name, ask] of Object.entries(asks)) {
        const [one, other] = [await answer(ask, sides[0]!, person), await answer(ask, sides[1]!, person)];
        if (JSON.stringify(one) !== JSON.stringify(other))
          different.push([name, JSON.stringify(one).slice(0, 300), JSON.stringify(other).slice(0, 300)]);
        if (!Array.isArray(one) || typeof one[0] !== 'string') records++;
      }
      expect(different).toEqual([]);
      expect(records).toBeGreaterThan(20);
    });
  }

  it('compare, promise and draw members alike', async () => {
    const after = structuredClone(definition);
    after.access.visits!.sampler!.see!.where = when('sampler_id = :member.samplers.id');
    after.masks = after.masks.filter((mask) => mask.id !== 'tax');
    const results = await Promise.all(
      sides.map(async ({ source, catalogue }) => {
        const rosters = await Promise.all(
          definition.rosters.map(
            async (roster) => [roster.table, await rosterPeople(source, catalogue, roster)] as const,
          ),
        );
        const known = rosters.flatMap(([table, rows]) =>
          [...rows].map(([key, row]): KnownPerson => ({
            id: Number(key),
            name: `${table} ${key}`,
            email: row.email === null ? null : String(row.email),
            organisation: null,
            rows: { [table]: row },
          })),
        );
        const compared = await compareDefinitions(source, catalogue, definition, after, known, moment);
        return {
          facts: await Promise.all(definition.rosters.map((roster) => rosterFacts(source, catalogue, roster))),
          compared: compared.toSorted((a, b) =>
            JSON.stringify([a.table, a.people]) < JSON.stringify([b.table, b.people]) ? -1 : 1,
          ),
          promises: (await testPromises({ runner: source, catalogue, definition, moment }, known)).map(
            ({ id, kept, by }) => ({
              id,
              kept,
              by,
            }),
          ),
        };
      }),
    );
    expect(results[0]!.compared.length).toBeGreaterThan(10);
    expect(JSON.stringify(results[1])).toBe(JSON.stringify(results[0]));
  });
});
