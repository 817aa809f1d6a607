import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { demoDefinition } from '../../demo/definition';
import { loadTables } from '../../demo/load';
import { freshSchema } from '../../test/tables';
import { mergedGroups } from '../../core/access/smallest-group';
import type { Person } from '../../core/access/person';
import { parseCondition } from '../../core/condition/parse';
import type { PortalDefinition } from '../../core/definition/definition';
import type { Catalogue } from '../../core/table/catalogue';
import { MariadbSource } from '../sources/mariadb';
import { exportRows } from './read/export';
import { figures, type FigureQuestion } from './read/figures';
import { lookup } from './read/lookup';
import { related } from './read/related';
import type { ListQuestion } from './read/list';
import type { Visit } from './view/visit';

/** Figures, related records, lookups and exports over the demo; the numbers beside them are plain SQL. */
let plain: Connection;
let source: MariadbSource;
let catalogue: Catalogue;
const when = (text: string) => parseCondition(text).condition;
const all: ListQuestion = { columns: [], sort: [], where: [], search: '', after: null, before: null, size: 200 };

const base = demoDefinition('figures');

const definition: PortalDefinition = {
  ...base,
  roles: [...base.roles, { id: 'desk', name: 'Desk' }],
  tables: { ...base.tables, wells: { ...base.tables.wells, titleColumn: 'code' } },
  access: {
    ...base.access,
    visits: {
      ...base.access.visits,
      desk: {
        see: {
          where: 'every row',
          columns: ['id', 'well_id', 'sampler_id', 'planned_for', 'asked_on', 'state', 'fee', 'paid'],
        },
        export: { where: when("state = 'reported'") },
      },
    },
    wells: {
      ...base.access.wells,
      desk: {
        see: { where: 'every row', columns: ['id', 'code', 'parish', 'depth_m', 'state', 'owner_id', 'latitude'] },
        export: { where: 'as seen' },
      },
    },
    owners: {
      ...base.access.owners,
      desk: { see: { where: 'every row', columns: ['id', 'name', 'birth_date', 'parish', 'iban'] } },
    },
  },
  masks: [
    ...base.masks,
    { id: 'fee', table: 'visits', column: 'fee', mask: { style: 'step', size: '10' }, to: ['desk'], exceptRoles: [] },
    { id: 'iban', table: 'owners', column: 'iban', mask: { style: 'stand-in' }, to: ['desk'], exceptRoles: [] },
  ],
};

const desk: Person = { kind: 'member', id: 1, email: 'd@example.org', organisation: null, roles: ['desk'], rows: {} };

const owner = (id: number): Person => ({
  kind: 'member',
  id: 2,
  email: 'o@example.org',
  organisation: null,
  roles: ['well_owner'],
  rows: { owners: { id } },
});

const as = (person: Person): Visit => ({ definition, catalogue, person, moment: new Date('2026-11-23T12:00:00Z') });

const ask = async (person: Person, table: string, question: Partial<FigureQuestion>) =>
  figures(source, as(person), table, { measures: [{ what: 'count' }], by: [], where: [], ...question });

const rows = async (text: string) =>
  (
    await plain.query<unknown[][]>({
      sql: text,
      rowsAsArray: true,
      dateStrings: true,
      decimalAsNumber: false,
      bigIntAsNumber: true,
    })
  ).map((row) => [...row]);

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'figures');
  await loadTables(inject('database'), 'figures');
  source = new MariadbSource(inject('database'), 'figures');
  catalogue = await source.catalogue();
});

afterAll(async () => {
  await source?.close();
  await plain?.end();
});

describe('figures', () => {
  it('count, sum, average, find the ends and the different, within the view', async () => {
    const measures: FigureQuestion['measures'] = [
      { what: 'count' },
      { what: 'sum', path: ['fee'] },
      { what: 'average', path: ['fee'] },
      { what: 'minimum', path: ['planned_for'] },
      { what: 'maximum', path: ['asked_on'] },
      { what: 'distinct', path: ['well_id'] },
    ];
    const { groups } = await ask(owner(17), 'visits', { measures });
    const [expected] = await rows(
      'SELECT COUNT(*), SUM(fee), AVG(fee), MIN(planned_for), MAX(asked_on), COUNT(DISTINCT well_id) FROM ' +
        'visits v JOIN wells w ON w.id = v.well_id WHERE w.owner_id = 17',
    );
    expect(groups).toEqual([{ key: [], values: expected, leftOut: [0, 0, 0, 0, 0, 0] }]);
  });

  it('group by one or two columns, by related columns and by steps of the calendar', async () => {
    const grouped = async (by: FigureQuestion['by']) =>
      (await ask(desk, 'visits', { by, where: [when("state <> 'cancelled'")] })).groups.map((group) => [
        ...group.key!,
        ...group.values,
      ]);
    const sql = (key: string, joins = '') =>
      rows(
        `SELECT ${key}, COUNT(*) FROM visits v ${joins} WHERE v.state <> 'cancelled' GROUP BY ${key} ORDER BY ${key}`,
      );
    expect(await grouped([{ path: ['state'] }])).toEqual(await sql('v.state'));
    expect(await grouped([{ path: ['well', 'parish'] }, { path: ['paid'] }])).toEqual(
      (await sql('w.parish, v.paid', 'JOIN wells w ON w.id = v.well_id')).map(([parish, paid, n]) => [
        parish,
        paid === 1,
        n,
      ]),
    );
    const steps = {
      day: 'DATE(v.planned_for)',
      month: "CONCAT(YEAR(v.planned_for), '-', LPAD(MONTH(v.planned_for), 2, '0'))",
      quarter: "CONCAT(YEAR(v.planned_for), '-Q', QUARTER(v.planned_for))",
      year: 'CAST(YEAR(v.planned_for) AS CHAR)',
    } as const;
    for (const [step, key] of Object.entries(steps))
      expect([step, await grouped([{ path: ['planned_for'], step: step as 'day' }])]).toEqual([step, await sql(key)]);
    // ISO 8601-1: week 1 is the one with the first Thursday.
    const weeks = await grouped([{ path: ['planned_for'], step: 'week' }]);
    const isoWeek = (date: string) => {
      const thursday = new Date(`${date}T00:00:00Z`);
      thursday.setUTCDate(thursday.getUTCDate() + 4 - (thursday.getUTCDay() || 7));
      const year = thursday.getUTCFullYear();
      const dayOfYear = (thursday.getTime() - Date.UTC(year, 0, 1)) / 86_400_000 + 1;
      return `${year}-W${String(Math.ceil(dayOfYear / 7)).padStart(2, '0')}`;
    };
    const byWeek = new Map<string | null, number>();
    for (const [day, n] of await sql(steps.day))
      byWeek.set(
        day === null ? null : isoWeek(String(day)),
        (byWeek.get(day === null ? null : isoWeek(String(day))) ?? 0) + Number(n),
      );
    expect(Object.fromEntries(weeks as [string, number][])).toEqual(Object.fromEntries(byWeek));
  });

  it('leave masked cells out of sums and say how many; group by what the mask shows', async () => {
    const {
      groups: [whole],
    } = await ask(desk, 'visits', {
      measures: [
        { what: 'sum', path: ['fee'] },
        { what: 'maximum', path: ['fee'] },
      ],
    });
    const [[n, most]] = (await rows('SELECT COUNT(*), MAX(fee) FROM visits')) as [[number, string]];
    expect(whole).toEqual({ key: [], values: [null, `${Math.floor(Number(most) / 10) * 10}`], leftOut: [n, 0] });
    const steps = (await ask(desk, 'visits', { by: [{ path: ['fee'] }] })).groups.map((group) => [
      group.key![0],
      group.values[0],
    ]);
    expect(steps).toEqual(
      await rows(
        'SELECT CAST(FLOOR(fee / 10) * 10 AS CHAR), COUNT(*) FROM visits GROUP BY FLOOR(fee / 10) ORDER BY ' +
          'FLOOR(fee / 10)',
      ),
    );
    // Someone who is owner of some wells and at the desk sees the own fees whole: those are summed, the others left
    // out.
    const both: Person = { ...owner(17), roles: ['desk', 'well_owner'] };
    const [own] = await rows(
      'SELECT SUM(fee), COUNT(*) FROM visits v JOIN wells w ON w.id = v.well_id WHERE w.owner_id = 17',
    );
    expect((await ask(both, 'visits', { measures: [{ what: 'sum', path: ['fee'] }] })).groups).toEqual([
      { key: [], values: [own![0]], leftOut: [n - Number(own![1])] },
    ]);
    for (const by of [{ path: ['iban'], step: 'year' as const }, { path: ['tax_number'] }])
      await expect(ask(desk, 'owners', { by: [by] })).rejects.toThrow(/no date|no column/);
    await expect(ask(desk, 'owners', { measures: [{ what: 'maximum', path: ['iban'] }] })).rejects.toThrow('no order');
    await expect(ask(desk, 'owners', { measures: [{ what: 'sum', path: ['tax_number'] }] })).rejects.toThrow(
      'There is no column',
    );
  });

  it('put small groups together as the database would, whatever is reckoned', async () => {
    const measures: FigureQuestion['measures'] = [
      { what: 'count' },
      { what: 'sum', path: ['depth_m'] },
      { what: 'average', path: ['depth_m'] },
      { what: 'minimum', path: ['code'] },
      { what: 'maximum', path: ['code'] },
      { what: 'distinct', path: ['parish'] },
      { what: 'average', path: ['latitude'] },
    ];
    for (const expression of ['depth_m', 'owner_id', 'parish']) {
      const by = { path: [expression] };
      const sizes = (await rows(`SELECT COUNT(*), ${expression} FROM wells GROUP BY 2 ORDER BY 2`)).map(([count]) =>
        Number(count),
      );
      for (const smallest of [2, 3, 5, 30]) {
        const merged = mergedGroups(sizes, smallest);
        const { groups, tooFew } = await ask(desk, 'wells', { by: [by], smallestGroup: smallest, measures });
        expect(tooFew).toBe(merged === null);
        if (!merged?.size) continue;
        const places = [...merged].map((place) => place + 1).join(', ');
        const [expected] = await rows(
          'SELECT COUNT(*), SUM(depth_m), AVG(depth_m), MIN(code), MAX(code), COUNT(DISTINCT parish), ' +
            `AVG(latitude) FROM (SELECT w.*, DENSE_RANK() OVER (ORDER BY ${expression}) place FROM wells w) q ` +
            `WHERE place IN (${places})`,
        );
        expect([expression, smallest, groups.at(-1)!.key, groups.at(-1)!.values.map(String)]).toEqual([
          expression,
          smallest,
          null,
          expected!.map(String),
        ]);
        expect(groups.length).toBe(sizes.length - merged.size + 1);
      }
    }
  });

  it('never show a group under the smallest size, nor one that could be reckoned from the others', async () => {
    const smallest = 12;
    const { groups } = await ask(desk, 'owners', {
      by: [{ path: ['birth_date'] }],
      smallestGroup: smallest,
      measures: [{ what: 'count' }, { what: 'minimum', path: ['name'] }],
    });
    const [[total]] = (await rows('SELECT COUNT(*) FROM owners')) as [[number]];
    expect(groups.reduce((sum, group) => sum + Number(group.values[0]), 0)).toBe(total);
    expect(groups.filter((group) => Number(group.values[0]) < smallest)).toEqual([]);
    expect(groups.filter((group) => group.key === null)).toHaveLength(1);
    expect(
      await ask(desk, 'owners', { by: [{ path: ['birth_date'] }], smallestGroup: smallest, where: [when('id < 5')] }),
    ).toEqual({ groups: [], tooFew: true });
  });

  it('merge so that no group under the size can be told', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 30 }), { maxLength: 12 }),
        fc.integer({ min: 2, max: 15 }),
        (counts, smallest) => {
          const merged = mergedGroups(counts, smallest);
          if (merged === null) {
            expect(counts.reduce((sum, count) => sum + count, 0)).toBeLessThan(smallest);
            return;
          }
          const together = [...merged].reduce((sum, place) => sum + counts[place]!, 0);
          expect(counts.every((count, place) => count >= smallest || merged.has(place))).toBe(true);
          // Either nothing is merged, or more than one group and enough of them; a single small group with no other
          // can't be hidden better.
          expect(merged.size === 0 || (together >= smallest && (merged.size > 1 || counts.length === 1))).toBe(true);
        },
      ),
      { numRuns: 2000 },
    );
  });
});

describe('related records', () => {
  it('are those of the view that point to a record in view', async () => {
    const wells = await related({ ...as(owner(17)), source }, 'owners', '17', 'wells', () => ({
      ...all,
      columns: [['code']],
    }));
    expect([wells.total, wells.records.map((record) => record.values.code)]).toEqual([
      3,
      ['AF-0231', 'AF-0232', 'AF-0419'],
    ]);
    const visits = await related({ ...as(owner(17)), source }, 'wells', '231', 'visits', () => all);
    expect(visits.total).toBe(Number((await rows('SELECT COUNT(*) FROM visits WHERE well_id = 231'))[0]![0]));
    for (const [table, id, relation] of [
      ['owners', '18', 'wells'],
      ['wells', '1', 'visits'],
      ['wells', '231', 'samples'],
      ['visits', '1', 'samples'],
      ['wells', 'x', 'visits'],
    ])
      await expect(related({ ...as(owner(17)), source }, table!, id!, relation!, () => all)).rejects.toThrow(
        'There is no such',
      );
  });
});

describe('lookups', () => {
  it("offer the other table's records in view, by their title", async () => {
    expect(await lookup({ ...as(owner(17)), source }, 'visits', 'well', '', 10)).toEqual([
      { value: '231', label: 'AF-0231' },
      { value: '232', label: 'AF-0232' },
      { value: '419', label: 'AF-0419' },
    ]);
    expect((await lookup({ ...as(desk), source }, 'visits', 'well', '023', 50)).length).toBe(
      Number((await rows("SELECT COUNT(*) FROM wells WHERE code LIKE '%023%'"))[0]![0]),
    );
    await expect(lookup({ ...as(owner(17)), source }, 'visits', 'sampler', '', 10)).rejects.toThrow('There is no such');
    await expect(lookup({ ...as(owner(17)), source }, 'samples', 'lab', '', 10)).rejects.toThrow('There is no such');
  });
});

describe('exports', () => {
  it('carry all rows that may be taken out, masked as they are shown, and no others', async () => {
    const taken: unknown[][] = [];
    for await (const page of exportRows(source, as(desk), 'visits', {
      columns: [['id'], ['fee'], ['well', 'code']],
      sort: [],
      where: [],
      search: '',
    }))
      taken.push(...page.records.map((record) => record.cells));
    expect(taken).toEqual(
      await rows(
        "SELECT v.id, CONCAT(FLOOR(v.fee / 10) * 10, '–', FLOOR(v.fee / 10) * 10 + 10), w.code FROM visits v " +
          "JOIN wells w ON w.id = v.well_id WHERE v.state = 'reported' ORDER BY v.id",
      ),
    );
    expect(taken.length).toBeGreaterThan(1000);
    await expect(
      exportRows(source, as(owner(17)), 'visits', { columns: [], sort: [], where: [], search: '' }).next(),
    ).rejects.toThrow('There is no such');
  });
});
