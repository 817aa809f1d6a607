import { Client } from 'pg';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { freshSchema } from '../../test/tables';
import { builderPerson, type Person } from '../../core/access/person';
import { parseCondition } from '../../core/condition/parse';
import { emptyDefinition, type PortalDefinition } from '../../core/definition/definition';
import { namedCatalogue } from '../../core/definition/sources';
import { withCeilings, type Ceiling } from '../../core/definition/ceilings';
import { printPath } from '../../core/definition/path';
import type { Catalogue } from '../../core/table/catalogue';
import { MariadbSource } from '../sources/mariadb';
import { PostgresSource } from '../sources/postgres';
import type { Source } from '../sources/source';
import type { PlacedVisit } from './view/visit';
import { create } from './write/create';
import { edit } from './write/edit';
import { Conflict, InvalidValues } from './view/errors';
import { exportAcross } from './read/export';
import { count, list } from './read/list';

/**
 * Rights that are asked where a value passes on its way: taken out along a relation, pointed at from another record,
 * told by a conflict. In both databases.
 */
interface Place {
  source: Source;
  catalogue: Catalogue;
}

const places: Record<string, Place> = {};
let plain: Connection;
let client: Client;

const schema = `CREATE TABLE teams (id INT PRIMARY KEY, name VARCHAR(20));
  CREATE TABLE people (id INT PRIMARY KEY, name VARCHAR(20), phone VARCHAR(20), team_id INT REFERENCES teams (id),
  visible INT);
  CREATE TABLE rooms (house VARCHAR(9), number INT, label VARCHAR(20), visible INT, PRIMARY KEY (house, number));
  CREATE TABLE docs (id INT PRIMARY KEY, title VARCHAR(20), owner_id INT, team_id INT, house VARCHAR(9), room INT, state
  VARCHAR(9), FOREIGN KEY (owner_id) REFERENCES people (id), FOREIGN
  KEY (house, room) REFERENCES rooms (house, number));
  INSERT INTO teams VALUES (1, 'one'), (2, 'two');
  INSERT INTO people VALUES (1, 'Ada', '111', 1, 1), (2, 'Bo', '222', 2, 1), (3, 'Cy', '333', 1, 0);
  INSERT INTO rooms VALUES ('A', 1, 'hall', 1), ('A', 2, 'safe', 0), ('B', 1, 'shed', 1);
  INSERT INTO docs VALUES (1, 'first', 1, 1, 'A', 1, 'new'), (2, 'second', 2, 2, NULL, NULL, 'done')`;

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'passing');
  for (const statement of schema.split(';')) await plain.query(statement);
  const mariadb = new MariadbSource(inject('database'), 'passing');
  const admin = new Client(inject('postgres'));
  await admin.connect();
  await admin.query('CREATE DATABASE passing');
  await admin.end();
  client = new Client({ ...inject('postgres'), database: 'passing' });
  await client.connect();
  await client.query(schema);
  const postgres = new PostgresSource({ ...inject('postgres'), database: 'passing' }, 'public');
  places.MariaDB = { source: mariadb, catalogue: await mariadb.catalogue() };
  places.PostgreSQL = { source: postgres, catalogue: await postgres.catalogue() };
});

afterAll(async () => {
  await Promise.all([...Object.values(places).map(({ source }) => source.close()), client?.end()]);
  await plain?.end();
});

const when = (text: string) => parseCondition(text).condition;
const everyone = { where: 'every row' as const };
const clerk: Person = { kind: 'member', id: 1, email: 'c@example.org', organisation: null, roles: ['clerk'], rows: {} };

const definition: PortalDefinition = {
  ...emptyDefinition({ slug: 'passing', name: 'Passing', timeZone: 'UTC', colour: '#1f5f85' }, 'passing'),
  roles: [{ id: 'clerk', name: 'Clerk' }],
  access: {
    teams: { clerk: { see: { ...everyone, columns: ['id', 'name'] }, export: { where: when('id = 1') } } },
    people: { clerk: { see: { where: when('visible = 1'), columns: ['id', 'name', 'phone', 'team_id'] } } },
    rooms: { clerk: { see: { where: when('visible = 1'), columns: ['house', 'number', 'label'] } } },
    docs: {
      clerk: {
        see: { ...everyone, columns: ['id', 'title', 'owner_id', 'team_id', 'house', 'room', 'state'] },
        create: { columns: ['id', 'title', 'owner_id', 'team_id', 'house', 'room'] },
        edit: { where: 'as seen', columns: ['title', 'owner_id', 'team_id', 'house', 'room'] },
        export: { where: 'as seen' },
      },
    },
  },
};

const visitOf = (
  place: Place,
  change: (draft: PortalDefinition) => void = () => undefined,
  person = clerk,
  ceilings: Record<string, Ceiling> = {},
): PlacedVisit => {
  const draft = structuredClone(definition);
  change(draft);
  return {
    source: place.source,
    catalogue: withCeilings(place.catalogue, ceilings),
    definition: draft,
    person,
    moment: new Date('2026-11-23T12:00:00Z'),
  };
};

const taken = async (visit: PlacedVisit, columns: string[][]) => {
  const records: Record<string, unknown>[] = [];
  for await (const page of exportAcross(visit, 'docs', {
    columns,
    sort: [{ path: ['id'], descending: false }],
    where: [],
    search: '',
  }))
    for (const { cells } of page.records)
      records.push(
        Object.fromEntries(page.columns.flatMap((path, i) => (cells[i] === undefined ? [] : [[path, cells[i]]]))),
      );
  return records;
};

describe.each(['MariaDB', 'PostgreSQL'])('over %s', (database) => {
  const here = () => places[database]!;

  it('an export along a relation takes only what may be taken out there, under its ceiling too', async () => {
    const paths = [['title'], ['owner', 'phone'], ['owner', 'name']];
    expect(await taken(visitOf(here()), paths)).toEqual([{ title: 'first' }, { title: 'second' }]);
    const open = (draft: PortalDefinition) => {
      draft.access.people!.clerk!.export = { where: when('id = 1') };
    };
    expect(await taken(visitOf(here(), open), paths)).toEqual([
      { title: 'first', 'owner.phone': '111', 'owner.name': 'Ada' },
      { title: 'second' },
    ]);
    expect(await taken(visitOf(here(), open, clerk, { people: { export: false } }), paths)).toEqual([
      { title: 'first' },
      { title: 'second' },
    ]);
    expect(await taken(visitOf(here(), open, builderPerson, { people: { export: false } }), paths)).toEqual([
      { title: 'first' },
      { title: 'second' },
    ]);
    // Seen it is all the same.
    expect(
      (
        await list(here().source, visitOf(here()), 'docs', {
          columns: paths,
          sort: [],
          where: [],
          search: '',
          after: null,
          before: null,
          size: 9,
        })
      ).records.map((record) => record.values[printPath(['owner', 'phone'])]),
    ).toEqual(['111', '222']);
  });

  it('so does one into another source', async () => {
    const other = places[database === 'MariaDB' ? 'PostgreSQL' : 'MariaDB']!;
    const visit = visitOf(here(), (draft) => {
      draft.sources = { far: { kind: 'mariadb', schema: 'passing' } };
      draft.tables = {
        docs: { relations: [{ name: 'team', column: 'team_id', table: 'far:teams', targetColumn: 'id' }] },
      };
      draft.access['far:teams'] = draft.access.teams!;
    });
    const crossing: PlacedVisit = {
      ...visit,
      elsewhere: (name) =>
        Promise.resolve(
          name === null ? here() : { source: other.source, catalogue: namedCatalogue(other.catalogue, 'far') },
        ),
    };
    expect(await taken(crossing, [['title'], ['team', 'name']])).toEqual([
      { title: 'first', 'team.name': 'one' },
      { title: 'second' },
    ]);
    crossing.definition.access['far:teams'] = { clerk: { see: { ...everyone, columns: ['id', 'name'] } } };
    expect(await taken({ ...crossing, definition: { ...crossing.definition } }, [['title'], ['team', 'name']])).toEqual(
      [{ title: 'first' }, { title: 'second' }],
    );
  });

  /** What comes of writing, for a record that is seen, one that isn't, and one that never was. */
  const outcomes = async (visit: PlacedVisit, tries: Record<string, unknown>[]) =>
    Promise.all(
      tries.flatMap((values) =>
        [
          edit(
            here().source,
            visit,
            'docs',
            '1',
            Object.fromEntries(
              Object.entries(values).map(([column, to]) => [
                column,
                { from: { owner_id: 1, team_id: 1, house: 'A', room: 1 }[column], to },
              ]),
            ),
            { trial: true },
          ),
          create(here().source, visit, 'docs', { id: 99, title: 'x', ...values }, { trial: true }),
        ].map((work) =>
          work.then(
            () => 'done',
            (error: unknown) => {
              if (error instanceof InvalidValues) return error.fields;
              throw error;
            },
          ),
        ),
      ),
    );
  const no = (...columns: string[]) =>
    Object.fromEntries(columns.map((column) => [column, 'There is no such record. Choose another.']));

  it(
    'a record points only at what its writer sees: by one column, by several, at another source, at a table that ' +
      'is not open here',
    async () => {
      expect(await outcomes(visitOf(here()), [{ owner_id: 2 }, { owner_id: 3 }, { owner_id: 77 }])).toEqual([
        'done',
        'done',
        no('owner_id'),
        no('owner_id'),
        no('owner_id'),
        no('owner_id'),
      ]);
      expect(
        await outcomes(visitOf(here()), [
          { house: 'B', room: 1 },
          { house: 'A', room: 2 },
          { house: 'Z', room: 9 },
          { house: 'A', room: null },
        ]),
      ).toEqual([
        'done',
        'done',
        no('house', 'room'),
        no('house', 'room'),
        no('house', 'room'),
        no('house', 'room'),
        'done',
        'done',
      ]);
      // One of the two columns alone.
      expect((await outcomes(visitOf(here()), [{ room: 2 }, { room: 9 }])).filter((_, i) => i % 2 === 0)).toEqual([
        no('room'),
        no('room'),
      ]);
      const closed = {
        ...here(),
        catalogue: {
          ...here().catalogue,
          tables: here()
            .catalogue.tables.filter((table) => table.name === 'docs')
            .map((table) => ({ ...table, relations: [] })),
        },
      };
      expect(await outcomes(visitOf(closed), [{ owner_id: 2 }, { owner_id: 77 }])).toEqual([
        no('owner_id'),
        no('owner_id'),
        no('owner_id'),
        no('owner_id'),
      ]);
      expect(
        await outcomes(visitOf(closed), [
          { house: 'B', room: 1 },
          { house: 'Z', room: 9 },
        ]),
      ).toEqual(Array.from({ length: 4 }, () => no('house', 'room')));
      const other = places[database === 'MariaDB' ? 'PostgreSQL' : 'MariaDB']!;
      const visit = visitOf(here(), (draft) => {
        draft.sources = { far: { kind: 'mariadb', schema: 'passing' } };
        draft.tables = {
          docs: { relations: [{ name: 'team', column: 'team_id', table: 'far:teams', targetColumn: 'id' }] },
        };
        draft.access['far:teams'] = { clerk: { see: { where: when('id = 1'), columns: ['id', 'name'] } } };
      });
      const crossing: PlacedVisit = {
        ...visit,
        elsewhere: (name) =>
          Promise.resolve(
            name === null ? here() : { source: other.source, catalogue: namedCatalogue(other.catalogue, 'far') },
          ),
      };
      expect(await outcomes(crossing, [{ team_id: 1 }, { team_id: 2 }, { team_id: 77 }])).toEqual([
        'done',
        'done',
        no('team_id'),
        no('team_id'),
        no('team_id'),
        no('team_id'),
      ]);
    },
  );

  it('a conflict tells of a masked state only what its reader sees', async () => {
    const visit = visitOf(here(), (draft) => {
      draft.masks = [
        { id: 'state', table: 'docs', column: 'state', mask: { style: 'all' }, to: 'everyone', exceptRoles: [] },
      ];
      draft.lifecycles = [
        {
          table: 'docs',
          column: 'state',
          moves: [{ id: 'end', name: 'End', from: ['new'], to: 'done', roles: ['clerk'], needs: [] }],
        },
      ];
    });
    const move = async (from: unknown) =>
      edit(here().source, visit, 'docs', '1', { state: { from, to: 'done' } }, { trial: true }).then(
        () => 'done',
        (error: unknown) => (error instanceof Conflict ? error.fields : error),
      );
    expect(await move('old')).toEqual({ state: { was: 'old', now: '••••', yours: 'done' } });
    expect(await move('new')).toEqual({ state: { was: 'new', now: '••••', yours: 'done' } });
    expect(await move('••••')).toBe('done');
    expect(await move(undefined)).toBe('done');
  });

  it("the rows under a ceiling are the builder's too", async () => {
    const visit = visitOf(here(), undefined, builderPerson, { people: { where: when('visible = 1') } });
    expect(await count(here().source, visit, 'people')).toBe(2);
    await expect(
      edit(here().source, visit, 'people', '3', { name: { from: 'Cy', to: 'x' } }, { trial: true }),
    ).rejects.toThrow('no such record');
    await expect(
      edit(
        here().source,
        visitOf(here(), undefined, builderPerson, { people: { where: when("name = 'Ada'") } }),
        'people',
        '1',
        { name: { from: 'Ada', to: 'x' } },
        { trial: true },
      ),
    ).rejects.toThrow('no longer be yours');
  });
});
