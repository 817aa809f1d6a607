import { Client } from 'pg';
import { afterAll, beforeAll, describe, expect, inject, it, vi } from 'vitest';
import type { Connection } from 'mariadb';
import { Random } from '../../core/proof/random';
import { freshSchema } from '../../test/tables';
import { builderPerson, type Person } from '../../core/access/person';
import { parseCondition } from '../../core/condition/parse';
import { emptyDefinition, type PortalDefinition } from '../../core/definition/definition';
import type { ImportPlan } from '../../core/table/import-plan';
import { MariadbSource } from '../sources/mariadb';
import { PostgresSource } from '../sources/postgres';
import type { Source } from '../sources/source';
import { BringChanged, BringRefused, type RefusedRow } from './import/bring-outcome';
import { bring, type BringOptions } from './import/bring';
import { InvalidValues } from './view/errors';
import type { Visit } from './view/visit';

let plain: Connection;
let client: Client;
const sides: { source: Source; run: (text: string) => Promise<unknown> }[] = [];

const ddl = (serial: string) => [
  'CREATE TABLE owners (id INT PRIMARY KEY, name VARCHAR(40) NOT NULL, email VARCHAR(80) UNIQUE)',
  `CREATE TABLE wells (${serial}, code VARCHAR(20) NOT NULL UNIQUE, owner_id INT NULL REFERENCES owners (id), ` +
    'depth DECIMAL(6,2) NULL CHECK (depth < 900), drilled DATE NULL, note VARCHAR(40) NULL, seal VARCHAR(10) ' +
    `NULL UNIQUE${serial.includes('AUTO') ? ', FOREIGN KEY (owner_id) REFERENCES owners (id)' : ''})`,
];

const start = [
  "INSERT INTO owners VALUES (1, 'Ada', 'ada@example.org'), (2, 'Bo', NULL), (3, 'Bo', 'bo3@example.org')",
  "INSERT INTO wells (code, owner_id, depth, drilled, note, seal) VALUES ('AF-1', 1, 12.50, '2020-01-05', 'x', " +
    "'S1'), ('AF-2', 2, NULL, NULL, NULL, 'S2'), ('AF-3', NULL, 30.00, '2021-02-03', 'y', NULL)",
];

const base: PortalDefinition = emptyDefinition(
  { slug: 'bring', name: 'Bring', timeZone: 'UTC', colour: '#1f5f85' },
  'bring',
);

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'bring');
  for (const statement of ddl('id INT AUTO_INCREMENT PRIMARY KEY')) await plain.query(statement);
  client = new Client(inject('postgres'));
  await client.connect();
  await client.query('DROP SCHEMA IF EXISTS bring CASCADE');
  await client.query('CREATE SCHEMA bring');
  await client.query('SET search_path TO bring');
  for (const statement of ddl('id SERIAL PRIMARY KEY')) await client.query(statement);
  sides.push(
    { source: new MariadbSource(inject('database'), 'bring', 10, { own: true }), run: (text) => plain.query(text) },
    { source: new PostgresSource(inject('postgres'), 'bring'), run: (text) => client.query(text) },
  );
});

afterAll(async () => {
  for (const { source } of sides) await source.close();
  await plain?.end();
  await client?.end();
});

const reset = async () => {
  for (const { run } of sides)
    for (const statement of ['DELETE FROM wells', 'DELETE FROM owners', ...start]) await run(statement);
};

const all = async (run: (text: string) => Promise<unknown>, table = 'wells') => {
  const found = await run(
    `SELECT code, owner_id, ${table === 'wells' ? 'CAST(depth AS CHAR(12))' : 'CAST(depth AS CHAR(12))'} AS ` +
      `depth, CAST(drilled AS CHAR(10)) AS drilled, note, seal FROM ${table} ORDER BY LOWER(code)`,
  );
  return ((found as { rows?: unknown[] }).rows ?? (found as unknown[])).map((row) =>
    Object.values(row as object).map((value) => (value === null ? null : String(value).trim())),
  );
};

const visitOf = async (source: Source, person: Person = builderPerson, definition = base): Promise<Visit> => ({
  definition,
  catalogue: await source.catalogue(true),
  person,
  moment: new Date('2026-11-23T12:00:00Z'),
});

const plan: ImportPlan = {
  table: 'wells',
  key: 'code',
  unknown: 'add',
  known: 'change',
  empty: 'clear',
  columns: ['code', 'owner_id', 'depth', 'drilled', 'note', 'seal'].map((column) => ({ header: column, column })),
};

const file = (rows: string[][]) =>
  async function* () {
    for (let from = 0; from < rows.length; from += 7)
      yield { rows: rows.slice(from, from + 7), lines: rows.slice(from, from + 7).map((_, i) => from + i + 2) };
  };

const write = (expected: string, mode: 'all or nothing' | 'without the refused' = 'all or nothing'): BringOptions => ({
  write: { mode, expected, beforeKeeping: () => Promise.resolve() },
});

describe('bringing a file into a table', () => {
  it("does what the database's own upsert does, after telling it before", async () => {
    const random = new Random(7);
    const pick = <T>(list: readonly T[]): T => list[random.int(0, list.length - 1)]!;
    for (let round = 0; round < 25; round++) {
      await reset();
      const codes = Array.from({ length: 40 }, (_, i) => pick([`AF-${i}`, `af-${i}`, `Ö-${i}`, `o-${i} `])).toSorted(
        () => random.int(-1, 1),
      );
      const rows = codes.map((code, i) => [
        code,
        pick(['', '1', '2', '3']),
        pick(['', '12.5', '30', '0.05', '-3.10']),
        pick(['', '2021-02-03', '1999-12-31']),
        pick(['', 'x', 'y', 'Ärger "quoted"']),
        pick(['', `N${i}`]),
      ]);
      // Codes that the collation holds equal would meet twice: one of each is kept.
      const seen = new Set<string>();
      const distinct = rows.filter(([code]) => {
        const key = code!.trim().toLowerCase().replace('ö', 'o');
        return !seen.has(key) && seen.add(key);
      });
      await plain.query('DROP TABLE IF EXISTS twin');
      await plain.query('CREATE TABLE twin LIKE wells');
      await plain.query('INSERT INTO twin SELECT * FROM wells');
      const before = await all(sides[0]!.run);
      const { source } = sides[0]!;
      const told = await bring(source, await visitOf(source), plan, file(distinct), { write: null });
      expect(await all(sides[0]!.run)).toEqual(before);
      const begun = vi.spyOn(source, 'transaction');
      const done = await bring(source, await visitOf(source), plan, file(distinct), write(told.digest));
      // A cluster's nodes have it on the way.
      expect(begun.mock.calls.map(([, kind]) => kind)).toEqual([{ keep: true, isLarge: true }]);
      begun.mockRestore();
      expect({ ...done, samples: null }).toEqual({ ...told, samples: null });
      for (const row of distinct)
        await plain.execute(
          'INSERT INTO twin (code, owner_id, depth, drilled, note, seal) VALUES (?, ?, ?, ?, ?, ?) ON ' +
            'DUPLICATE KEY UPDATE owner_id = VALUE(owner_id), depth = VALUE(depth), drilled = VALUE(drilled), ' +
            'note = VALUE(note), seal = VALUE(seal)',
          row.map((cell) => (cell === '' ? null : cell)),
        );
      expect(await all(sides[0]!.run)).toEqual(await all(sides[0]!.run, 'twin'));
      expect([told.refused, told.added + told.changed + told.same]).toEqual([0, distinct.length]);
    }
    await plain.query('DROP TABLE twin');
  });

  it('names every cell that is in the way, and writes none or all but those', async () => {
    await reset();
    const rows = [
      ['AF-9', '1', '1,5', '2026-02-30', 'n', ''],
      ['AF-1', '7', '5', '', '', 'S1'],
      ['', '1', '', '', '', ''],
      ['AF-8', '', '', '', 'n', 'S2'],
      ['AF-7', '', '8', '', 'x'.repeat(41), ''],
      ['AF-2', '2', '', '', '', 'S2'],
      ['AF-8', '', '', '', 'again', ''],
      ['AF-6', '3', '4', '2026-01-01', 'new', 'S6'],
    ];
    for (const { source, run } of sides) {
      const before = await all(run);
      const refused: RefusedRow[] = [];
      const told = await bring(source, await visitOf(source), plan, file(rows), {
        write: null,
        onRefused: (row) => refused.push(row),
      });
      expect([told.added, told.changed, told.same, told.refused]).toEqual([1, 0, 1, 6]);
      expect(
        refused.map((row) => [
          row.line,
          row.cells.map((cell) => `${cell.header} ${cell.value.slice(0, 10)}: ${cell.reason.split('.')[0]}`),
        ]),
      ).toEqual([
        [2, ['depth 1,5: This has a comma, which can mean two things', 'drilled 2026-02-30: This is not a date']],
        [3, ['owner_id 7: There is no such record']],
        [4, ["code : Without it the record can't be told apart"]],
        [5, ['seal S2: This value is already taken']],
        [6, ['note xxxxxxxxxx: This has 41 characters; 40 fit']],
        [8, ['code AF-8: This stands in an earlier record of the file too']],
      ]);
      await expect(bring(source, await visitOf(source), plan, file(rows), write(told.digest))).rejects.toThrow(
        BringRefused,
      );
      expect(await all(run)).toEqual(before);
      expect(
        await bring(source, await visitOf(source), plan, file(rows), write(told.digest, 'without the refused')),
      ).toMatchObject({ added: 1, refused: 6 });
      expect(await all(run)).toEqual(
        [...before, ['AF-6', '3', '4.00', '2026-01-01', 'new', 'S6']].toSorted((a, b) => (a[0]! < b[0]! ? -1 : 1)),
      );
    }
  });

  it('finds records by what people call them, and keeps what the file leaves empty', async () => {
    await reset();
    const byName: ImportPlan = {
      ...plan,
      empty: 'keep',
      unknown: 'refuse',
      columns: [
        { header: 'Well', column: 'code' },
        { header: 'Owner', column: 'owner_id', by: 'name' },
        { header: 'Deep', column: 'depth', notation: 'decimal comma' },
        { header: 'On', column: 'drilled', notation: 'day first' },
      ],
    };
    const rows = [
      ['af-1', '', '1.2,5', '3/4/2026'],
      ['AF-3', 'Ada', '', '3/4/2026'],
      ['AF-2', 'Bo', '1,25', ''],
      ['AF-77', 'Ada', '', ''],
    ];
    for (const [i, { source, run }] of sides.entries()) {
      const sound = i === 0 ? rows : rows.map((row) => (row[0] === 'af-1' ? ['AF-1', ...row.slice(1)] : row));
      const told = await bring(source, await visitOf(source), byName, file(sound), { write: null });
      expect(told.samples.refused.map((row) => row.cells[0]!.reason)).toEqual([
        'This is not written as said: decimal comma, like 1.234,5 or 1 234,5.',
        "2 records of owners have this name, so it can't be told which is meant.",
        'There is no such record, and new ones are not to be added.',
      ]);
      expect(told.samples.changed).toEqual([
        {
          line: 3,
          id: told.samples.changed[0]!.id,
          known: 'AF-3',
          before: { owner_id: null, drilled: '2021-02-03' },
          after: { owner_id: 1, drilled: '2026-04-03' },
        },
      ]);
      await bring(source, await visitOf(source), byName, file(sound), write(told.digest, 'without the refused'));
      expect((await all(run)).at(2)).toEqual(['AF-3', '1', '30.00', '2026-04-03', 'y', null]);
    }
  });

  it('stops when the records have changed since, and at what only the database knows', async () => {
    await reset();
    for (const { source, run } of sides) {
      const rows = [
        ['AF-1', '1', '13', '', '', ''],
        ['AF-5', '', '999', '', 'too deep for the rule', ''],
      ];
      const told = await bring(source, await visitOf(source), plan, file(rows), { write: null });
      expect([told.added, told.changed, told.refused]).toEqual([1, 1, 0]);
      const before = await all(run);
      const late = (await bring(source, await visitOf(source), plan, file(rows), write(told.digest)).catch(
        (error: unknown) => error,
      )) as BringRefused;
      expect([late.constructor, late.outcome.refused, late.outcome.samples.refused[0]!.line]).toEqual([
        BringRefused,
        1,
        3,
      ]);
      expect(await all(run)).toEqual(before);
      await run("UPDATE wells SET depth = 14 WHERE code = 'AF-1'");
      await expect(bring(source, await visitOf(source), plan, file(rows), write(told.digest))).rejects.toThrow(
        BringChanged,
      );
      await expect(
        bring(source, await visitOf(source), { ...plan, key: 'note' }, file(rows), { write: null }),
      ).resolves.toBeDefined();
      await run("UPDATE wells SET note = 'same'");
      await expect(
        bring(source, await visitOf(source), { ...plan, key: 'note' }, file(rows), { write: null }),
      ).rejects.toThrow(InvalidValues);
    }
  });

  it("goes through the person's view: what they may not do by hand they may not do by file", async () => {
    await reset();
    const definition: PortalDefinition = {
      ...base,
      roles: [{ id: 'keeper', name: 'Keeper' }],
      access: {
        wells: {
          keeper: {
            see: {
              where: parseCondition('owner_id = 1 OR owner_id = 2').condition,
              columns: ['id', 'code', 'owner_id', 'depth'],
            },
            create: { columns: ['code', 'owner_id', 'depth'] },
            edit: { where: parseCondition('owner_id = 1').condition, columns: ['depth', 'owner_id'] },
          },
        },
        owners: { keeper: { see: { where: parseCondition('id < 3').condition, columns: ['id', 'name'] } } },
      },
    };
    const keeper: Person = {
      kind: 'member',
      id: 1,
      email: 'k@example.org',
      organisation: null,
      roles: ['keeper'],
      rows: {},
    };
    const mine: ImportPlan = {
      ...plan,
      columns: ['code', 'owner_id', 'depth'].map((column) => ({ header: column, column })),
    };
    const rows = [
      ['AF-1', '1', '20'],
      ['AF-2', '2', '20'],
      ['AF-3', '1', '20'],
      ['AF-8', '1', '1'],
      ['AF-9', '3', '1'],
    ];
    for (const { source, run } of sides) {
      const told = await bring(source, await visitOf(source, keeper, definition), mine, file(rows), { write: null });
      expect(told.samples.refused.map((row) => [row.line, row.cells[0]!.reason])).toEqual([
        [3, "This can't be changed by you."],
        [4, 'This value is already taken. Choose another.'],
        [6, 'There is no such record. Choose another.'],
      ]);
      await bring(
        source,
        await visitOf(source, keeper, definition),
        mine,
        file(rows),
        write(told.digest, 'without the refused'),
      );
      expect((await all(run)).map((row) => row.slice(0, 3))).toEqual([
        ['AF-1', '1', '20.00'],
        ['AF-2', '2', null],
        ['AF-3', null, '30.00'],
        ['AF-8', '1', '1.00'],
      ]);
      await expect(
        bring(source, await visitOf(source, keeper, definition), plan, file([]), { write: null }),
      ).rejects.toThrow(InvalidValues);
    }
  });
});
