import type { Connection } from 'mariadb';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { emptyDefinition, type PortalDefinition } from '../../core/definition/definition';
import { readDefinition } from '../../sections/definition';
import { parseCondition } from '../../core/condition/parse';
import { factsAlong } from '../../core/access/facts-asked';
import { freshSchema } from '../../test/tables';
import { MariadbSource } from '../sources/mariadb';
import { rosterStanding } from './facts/roster';
import { RostersBeside, type OwnQuestion } from './facts/roster-beside';

let plain: Connection;
let source: MariadbSource;

/** Row keys as a store could hold them; most of them are no row's. */
const keys = ['1', '2', '3', '03', '3.0', ' 3', '3x', 'x', '', '-1', '18446744073709551615', '99', '1e0', '%33'];

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'beside');
  for (const statement of [
    'CREATE TABLE labs (id INT PRIMARY KEY, region VARCHAR(20))',
    "INSERT INTO labs VALUES (1, 'north'), (2, NULL)",
    `CREATE TABLE staff (id BIGINT UNSIGNED PRIMARY KEY, name VARCHAR(40), email VARCHAR(80), lab_id INT,
      since DATE, share DECIMAL(20, 10), open BOOLEAN, CONSTRAINT lab FOREIGN KEY (lab_id) REFERENCES labs (id))`,
    `INSERT INTO staff VALUES (1, 'A', 'a@example.org', 1, '2026-01-02', 0.1234567891, TRUE),
      (2, NULL, NULL, 2, NULL, NULL, NULL), (3, 'C', 'c@example.org', NULL, '1999-12-31', 1234567890.5, FALSE),
      (18446744073709551615, 'D', 'd@example.org', 1, NULL, NULL, TRUE)`,
    'CREATE TABLE clients (id INT PRIMARY KEY, name VARCHAR(40), email VARCHAR(80))',
    "INSERT INTO clients VALUES (-1, 'minus', 'm@example.org'), (0, 'none', 'n@example.org'), (3, 'three', 't@x.org')",
    'CREATE TABLE coded (code VARCHAR(10) PRIMARY KEY, name VARCHAR(40), email VARCHAR(80))',
    "INSERT INTO coded VALUES ('x', 'X', 'x@example.org')",
    'CREATE TABLE held (roster VARCHAR(64), k VARCHAR(40))',
    ...['staff', 'clients', 'coded', 'nothing', 'STAFF'].flatMap((roster) =>
      keys.map((key) => `INSERT INTO held VALUES ('${roster}', '${key}')`),
    ),
    'INSERT INTO held VALUES (NULL, NULL)',
  ])
    await plain.query(statement);
  source = new MariadbSource(inject('database'), 'beside');
});

afterAll(async () => {
  await source?.close();
  await plain?.end();
});

const own: OwnQuestion = {
  selected: ['COUNT(*) OVER ()'],
  from: 'held h',
  where: 'h.k IS NULL OR h.k <> ?',
  values: ["no such ' key"],
  rosterTable: 'h.roster',
  rowKey: 'h.k',
  email: "'x@example.org'",
};

function definition(): PortalDefinition {
  return readDefinition({
    ...emptyDefinition({ slug: 'beside', name: 'Beside', timeZone: 'UTC', colour: '#1f5f85' }, 'beside'),
    roles: [{ id: 'one', name: 'One' }],
    rosters: ['staff', 'clients', 'coded'].map((table) => ({ table, name: 'name', email: 'email', role: 'one' })),
    access: {
      labs: { one: { see: { where: parseCondition('region = :member.staff.lab.region').condition, columns: ['id'] } } },
    },
  });
}

it('a roster row read beside what names it is the one that is read by itself, and no other', async () => {
  const read = definition();
  const catalogue = await source.catalogue();
  const found = await new RostersBeside(catalogue, read).ask(source, own);
  expect(found).toHaveLength(5 * keys.length + 1);
  expect(new Set(found.map((each) => Number(each.own[0])))).toEqual(new Set([5 * keys.length + 1]));
  let standing = 0;
  for (const each of found) {
    const roster = read.rosters.find(({ table }) => table === each.rosterTable);
    if (!roster || roster.table === 'coded') {
      // A key that is no number is asked for by itself.
      expect([each, each.standing]).toEqual([each, undefined]);
      continue;
    }
    const alone = await rosterStanding(source, catalogue, roster, factsAlong(read, roster.table) as string[][], [
      each.rowKey!,
    ]);
    // What is another way of writing a key is no address of a row.
    expect([each.rosterTable, each.rowKey, each.standing]).toEqual([
      each.rosterTable,
      each.rowKey,
      alone.get(each.rowKey!) ?? null,
    ]);
    if (each.standing) standing++;
  }
  // 1, 2, 3 and the largest of staff; 3 and -1 of clients.
  expect(standing).toBe(6);
});

it('finds a row by its key, however many there are', async () => {
  await plain.query("INSERT INTO clients SELECT seq, 'many', 'many@example.org' FROM seq_10_to_20000");
  const statements: string[] = [];
  const spy = {
    rows: (statement: Parameters<MariadbSource['rows']>[0]) => {
      statements.push(statement.text);
      return source.rows(statement);
    },
    write: (statement: Parameters<MariadbSource['write']>[0]) => source.write(statement),
  };
  await new RostersBeside(await source.catalogue(), definition()).ask(spy, own);
  const plan = await plain.query<{ table: string; type: string }[]>({
    sql: `EXPLAIN ${statements[0]!.replaceAll('?', "'x'")}`,
    rowsAsArray: false,
  });
  expect(plan.filter(({ table }) => table === 't0').map(({ type }) => type)).toEqual(['eq_ref', 'eq_ref']);
});
