import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { demoDefinition } from '../../demo/definition';
import { loadTables } from '../../demo/load';
import { freshSchema } from '../../test/tables';
import { servicePerson, visitorPerson, type Person } from '../../core/access/person';
import { rolesOfRows } from '../../core/access/roster-roles';
import type { Catalogue } from '../../core/table/catalogue';
import { MariadbSource } from '../sources/mariadb';
import { create } from './write/create';
import { edit } from './write/edit';
import { NotFound, Refused } from './view/errors';
import { count, list } from './read/list';
import { read } from './read/read';
import { rosterPeople, rosterRow } from './facts/roster';
import type { Visit } from './view/visit';

/**
 * What the demo promises of its nine roles, held against plain SQL written here from the programme's own description.
 */
let plain: Connection;
let source: MariadbSource;
let catalogue: Catalogue;
const definition = demoDefinition('demo');
const moment = new Date('2026-11-24T12:00:00Z');
const today = "'2026-11-24'";

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'demo');
  await loadTables(inject('database'), 'demo');
  source = new MariadbSource(inject('database'), 'demo');
  catalogue = await source.catalogue();
});

afterAll(async () => {
  await source?.close();
  await plain?.end();
});

const visit = (person: Person): Visit => ({ definition, catalogue, person, moment });

const ids = async (text: string): Promise<string[]> =>
  (await plain.query<unknown[][]>({ sql: text, rowsAsArray: true })).map(([id]) => String(id));

/** The member who stands on a roster's row; no member of the demo's tables plans as the id that is given here. */
async function member(table: string, key: number, id = 1_000_000): Promise<Person> {
  const roster = definition.rosters.find((each) => each.table === table)!;
  const row = (await rosterRow(source, catalogue, roster, String(key)))!;
  return {
    kind: 'member',
    id,
    email: String(row.email),
    organisation: null,
    roles: rolesOfRows(definition, catalogue, { [table]: row }),
    rows: { [table]: row },
  };
}

interface Expected {
  rows: string;
  columns: string;
  masked?: string;
}

const published = {
  rows: `SELECT id FROM advisories WHERE published AND (valid_until IS NULL OR valid_until >= ${today})`,
  columns: 'parish title text valid_until',
};

const analytes = { rows: 'SELECT code FROM analytes', columns: 'code name unit limit_low limit_value limit_kind' };
const owned = 'SELECT id FROM wells WHERE owner_id = 17';
const visited = `SELECT id FROM visits WHERE well_id IN (${owned})`;
const sentTo = (lab: number) => `SELECT visit_id FROM samples WHERE lab_id = ${lab}`;
const all = (table: string, columns: string): Expected => ({ rows: `SELECT * FROM ${table}`, columns });

/** For each person every table that they see at all; the others are as good as not there. */
const people: {
  who: string;
  person: () => Person | Promise<Person>;
  roles: string[];
  sees: Record<string, Expected>;
}[] = [
  {
    who: 'a well owner: own wells, their visits, approved results',
    person: () => member('owners', 17),
    roles: ['well_owner'],
    sees: {
      owners: {
        rows: 'SELECT 17',
        columns: 'id name email phone birth_date tax_number iban postal_address parish contact_by',
        masked: 'birth_date tax_number iban',
      },
      wells: {
        rows: owned,
        columns: 'code owner_id address postcode parish depth_m casing drilled_on state treatment',
      },
      visits: { rows: visited, columns: 'well_id asked_on planned_for state access_note fee paid' },
      samples: {
        rows: `SELECT id FROM samples WHERE visit_id IN (${visited})`,
        columns: 'visit_id bottle_code received_at',
      },
      results: {
        rows:
          `SELECT id FROM results WHERE state = 'approved' AND sample_id IN (SELECT id FROM samples WHERE ` +
          `visit_id IN (${visited}))`,
        columns: 'sample_id analyte_code value unit below_detection',
      },
      analytes,
      advisories: published,
    },
  },
  {
    who: "a sampler: visits assigned to or planned by them, the owner's phone, not the account",
    person: () => member('samplers', 9, 9),
    roles: ['sampler'],
    sees: {
      owners: {
        rows: 'SELECT id FROM owners WHERE parish = (SELECT district FROM samplers WHERE id = 9)',
        columns: 'name phone parish',
      },
      wells: {
        rows: 'SELECT DISTINCT well_id FROM visits WHERE sampler_id = 9 OR planned_by = 9',
        columns: 'code owner_id address postcode parish depth_m state',
      },
      visits: {
        rows: 'SELECT id FROM visits WHERE sampler_id = 9 OR planned_by = 9',
        columns: 'well_id sampler_id planned_by asked_on planned_for state access_note seal_number seal_photo',
      },
      samples: {
        rows: 'SELECT id FROM samples WHERE visit_id IN (SELECT id FROM visits WHERE sampler_id = 9)',
        columns: 'visit_id bottle_code received_at accepted',
      },
      advisories: published,
    },
  },
  {
    who: 'a chemist: samples sent to their lab and their results; the owner unknown, the place coarse',
    person: () => member('lab_staff', 1),
    roles: ['lab_chemist'],
    sees: {
      labs: { rows: 'SELECT 1', columns: 'name accreditation_number valid_until' },
      wells: {
        rows: `SELECT DISTINCT well_id FROM visits WHERE id IN (${sentTo(1)})`,
        columns: 'postcode latitude longitude',
        masked: 'postcode latitude longitude',
      },
      visits: { rows: `SELECT id FROM visits WHERE id IN (${sentTo(1)})`, columns: 'well_id planned_for' },
      samples: {
        rows: 'SELECT id FROM samples WHERE lab_id = 1',
        columns: 'id visit_id bottle_code received_at temperature_c accepted',
      },
      results: {
        rows: 'SELECT id FROM results WHERE sample_id IN (SELECT id FROM samples WHERE lab_id = 1)',
        columns: 'sample_id analyte_code value unit below_detection state remark',
      },
      analytes,
    },
  },
  {
    who: 'a courier: bottles as they are handed over, and pick-up addresses',
    person: () => member('lab_staff', 8),
    roles: ['lab_courier'],
    sees: {
      labs: { rows: 'SELECT 2', columns: 'name' },
      wells: { rows: `SELECT DISTINCT well_id FROM visits WHERE id IN (${sentTo(2)})`, columns: 'address postcode' },
      visits: { rows: `SELECT id FROM visits WHERE id IN (${sentTo(2)})`, columns: 'well_id' },
      samples: {
        rows: 'SELECT id FROM samples WHERE lab_id = 2',
        columns: 'visit_id bottle_code temperature_c handed_over_at tracking_number',
      },
    },
  },
  {
    who: 'the desk: all but the tax number',
    person: () => member('staff', 1),
    roles: ['desk'],
    sees: {
      owners: all('owners', 'id name email phone birth_date iban postal_address parish contact_by'),
      labs: all('labs', 'id name accreditation_number valid_until'),
      lab_staff: all('lab_staff', 'id name email lab_id kind'),
      samplers: all('samplers', 'id name email phone district active'),
      staff: all('staff', 'id name email duty parish'),
      wells: all(
        'wells',
        'id code owner_id address postcode parish latitude longitude depth_m casing drilled_on state treatment photo',
      ),
      visits: all(
        'visits',
        'id well_id sampler_id planned_by asked_on planned_for state access_note seal_number fee paid seal_photo',
      ),
      samples: all('samples', 'id visit_id bottle_code lab_id received_at temperature_c accepted'),
      results: all('results', 'id sample_id analyte_code value unit below_detection state remark'),
      analytes,
      advisories: all('advisories', 'id parish title text published valid_until'),
      test_requests: all('test_requests', 'id name email phone parish message wished_for'),
      doubts: all('doubts', 'id parish what words'),
    },
  },
  {
    who: 'accounts: the fee and the last four of the account',
    person: () => member('staff', 3),
    roles: ['accounts'],
    sees: {
      owners: { ...all('owners', 'name iban'), masked: 'iban' },
      wells: all('wells', 'code owner_id'),
      visits: all('visits', 'well_id planned_for state fee paid'),
    },
  },
  {
    who: 'a parish steward: owners of one parish, and its weekly plan',
    person: () => member('staff', 4),
    roles: ['steward'],
    sees: {
      owners: {
        rows: "SELECT id FROM owners WHERE parish = 'Harrow End'",
        columns: 'id name email phone postal_address parish contact_by',
      },
      samplers: { rows: 'SELECT id FROM samplers WHERE active', columns: 'id name district' },
      wells: {
        rows: "SELECT id FROM wells WHERE parish = 'Harrow End'",
        columns: 'id code owner_id address postcode parish state',
      },
      visits: {
        rows: "SELECT v.id FROM visits v JOIN wells w ON w.id = v.well_id WHERE w.parish = 'Harrow End'",
        columns: 'id well_id sampler_id asked_on planned_for state',
      },
      advisories: published,
      test_requests: {
        rows: "SELECT id FROM test_requests WHERE parish = 'Harrow End'",
        columns: 'id name parish message wished_for',
      },
    },
  },
  {
    who: 'a visitor: published advisories',
    person: () => visitorPerson(definition),
    roles: ['public'],
    sees: { advisories: published },
  },
  {
    who: 'the bottle tracker: bottles by their codes',
    person: () => servicePerson(definition, ['bottle_tracker']),
    roles: ['bottle_tracker'],
    sees: { samples: all('samples', 'bottle_code lab_id received_at') },
  },
  {
    who: 'the post: whose well a result is of',
    person: () => servicePerson(definition, ['post']),
    roles: ['post'],
    sees: {
      owners: all('owners', 'id name email'),
      wells: all('wells', 'id code owner_id'),
      visits: all('visits', 'id well_id'),
      samples: all('samples', 'id visit_id bottle_code'),
      results: all('results', 'id sample_id analyte_code state'),
      analytes: all('analytes', 'code name'),
    },
  },
  {
    who: 'the office of limits: the limits',
    person: () => servicePerson(definition, ['limits_office']),
    roles: ['limits_office'],
    sees: { analytes: all('analytes', 'code name unit limit_low limit_value') },
  },
];

describe('the demo', () => {
  it.each(people)('shows $who', async ({ person: make, roles, sees }) => {
    const person = await make();
    expect(person.roles).toEqual(roles);
    for (const { name } of catalogue.tables) {
      const expected = sees[name];
      if (!expected) {
        await expect(count(source, visit(person), name), name).rejects.toThrow(NotFound);
        continue;
      }
      const wanted = await ids(expected.rows);
      expect([name, await count(source, visit(person), name)]).toEqual([name, wanted.length]);
      const { records } = await list(source, visit(person), name, {
        columns: [],
        sort: [],
        where: [],
        search: '',
        after: null,
        before: null,
        size: 200,
      });
      const known = new Set(wanted);
      expect([name, records.filter((record) => !known.has(record.id!))]).toEqual([name, []]);
      const { values, masked } = await read(source, visit(person), name, records[0]!.id!);
      expect([name, Object.keys(values), masked]).toEqual([
        name,
        catalogue.tables
          .find((each) => each.name === name)!
          .columns.map((column) => column.name)
          .filter((column) => expected.columns.split(' ').includes(column)),
        expect.anything(),
      ]);
      expect([name, masked.toSorted()]).toEqual([name, (expected.masked ?? '').split(' ').filter(Boolean).toSorted()]);
    }
  });

  it("gives roles by what the roster's rows hold", async () => {
    for (const [table, column, roles] of [
      ['lab_staff', 'kind', { chemist: 'lab_chemist', courier: 'lab_courier' }],
      ['staff', 'duty', { desk: 'desk', accounts: 'accounts', 'parish steward': 'steward' }],
    ] as const) {
      const rows = await rosterPeople(
        source,
        catalogue,
        definition.rosters.find((each) => each.table === table)!,
      );
      for (const [value, role] of Object.entries(roles)) {
        const given = [...rows]
          .filter(([, row]) => rolesOfRows(definition, catalogue, { [table]: row }).includes(role))
          .map(([key]) => key);
        expect(given.toSorted()).toEqual(
          (await ids(`SELECT id FROM ${table} WHERE ${column} = '${value}'`)).toSorted(),
        );
      }
    }
  });

  it("moves visits from hand to hand, and nobody's out of turn", async () => {
    const [visitId, note] = (
      await plain.query<[number, string | null][]>({
        sql: "SELECT id, seal_number FROM visits WHERE sampler_id = 9 AND state = 'planned' ORDER BY id LIMIT 1",
        rowsAsArray: true,
      })
    )[0]!;
    const move = (person: Person, from: string, to: string, more: Record<string, [unknown, unknown]> = {}) =>
      edit(
        source,
        visit(person),
        'visits',
        String(visitId),
        Object.fromEntries(
          Object.entries({ state: [from, to], ...more }).map(([column, [was, is]]) => [column, { from: was, to: is }]),
        ) as Parameters<typeof edit>[4],
      );
    const [mara, desk, other] = [
      await member('samplers', 9, 9),
      await member('staff', 1),
      await member('samplers', 10, 10),
    ];
    await expect(move(desk, 'planned', 'sampled')).rejects.toThrow(Refused);
    await expect(move(other, 'planned', 'sampled')).rejects.toThrow('There is no such record');
    await expect(move(mara, 'planned', 'sampled')).rejects.toThrow("Some values can't be saved.");
    await move(mara, 'planned', 'sampled', { seal_number: [note, 'S999001'] });
    await expect(move(mara, 'sampled', 'reported')).rejects.toThrow(Refused);
    await move(mara, 'sampled', 'at lab');
    expect(await ids(`SELECT state FROM visits WHERE id = ${visitId}`)).toEqual(['at lab']);
  });

  it('lets a steward plan for wells of their own parish alone, stamped with who planned it', async () => {
    const steward = await member('staff', 4, 4004);
    const [[here], [elsewhere]] = [
      await ids("SELECT id FROM wells WHERE parish = 'Harrow End' LIMIT 1"),
      await ids("SELECT id FROM wells WHERE parish <> 'Harrow End' LIMIT 1"),
    ];
    const made = await create(source, visit(steward), 'visits', { well_id: Number(here), asked_on: '2026-11-24' });
    expect(await ids(`SELECT CONCAT(planned_by, ' ', state) FROM visits WHERE id = ${made.id}`)).toEqual([
      '4004 asked',
    ]);
    await expect(
      create(source, visit(steward), 'visits', { well_id: Number(elsewhere), asked_on: '2026-11-24' }),
    ).rejects.toThrow("Some values can't be saved.");
  });

  it('takes a test request from a visitor, and shows it to no visitor', async () => {
    const visitor = visitorPerson(definition);
    const before = (await ids('SELECT id FROM test_requests')).length;
    await create(source, visit(visitor), 'test_requests', {
      name: 'Wynn Ash',
      email: 'wynn.ash@example.org',
      parish: 'Saltby',
    });
    expect((await ids('SELECT id FROM test_requests')).length).toBe(before + 1);
    await expect(count(source, visit(visitor), 'test_requests')).rejects.toThrow(NotFound);
  });
});
