import type { TableInfo } from '../columns/column-info';
import { firstList, listOf } from '../../test/pages';
import { raw } from '../../core/sql/sql';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { parseCondition } from '../../core/condition/parse';
import type { PortalDefinition } from '../../core/definition/definition';

/**
 * A portal whose pages look into a second source: a laboratory's own database, with bottles that name the visit and the
 * well they came from.
 */
let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
const bench = '/builder/portals/alder-fen';
const when = (text: string) => parseCondition(text).condition;

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'further', 'further_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  const lab = demo.server.services.sources.get('further_lab');
  for (const text of [
    'CREATE TABLE racks (id INT PRIMARY KEY, room VARCHAR(20))',
    "INSERT INTO racks VALUES (1, 'Cold'), (2, 'Dry')",
    'CREATE TABLE bottles (code CHAR(4) PRIMARY KEY, well_code CHAR(7), well_id INT, owner_id INT, rack_id ' +
      'INT, litres DECIMAL(4,2), FOREIGN KEY (rack_id) REFERENCES racks (id))',
    "INSERT INTO bottles VALUES ('B-01', 'AF-0231', 231, 17, 1, 0.50), ('B-02', 'AF-0232', 232, 17, 2, 1.00), " +
      "('B-03', 'AF-0001', 1, 1, 1, 0.75), ('B-04', 'AF-0231', 231, 17, NULL, 0.25)",
    'CREATE TABLE seals (id INT PRIMARY KEY, bottle_code CHAR(4))',
    "INSERT INTO seals VALUES (1, 'B-01'), (2, 'B-03')",
  ])
    await lab.write(raw(text));
});
afterAll(async () => demo?.server.close());

const definition = async () => (await builder.get(`${bench}/definition`)).body as PortalDefinition;
const apply = async (change: (definition: PortalDefinition) => void) => {
  const next = await definition();
  change(next);
  expect((await builder.send('PUT', `${bench}/definition`, next)).status).toBe(200);
};

describe('a further source', () => {
  it('is added under a short name, with what is wrong said beside its field', async () => {
    for (const [body, field] of [
      [{ name: 'Lab', schema: 'further_lab' }, 'faults'],
      [{ name: 'lab', schema: 'nowhere' }, 'schema'],
      [{ name: 'lab', schema: 'further' }, 'schema'],
      [{ name: 'lab', schema: 'further_own' }, 'schema'],
      [{ name: 'lab', connection: 'none', schema: 'x' }, 'connection'],
    ] as const) {
      const answer = await builder.post(`${bench}/sources`, body);
      expect([
        answer.status,
        field === 'faults' ? answer.body.faults[0].place : Object.keys(answer.body.fields)[0],
      ]).toEqual([field === 'faults' ? 400 : 422, field === 'faults' ? 'name' : field]);
    }
    expect((await builder.post(`${bench}/sources`, { name: 'lab', schema: 'further_lab' })).status).toBe(201);
    expect((await builder.post(`${bench}/sources`, { name: 'lab', schema: 'further_lab' })).body.fields).toEqual({
      name: 'There is a source lab already. Choose another name.',
    });
    const state = (await builder.get(bench)).body;
    expect(
      state.catalogue.tables
        .filter((table: { stored?: string }) => table.stored)
        .map((table: { name: string; relations: { table: string }[] }) => [
          table.name,
          table.relations.map((relation) => relation.table),
        ]),
    ).toEqual([
      ['lab:bottles', ['lab:racks']],
      ['lab:racks', []],
      ['lab:seals', []],
    ]);
    expect((await builder.get(`${bench}/data`)).body.tables).toEqual(
      expect.arrayContaining([
        { name: 'lab:bottles', rows: 4 },
        { name: 'wells', rows: 520 },
      ]),
    );
    // An edit can't lead the portal somewhere else past these checks.
    expect(
      (
        await builder.send('PATCH', `${bench}/draft`, {
          revision: state.revision,
          label: 'x',
          patch: [{ op: 'add', path: '/sources/own', value: { kind: 'mariadb', schema: 'further_own' } }],
        })
      ).status,
    ).toBe(422);
    const stolen = await definition();
    stolen.sources!.own = { kind: 'mariadb', schema: 'further_own' };
    expect((await builder.send('PUT', `${bench}/definition`, stolen)).status).toBe(422);
  });

  it("is related by value, as names and values suggest, and said when it can't be", async () => {
    expect((await builder.get(`${bench}/data/lab:bottles/suggestions`)).body.relations).toEqual([
      { name: 'well', column: 'well_code', table: 'wells', targetColumn: 'code', found: 3, of: 3 },
      { name: 'well', column: 'well_id', table: 'wells', targetColumn: 'id', found: 3, of: 3 },
      { name: 'owner', column: 'owner_id', table: 'owners', targetColumn: 'id', found: 2, of: 2 },
    ]);
    // Within its own source a table is looked for once.
    expect((await builder.get(`${bench}/data/lab:seals/suggestions`)).body.relations).toEqual([
      { name: 'bottle', column: 'bottle_code', table: 'lab:bottles', targetColumn: 'code', found: 2, of: 2 },
    ]);
    await apply((draft) => {
      draft.tables['lab:bottles'] = {
        relations: [{ name: 'well', column: 'well_id', table: 'owners', targetColumn: 'parish' }],
      };
    });
    expect(
      (await builder.get(`${bench}/findings`)).body.findings.map((finding: { title: string }) => finding.title),
    ).toContain("The relation lab:bottles.well to owners can't be followed");
    await apply((draft) => {
      draft.tables['lab:bottles'] = {
        relations: [{ name: 'well', column: 'well_id', table: 'wells', targetColumn: 'id' }],
      };
      draft.access['lab:bottles'] = {
        well_owner: {
          see: { where: when('owner_id = :member.owners.id'), columns: ['code', 'well_id', 'rack_id', 'litres'] },
          edit: { where: 'as seen', columns: ['litres', 'well_id'] },
          export: { where: 'as seen' },
        },
      };
      draft.access.wells!.well_owner!.export = { where: 'as seen' };
      draft.access['lab:racks'] = { well_owner: { see: { where: when("room = 'Cold'"), columns: ['room'] } } };
      draft.pages.push({
        id: 'bottles',
        title: 'Bottles',
        intro: '',
        audience: { roles: ['well_owner'] },
        sections: [
          listOf('lab:bottles', ['code', 'well.code', 'well.owner.name', 'rack.room', 'litres'], {
            sort: [{ column: 'code', descending: false }],
          }),
        ],
      });
      draft.sheets['lab:bottles'] = { columns: ['litres', 'well.code'] };
    });
    expect(
      (await builder.get(`${bench}/findings`)).body.findings.filter(
        (finding: { title: string }) => finding.title.includes('lab:') || finding.title.includes('Bottles'),
      ),
    ).toEqual([]);
    // Rules can't cross; the condition says so.
    const crossing = await builder.post(`${bench}/condition`, {
      table: 'lab:bottles',
      text: "well.parish = 'Saltby'",
      member: null,
    });
    expect(crossing.body.detail).toContain('there is no relation well in lab:bottles');
    expect(
      (
        await builder.post(`${bench}/condition`, {
          table: 'lab:bottles',
          text: 'owner_id = :member.owners.id',
          member: null,
        })
      ).body.total,
    ).toBe(4);
  });

  it('serves members: pages, records, related records, lookups, edits and exports under their view', async () => {
    await builder.post(`${bench}/versions`, { revision: (await builder.get(bench)).body.revision, note: '' });
    const ines = demo.client();
    await ines.post('/portals/alder-fen/sign-in', { email: 'ines.brannock@example.org', password: demoPassword });
    const page = (await ines.get('/portals/alder-fen/me')).body.pages.find(
      (each: { id: string }) => each.id === 'bottles',
    );
    expect(
      page.sections[0].columns.map((column: { path: string; label: string; asked: unknown }) => [
        column.path,
        column.label,
        column.asked,
      ]),
    ).toEqual([
      ['code', 'Code', 'value'],
      ['well.code', 'Well code', null],
      ['well.owner.name', 'Owner name', null],
      ['rack.room', 'Rack room', 'value'],
      ['litres', 'Litres', 'value'],
    ]);
    const list = (await ines.get('/portals/alder-fen/pages/bottles/lab-bottles')).body;
    expect([
      list.total,
      list.records.map((record: { id: string; values: unknown }) => [record.id, record.values]),
    ]).toEqual([
      3,
      [
        [
          'B-01',
          {
            code: 'B-01',
            litres: '0.50',
            'rack.room': 'Cold',
            'well.code': 'AF-0231',
            'well.owner.name': 'Ines Brannock',
          },
        ],
        ['B-02', { code: 'B-02', litres: '1.00', 'well.code': 'AF-0232', 'well.owner.name': 'Ines Brannock' }],
        ['B-04', { code: 'B-04', litres: '0.25', 'well.code': 'AF-0231', 'well.owner.name': 'Ines Brannock' }],
      ],
    ]);
    expect(
      (await ines.get('/portals/alder-fen/records/lab:bottles/B-01?columns=code,well.code')).body.record.values,
    ).toEqual({ code: 'B-01', 'well.code': 'AF-0231' });
    expect((await ines.get('/portals/alder-fen/records/lab:bottles/B-03')).status).toBe(404);
    expect(
      (await ines.get('/portals/alder-fen/records/wells/231/related/bottles?columns=code')).body.records.map(
        (record: { id: string }) => record.id,
      ),
    ).toEqual(['B-01', 'B-04']);
    expect((await ines.get('/portals/alder-fen/records/wells/1/related/bottles')).status).toBe(404);
    expect((await ines.get('/portals/alder-fen/lookups/lab:bottles/well?search=041')).body.candidates).toEqual([
      { value: '419', label: 'AF-0419' },
    ]);
    expect(
      (
        await ines.send('PATCH', '/portals/alder-fen/records/lab:bottles/B-02', {
          changes: { well_id: { from: 232, to: 419 } },
        })
      ).body.record.values.well_id,
    ).toBe(419);
    expect(
      await (
        await fetch(`${demo.base}/api/portals/alder-fen/exports/lab:bottles?format=csv&columns=code,well.code`, {
          headers: ines.headers(),
        })
      ).text(),
    ).toBe('code,well.code\r\nB-01,AF-0231\r\nB-02,AF-0419\r\nB-04,AF-0231\r\n');
    for (const ask of [
      'records/bottles',
      'records/lab:nothing',
      'records/other:bottles',
      'records/lab:bottles?sort=well.code',
      'records/lab:bottles?filter=well.code%20%3D%201',
    ])
      expect((await ines.get(`/portals/alder-fen/${ask}`)).status).toBeGreaterThanOrEqual(400);
  });

  it('gives the tables that are chosen, and none that the draft uses is left out', async () => {
    expect((await builder.get(`${bench}/sources/tables?name=lab`)).body).toEqual({
      tables: ['bottles', 'racks', 'seals'],
      chosen: null,
    });
    expect(
      (await builder.send('PUT', `${bench}/sources/tables`, { name: 'lab', tables: ['racks'] })).body.detail,
    ).toContain('The draft still uses lab:bottles in what Well owner may do with lab:bottles');
    await apply((draft) => {
      firstList(draft.pages.at(-1)).columns = ['code'];
      delete draft.access['lab:racks'];
    });
    expect((await builder.send('PUT', `${bench}/sources/tables`, { name: 'lab', tables: ['bottles'] })).status).toBe(
      200,
    );
    const { catalogue } = (await builder.get(bench)).body as {
      catalogue: { tables: { name: string; relations: unknown[] }[] };
    };
    expect(
      catalogue.tables.filter((table) => table.name.startsWith('lab:')).map((table) => [table.name, table.relations]),
    ).toEqual([['lab:bottles', []]]);
    const { columns } = (await builder.get(`${bench}/all/tables/lab:bottles`)).body as TableInfo;
    expect(columns.flatMap(({ path, relation }) => (relation ? [[path, relation]] : []))).toEqual([
      ['well_id', { name: 'well', table: 'wells', title: 'well.code', opens: true }],
    ]);
    for (let i = 0; i < 2; i++) expect((await builder.post(`${bench}/draft/undo`, {})).status).toBe(200);
  });

  it('has ceilings of its own, and stands in the change report', async () => {
    const ceiling = { where: '', create: true, edit: true, delete: true, export: true, columns: { litres: 'nothing' } };
    expect((await builder.send('PUT', `${bench}/ceilings/lab:bottles`, ceiling)).status).toBe(200);
    expect((await builder.get(`${bench}/ceilings/lab:bottles`)).body.columns).toEqual({ litres: 'nothing' });
    expect(Object.keys((await builder.get(`${bench}/all/records/lab:bottles/B-01`)).body.record.values)).not.toContain(
      'litres',
    );
    await builder.send('PUT', `${bench}/ceilings/lab:bottles`, { ...ceiling, columns: {} });
    await apply((draft) => {
      delete draft.access['lab:bottles']!.well_owner!.see;
    });
    const groups = (await builder.ended(`${bench}/jobs`, `${bench}/change-report`)).result.groups as {
      table: string;
      people: { name: string }[];
      change: { rowsLost: number };
    }[];
    expect(
      groups
        .filter((group) => group.table === 'lab:bottles')
        .flatMap((group) => group.people.map((person) => person.name)),
    ).toContain('Ines Brannock');
    expect((await builder.post(`${bench}/draft/undo`, {})).status).toBe(200);
  });

  it(
    'follows a table that is renamed in the portal that owns it, and is not taken out while something speaks of ' +
      'it',
    async () => {
      await builder.post('/builder/portals', {
        slug: 'lab',
        name: 'Lab',
        schema: 'further_lab',
        timeZone: 'Europe/London',
      });
      expect(
        (await builder.get('/builder/portals/lab/shape/uses?table=bottles')).body.uses.map(
          (each: { portal: string }) => each.portal,
        ),
      ).toEqual(['Alder Fen Wells']);
      expect(
        (await builder.send('PUT', `${bench}/sources/tables`, { name: 'lab', tables: ['racks', 'bottles'] })).status,
      ).toBe(200);
      expect((await builder.post('/builder/portals/lab/shape/tables/bottles/rename', { to: 'flasks' })).status).toBe(
        204,
      );
      const renamed = await definition();
      expect(renamed.sources!.lab!.tables).toEqual(['racks', 'flasks']);
      expect([
        Object.keys(renamed.access).filter((name) => name.startsWith('lab:')),
        firstList(renamed.pages.at(-1)).table,
      ]).toEqual([['lab:flasks', 'lab:racks'], 'lab:flasks']);
      expect((await builder.send('DELETE', `${bench}/sources/lab`)).body.detail).toContain(
        'The draft still speaks of lab',
      );
      await apply((draft) => {
        delete draft.access['lab:flasks'];
        delete draft.access['lab:racks'];
        delete draft.tables['lab:flasks'];
        draft.pages.pop();
      });
      expect((await builder.send('DELETE', `${bench}/sources/lab`)).status).toBe(200);
      expect((await definition()).sources).toBeUndefined();
    },
  );
});
