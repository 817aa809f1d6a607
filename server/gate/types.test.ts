import { Client } from 'pg';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { builderPerson } from '../../core/access/person';
import { readCondition } from '../../core/condition/check';
import { parseCondition } from '../../core/condition/parse';
import type { PortalDefinition } from '../../core/definition/definition';
import { findTable, type Catalogue } from '../../core/table/catalogue';
import { freshSchema } from '../../test/tables';
import { person, wellsDefinition } from '../../test/wells';
import { MariadbSource } from '../sources/mariadb';
import { PostgresSource } from '../sources/postgres';
import type { Source } from '../sources/source';
import type { KnownPerson } from '../../core/access/people';
import type { Condition } from '../../core/condition/tree';
import { recordsByValue } from './view/across';
import { countForPeople } from './review/count-people';
import { create } from './write/create';
import { edit } from './write/edit';
import { list, type ListQuestion } from './read/list';
import { read } from './read/read';
import { trySavedQuery, withSavedQueries } from './facts/saved-query';
import type { Visit } from './view/visit';

/**
 * Types beyond the everyday ones: each is shown, and filtered as what it is or refused by name; never empty. Values and
 * counts are held against plain SQL of the database itself.
 */
interface Kind {
  /** In the database's words. */
  type: string;
  first: string;
  second: string;
  /** How the database's own SQL says the text that people meet. */
  text: string;
  /** Absent where a filter must be refused. */
  filter?: string;
  /** The side that plain SQL compares, where it is not the column itself. */
  own?: string;
  /** What a person writes in its stead; absent where it can't be changed. */
  typed?: [string | boolean, unknown];
}

const [one, two] = ['0f8fad5b-d9cb-469f-a165-70867728950e', '7c9e6679-7425-40de-944b-e07fc1f90ae7'];
const as = (how: string) => how.replaceAll('@', 'c');

const postgres: Record<string, Kind> = {
  padded: {
    type: 'char(6)',
    first: "'ab'",
    second: "'abc'",
    text: as('RTRIM(@)'),
    filter: "= 'ab'",
    typed: ['xy', 'xy'],
  },
  code: {
    type: 'uuid',
    first: `'${one}'`,
    second: `'${two}'`,
    text: as('@::text'),
    filter: `= '${one.toUpperCase()}'`,
    typed: [two.toUpperCase(), two],
  },
  at: {
    type: 'timestamptz',
    first: "'2026-03-01 12:00+02'",
    second: "'2026-03-01 09:30:00.25Z'",
    text: as(
      "to_char(@ AT TIME ZONE 'UTC', 'YYYY-MM-DD HH24:MI:SS') || CASE WHEN extract(microsecond FROM @)::int % " +
        "1000000 = 0 THEN '' ELSE '.25' END",
    ),
    filter: "> '2026-03-01 09:45'",
    typed: ['2026-04-01T10:00', '2026-04-01 10:00:00'],
  },
  lasts: { type: 'interval', first: "'1 day 2 hours'", second: "'3 mons'", text: as('@::text') },
  words: { type: 'text[]', first: '\'{a,"b c"}\'', second: "'{}'", text: as("array_to_string(@, ', ')") },
  numbers: { type: 'int[]', first: "'{1,2}'", second: "'{3}'", text: as("array_to_string(@, ', ')") },
  document: { type: 'jsonb', first: `'{"a": [1, 2]}'`, second: "'null'", text: as('@::text') },
  plain_document: { type: 'json', first: `'{"a":1}'`, second: "'[]'", text: as('@::text') },
  parish: {
    type: 'parish_name',
    first: "'Marsh'",
    second: "'Hill'",
    text: as('@::text'),
    filter: "LIKE 'M%'",
    typed: ['Fen', 'Fen'],
  },
  small: { type: 'smaller', first: '5', second: '7', text: as('@::text'), filter: '> 5', typed: ['3', 3] },
  mood: {
    type: 'mood_domain',
    first: "'calm'",
    second: "'wild'",
    text: as('@::text'),
    filter: "= 'calm'",
    own: 'mood::text',
    typed: ['wild', 'wild'],
  },
  host: {
    type: 'inet',
    first: "'10.0.0.1'",
    second: "'10.0.0.0/8'",
    text: as('abbrev(@)'),
    filter: "= '10.0.0.1'",
    typed: ['::1', '::1'],
  },
  net: {
    type: 'cidr',
    first: "'10.0.0.0/8'",
    second: "'2001:db8::/32'",
    text: as('@::text'),
    filter: "= '10.0.0.0/8'",
    typed: ['192.168.0.0/16', '192.168.0.0/16'],
  },
  card: {
    type: 'macaddr',
    first: "'08:00:2b:01:02:03'",
    second: "'08:00:2b:01:02:04'",
    text: as('@::text'),
    filter: "= '08:00:2b:01:02:03'",
    typed: ['08-00-2b-01-02-09', '08:00:2b:01:02:09'],
  },
  raw: {
    type: 'bytea',
    first: "'\\x00ff'",
    second: "'\\x01'",
    text: as("octet_length(@) || CASE octet_length(@) WHEN 1 THEN ' byte' ELSE ' bytes' END"),
  },
  flags: { type: 'bit(3)', first: "B'101'", second: "B'000'", text: as('@::text') },
  clock: { type: 'timetz', first: "'10:00+02'", second: "'11:00Z'", text: as('@::text') },
  span: { type: 'int4range', first: "'[1,5)'", second: "'empty'", text: as('@::text') },
  place: { type: 'point', first: "'(1,2)'", second: "'(3,4.5)'", text: as('@::text') },
  made: {
    type: "text GENERATED ALWAYS AS ('n' || small::int::text) STORED",
    first: 'DEFAULT',
    second: 'DEFAULT',
    text: as('@'),
    filter: "= 'n5'",
  },
};

const mariadb: Record<string, Kind> = {
  code: {
    type: 'UUID',
    first: `'${one}'`,
    second: `'${two}'`,
    text: as('CAST(@ AS CHAR)'),
    filter: `= '${one.toUpperCase()}'`,
    typed: [two.toUpperCase(), two],
  },
  host: {
    type: 'INET6',
    first: "'2001:db8::1'",
    second: "'::ffff:10.0.0.1'",
    text: as('CAST(@ AS CHAR)'),
    filter: "= '2001:db8::1'",
    typed: ['::1', '::1'],
  },
  older: {
    type: 'INET4',
    first: "'10.0.0.1'",
    second: "'10.0.0.2'",
    text: as('CAST(@ AS CHAR)'),
    filter: "= '10.0.0.1'",
    typed: ['10.9.9.9', '10.9.9.9'],
  },
  document: {
    type: 'JSON',
    first: `'{"a": [1, 2]}'`,
    second: "'[]'",
    text: as('CAST(@ AS CHAR)'),
    filter: "LIKE '%1, 2%'",
    typed: ['{"b":1}', '{"b":1}'],
  },
  place: { type: 'POINT', first: 'POINT(1, 2)', second: 'POINT(3, 4.5)', text: as('ST_AsText(@)') },
  area: {
    type: 'GEOMETRY',
    first: "ST_GeomFromText('POLYGON((0 0, 0 1, 1 1, 0 0))')",
    second: "ST_GeomFromText('LINESTRING(0 0, 1 1)')",
    text: as('ST_AsText(@)'),
  },
  raw: {
    type: 'BLOB',
    first: "x'00ff'",
    second: "x'01'",
    text: as("CONCAT(LENGTH(@), IF(LENGTH(@) = 1, ' byte', ' bytes'))"),
  },
  fixed: { type: 'BINARY(4)', first: "x'00ff'", second: "x'01'", text: as("CONCAT(LENGTH(@), ' bytes')") },
  flag: {
    type: 'BIT(1)',
    first: "b'1'",
    second: "b'0'",
    text: as("IF(@ + 0, 'true', 'false')"),
    filter: '= TRUE',
    typed: [false, false],
  },
  flags: { type: 'BIT(3)', first: "b'101'", second: "b'0'", text: as("LPAD(BIN(@ + 0), 3, '0')") },
  year: {
    type: 'YEAR',
    first: '1999',
    second: '2026',
    text: as('CAST(@ AS CHAR)'),
    filter: '> 2000',
    typed: ['2030', 2030],
  },
  unseen: {
    type: 'VARCHAR(9) INVISIBLE',
    first: "'there'",
    second: "'too'",
    text: as('@'),
    filter: "= 'there'",
    typed: ['now', 'now'],
  },
  stored: {
    type: "VARCHAR(9) AS (CONCAT('n', n)) STORED",
    first: 'DEFAULT',
    second: 'DEFAULT',
    text: as('@'),
    filter: "= 'n1'",
  },
  virtual: {
    type: 'INT AS (n * 2) VIRTUAL',
    first: 'DEFAULT',
    second: 'DEFAULT',
    text: as('CAST(@ AS CHAR)'),
    filter: '= 4',
  },
};

interface Side {
  name: string;
  kinds: Record<string, Kind>;
  source: Source;
  catalogue: Catalogue;
  run: (text: string) => Promise<unknown[][]>;
}

const sides: Side[] = [];
let plain: Connection;
let client: Client;
const question: ListQuestion = { columns: [], sort: [], where: [], search: '', after: null, before: null, size: 10 };

const definition = (kinds: Record<string, Kind>): PortalDefinition => {
  const columns = ['n', ...Object.keys(kinds)];
  return wellsDefinition(
    {
      kinds: {
        desk: { see: { where: 'every row', columns }, edit: { where: 'as seen', columns }, create: { columns } },
        owner: { see: { where: 'every row', columns } },
      },
    },
    Object.keys(kinds).map((column, i) => ({
      id: `m${i}`,
      table: 'kinds',
      column,
      mask: { style: column === 'code' ? 'keep last' : 'all', count: 4 } as never,
      to: ['owner'],
      exceptRoles: [],
    })),
  );
};

const visit = (side: Side, who = person(['desk'])): Visit => ({
  definition: definition(side.kinds),
  catalogue: side.catalogue,
  person: who,
  moment: new Date(),
});

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'types');
  client = new Client(inject('postgres'));
  await client.connect();
  for (const text of [
    'DROP SCHEMA IF EXISTS "Odd Types" CASCADE',
    'CREATE SCHEMA "Odd Types"',
    'SET search_path TO "Odd Types"',
    'CREATE DOMAIN parish_word AS varchar(12)',
    "CREATE DOMAIN parish_name AS parish_word NOT NULL CHECK (VALUE <> 'Nowhere')",
    'CREATE DOMAIN smaller AS smallint CHECK (VALUE < 100)',
    "CREATE TYPE mood AS ENUM ('calm', 'wild')",
    'CREATE DOMAIN mood_domain AS mood',
    'CREATE TABLE parted (id uuid, day date NOT NULL, note char(4), PRIMARY KEY (id, day)) PARTITION BY RANGE (day)',
    "CREATE TABLE parted_old PARTITION OF parted FOR VALUES FROM ('2020-01-01') TO ('2025-01-01')",
    "CREATE TABLE parted_new PARTITION OF parted FOR VALUES FROM ('2025-01-01') TO ('2030-01-01')",
    'CREATE TABLE child (id int GENERATED BY DEFAULT AS IDENTITY PRIMARY KEY, parted_id uuid, parted_day date, ' +
      'FOREIGN KEY (parted_id, parted_day) REFERENCES parted (id, day))',
    `INSERT INTO parted VALUES ('${one}', '2024-05-05', 'old'), ('${two}', '2026-05-05', 'new')`,
  ])
    await client.query(text);
  const sources: [string, Record<string, Kind>, Source, Side['run']][] = [
    [
      'PostgreSQL',
      postgres,
      new PostgresSource(inject('postgres'), 'Odd Types'),
      async (text) => (await client.query<unknown[]>({ text, rowMode: 'array' })).rows,
    ],
    [
      'MariaDB',
      mariadb,
      new MariadbSource(inject('database'), 'types'),
      async (text) => await plain.query<unknown[][]>({ sql: text, rowsAsArray: true }),
    ],
  ];
  for (const [name, kinds, source, run] of sources) {
    const uuid = name === 'MariaDB' ? 'UUID' : 'uuid';
    await run(
      `CREATE TABLE kinds (id ${uuid} PRIMARY KEY, n INT, ${Object.entries(kinds)
        .map(([column, { type }]) => `${column} ${type}`)
        .join(', ')})`,
    );
    for (const [n, id] of [
      [1, one],
      [2, two],
    ] as const)
      await run(
        `INSERT INTO kinds (id, n, ${Object.keys(kinds).join(', ')}) VALUES ('${id}', ${n}, ${Object.values(kinds)
          .map(({ first, second }) => (n === 1 ? first : second))
          .join(', ')})`,
      );
    await run('CREATE VIEW seen AS SELECT id, code FROM kinds');
    sides.push({ name, kinds, source, run, catalogue: await source.catalogue() });
  }
});

afterAll(async () => {
  await Promise.all([...sides.map((side) => side.source.close()), plain?.end(), client?.end()]);
});

describe('every type of both databases', () => {
  it('is shown as the database says it, to the builder, to a member, and veiled to another', async () => {
    for (const side of sides)
      for (const [column, kind] of Object.entries(side.kinds)) {
        const wanted = (await side.run(`SELECT ${kind.text.replaceAll(/\bc\b/g, column)} FROM kinds ORDER BY n`)).map(
          ([text]) => String(text),
        );
        for (const who of [builderPerson, person(['desk'])]) {
          const { records } = await list(side.source, visit(side, who), 'kinds', {
            ...question,
            columns: [[column]],
            sort: [{ path: ['n'], descending: false }],
          });
          expect([side.name, column, ...records.map(({ values }) => String(values[column]))]).toEqual([
            side.name,
            column,
            ...wanted,
          ]);
        }
        const { records } = await list(side.source, visit(side, person(['owner'])), 'kinds', {
          ...question,
          columns: [[column]],
          sort: [{ path: ['n'], descending: false }],
        });
        expect([column, records[0]!.values[column]]).toEqual([
          column,
          column === 'code' ? `••••••${one.slice(-4)}` : '••••',
        ]);
      }
  });

  it('is filtered as what it is, as many rows as the database itself finds, or refused by its name', async () => {
    for (const side of sides)
      for (const [column, kind] of Object.entries(side.kinds)) {
        const table = findTable(side.catalogue, 'kinds')!;
        const scope = { catalogue: side.catalogue, table, member: true };
        if (!kind.filter) {
          expect(() => readCondition(`${column} = 'x'`, scope), column).toThrow(
            `${column} (other) can only be tested with IS NULL`,
          );
          expect(
            (
              await list(side.source, visit(side), 'kinds', {
                ...question,
                where: [parseCondition(`${column} IS NOT NULL`).condition],
              })
            ).total,
            column,
          ).toBe(2);
          continue;
        }
        const where = readCondition(`${column} ${kind.filter}`, scope);
        const [[found]] = (await side.run(`SELECT COUNT(*) FROM kinds WHERE ${kind.own ?? column} ${kind.filter}`)) as [
          [unknown],
        ];
        expect([
          side.name,
          column,
          (await list(side.source, visit(side), 'kinds', { ...question, where: [where] })).total,
        ]).toEqual([side.name, column, Number(found)]);
        expect(Number(found), column).toBe(1);
      }
  });

  it('is changed where it can be, and a value that the type does not take is a sentence at its column', async () => {
    for (const side of sides) {
      const before = await read(side.source, visit(side), 'kinds', one);
      expect(before.editable.toSorted()).toEqual(
        ['n', ...Object.keys(side.kinds).filter((column) => side.kinds[column]!.typed)].toSorted(),
      );
      for (const [column, { typed }] of Object.entries(side.kinds)) {
        const change = (to: unknown) =>
          edit(
            side.source,
            visit(side),
            'kinds',
            one,
            { [column]: { from: before.values[column], to } },
            { trial: true },
          );
        if (!typed) await expect(change('x'), column).rejects.toThrow();
        else {
          expect([column, (await change(typed[0]))!.values[column]]).toEqual([column, typed[1]]);
          if (typeof typed[0] === 'string')
            await expect(change('?'.repeat(50)), column).rejects.toMatchObject({
              fields: { [column]: expect.stringMatching(/^[A-Z].*\.$/) },
            });
        }
      }
      const made = await create(
        side.source,
        visit(side, builderPerson),
        'kinds',
        { id: '11111111-2222-4333-8444-555555555555', ...(side.name === 'PostgreSQL' ? { parish: 'Fen' } : {}) },
        { trial: true },
      );
      expect(made.id).toBe('11111111-2222-4333-8444-555555555555');
      await expect(
        create(side.source, visit(side, builderPerson), 'kinds', { id: 'no uuid', n: 3 }, { trial: true }),
      ).rejects.toMatchObject({ fields: { id: expect.stringContaining('This is not a UUID.') } });
    }
    await expect(
      edit(
        sides[0]!.source,
        visit(sides[0]!),
        'kinds',
        one,
        { parish: { from: 'Marsh', to: 'Nowhere' } },
        { trial: true },
      ),
    ).rejects.toMatchObject({ fields: { parish: 'Parish breaks a rule of the database.' } });
    await expect(
      edit(sides[1]!.source, visit(sides[1]!), 'kinds', one, { year: { from: 1999, to: 99 } }, { trial: true }),
    ).rejects.toMatchObject({ fields: { year: 'This must be between 1901 and 2155.' } });
  });

  it('pages through and opens records by a key of UUIDs, in a view too; compares it with texts of one', async () => {
    for (const side of sides) {
      const first = await list(side.source, visit(side), 'kinds', { ...question, columns: [['n']], size: 1 });
      const second = await list(side.source, visit(side), 'kinds', {
        ...question,
        columns: [['n']],
        size: 1,
        after: first.next,
      });
      expect([first.records[0]!.id, second.records[0]!.id].toSorted()).toEqual([one, two]);
      expect([
        first.total,
        (await list(side.source, visit(side, builderPerson), 'seen', { ...question, columns: [['code']] })).records
          .map(({ values }) => values.code)
          .toSorted(),
      ]).toEqual([2, [one, two]]);
      const scope = { catalogue: side.catalogue, table: findTable(side.catalogue, 'kinds')!, member: true };
      expect(() => readCondition("code = 'x'", scope)).toThrow('code is a UUID; write it like');
      expect(() => readCondition(`code > '${one}'`, scope)).toThrow('code has no order');
      expect(() => readCondition('code = :member.email', scope)).toThrow(
        "code is a UUID and can't be compared with :member.email",
      );
    }
  });

  it('tells records apart where it is a key: each is paged to, opened, found by its text, and none twice', async () => {
    const keys: Record<string, Record<string, string[]>> = {
      PostgreSQL: {
        'char(6)': ['ab', 'abc', 'b'],
        inet: ['10.0.0.1', '10.0.0.0/8', '::1'],
        cidr: ['10.0.0.0/8', '192.168.0.0/16', '2001:db8::/32'],
        macaddr: ['08:00:2b:01:02:03', '08:00:2b:01:02:04', '09:00:2b:01:02:03'],
        uuid: [one, two, '11111111-2222-4333-8444-555555555555'],
        timestamp: ['2026-03-01 12:00:00', '2026-03-01 12:00:00.25', '2027-01-01 00:00:00'],
      },
      MariaDB: {
        'CHAR(6)': ['ab', 'abc', 'b'],
        INET6: ['2001:db8::1', '::1', '::ffff:10.0.0.1'],
        INET4: ['10.0.0.1', '10.0.0.2', '9.9.9.9'],
        UUID: [one, two, '11111111-2222-4333-8444-555555555555'],
        'DATETIME(3)': ['2026-03-01 12:00:00', '2026-03-01 12:00:00.25', '2027-01-01 00:00:00'],
      },
    };
    for (const side of sides) {
      for (const [i, [type, values]] of Object.entries(keys[side.name]!).entries()) {
        const table = `keyed_${i}`;
        await side.run(`CREATE TABLE ${table} (k ${type} PRIMARY KEY, words VARCHAR(20))`);
        for (const value of values) await side.run(`INSERT INTO ${table} VALUES ('${value}', 'w')`);
        const known = { ...visit(side, builderPerson), catalogue: await side.source.catalogue(true) };
        const ids: string[] = [];
        for (let after: string | null = null; ;) {
          const page = await list(side.source, known, table, { ...question, columns: [['k']], size: 1, after });
          ids.push(...page.records.map((record) => record.id!));
          if ((after = page.next) === null) break;
        }
        expect([side.name, type, ids.map(decodeURIComponent).toSorted()]).toEqual([side.name, type, values.toSorted()]);
        for (const id of ids) expect((await read(side.source, known, table, id)).values.k).toBe(decodeURIComponent(id));
        // What people look for is found in what is shown, whatever the type.
        const found = await list(side.source, known, table, { ...question, columns: [['k']], search: values[1]! });
        expect([type, found.total]).toEqual([
          type,
          type.toLowerCase().startsWith('datetime') || type === 'timestamp'
            ? 0
            : expect.toSatisfy((n: number) => n >= 1),
        ]);
      }
    }
  });

  it('is followed by value into another source, whatever the letter case of its text', async () => {
    for (const side of sides) {
      const leads = { table: 'kinds', targetColumn: 'id' };
      const asked = { ...visit(side, builderPerson), source: side.source };
      const { byValue } = await recordsByValue(side.source, asked, leads, [one.toUpperCase(), 'none'], [['n']]);
      expect([byValue(one.toUpperCase())?.values, byValue('none')]).toEqual([{ n: 1 }, undefined]);
    }
  });

  it('is a fact of the member like any other: rows by their UUID, counted for many at once too', async () => {
    for (const side of sides) {
      const asked = definition(side.kinds);
      asked.rosters = [{ table: 'kinds', name: 'code', email: 'code', role: 'desk' }];
      asked.access.kinds!.desk!.see!.where = readCondition('code = :member.kinds.id', {
        catalogue: side.catalogue,
        table: findTable(side.catalogue, 'kinds')!,
        member: true,
      });
      const who = person(['desk'], { kinds: { id: two } });
      expect(
        (
          await list(side.source, { ...visit(side, who), definition: asked }, 'kinds', {
            ...question,
            columns: [['n']],
          })
        ).records.map(({ values }) => values.n),
      ).toEqual([2]);
      const people = [one, two, null].map((id, i): KnownPerson => ({
        id: i + 1,
        name: `Member ${i}`,
        email: `m${i}@example.org`,
        organisation: null,
        rows: id === null ? {} : { kinds: { id } },
      }));
      const counted = await countForPeople(
        side.source,
        side.catalogue,
        asked,
        findTable(side.catalogue, 'kinds')!,
        asked.access.kinds!.desk!.see!.where as Condition,
        people,
        new Date(),
      );
      expect([side.name, counted.least, counted.most, counted.withNone]).toEqual([side.name, 0, 1, 1]);
    }
  });

  it('keeps its meaning in a saved query', async () => {
    for (const side of sides) {
      const columns = Object.keys(side.kinds);
      const query = {
        name: 'asked',
        key: ['n'],
        text:
          'SELECT n, ' +
          `${columns.map((column) => (side.name === 'MariaDB' ? `\`${column}\`` : `"${column}"`)).join(', ')} ` +
          'FROM kinds',
      };
      await trySavedQuery(side.source, side.catalogue, query);
      const known = {
        ...visit(side, builderPerson),
        catalogue: await withSavedQueries(side.source, side.catalogue, [query]),
      };
      for (const column of columns) {
        const [wanted] = (
          await list(side.source, visit(side), 'kinds', {
            ...question,
            columns: [[column]],
            sort: [{ path: ['n'], descending: false }],
          })
        ).records;
        const [found] = (
          await list(side.source, known, 'asked', {
            ...question,
            columns: [[column]],
            sort: [{ path: ['n'], descending: false }],
          })
        ).records;
        expect([side.name, column, String(found!.values[column])]).toEqual([
          side.name,
          column,
          String(wanted!.values[column]),
        ]);
      }
    }
  });
});

describe('tables of PostgreSQL that are made of others', () => {
  it('are one table with its key and its relation, and no part of one stands beside it', async () => {
    const side = sides[0]!;
    expect(side.catalogue.tables.map((table) => table.name).toSorted()).toEqual(['child', 'kinds', 'parted', 'seen']);
    expect(findTable(side.catalogue, 'parted')).toMatchObject({ key: ['id', 'day'] });
    expect(findTable(side.catalogue, 'child')!.foreignKeys).toEqual([
      { columns: ['parted_id', 'parted_day'], table: 'parted', targetColumns: ['id', 'day'] },
    ]);
    expect(findTable(side.catalogue, 'child')!.columns[0]).toMatchObject({ automatic: true });
    expect(
      (await list(side.source, visit(side, builderPerson), 'parted', { ...question, columns: [['note']] })).records.map(
        ({ values }) => values.note,
      ),
    ).toEqual(['old', 'new']);
  });
});
