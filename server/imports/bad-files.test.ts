import ExcelJS from 'exceljs';
import { deflateRawSync, crc32 } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { asFile, readAll } from '../../test/file-bytes';
import { FileProblem } from '../formats/file-problem';

type Sheet = (sheet: ExcelJS.Worksheet, book: ExcelJS.Workbook) => void;

async function spreadsheet(fill: Sheet): Promise<Buffer> {
  const book = new ExcelJS.Workbook();
  fill(book.addWorksheet('Wells'), book);
  return Buffer.from(await book.xlsx.writeBuffer());
}

/** A packed file (ZIP, PKWARE's APPNOTE) by hand, so that it can lie about what it holds. */
function packed(parts: { name: string; bytes: Buffer; claims?: number }[]): Buffer {
  const local: Buffer[] = [];
  const central: Buffer[] = [];
  let at = 0;
  for (const { name, bytes, claims } of parts) {
    const data = deflateRawSync(bytes, { level: 9 });
    const head = (signature: number, extra: number) => {
      const buffer = Buffer.alloc(extra + name.length);
      buffer.writeUInt32LE(signature, 0);
      const from = signature === 0x04034b50 ? 4 : 6;
      buffer.writeUInt16LE(20, from);
      buffer.writeUInt16LE(8, from + 4);
      buffer.writeUInt32LE(crc32(bytes), from + 10);
      buffer.writeUInt32LE(data.length, from + 14);
      buffer.writeUInt32LE(claims ?? bytes.length, from + 18);
      buffer.writeUInt16LE(name.length, from + 22);
      buffer.write(name, extra);
      return buffer;
    };
    const localHead = head(0x04034b50, 30);
    const centralHead = head(0x02014b50, 46);
    centralHead.writeUInt32LE(at, 42);
    local.push(localHead, data);
    central.push(centralHead);
    at += localHead.length + data.length;
  }
  const end = Buffer.alloc(22);
  end.writeUInt32LE(0x06054b50, 0);
  end.writeUInt16LE(parts.length, 8);
  end.writeUInt16LE(parts.length, 10);
  end.writeUInt32LE(
    central.reduce((sum, each) => sum + each.length, 0),
    12,
  );
  end.writeUInt32LE(at, 16);
  return Buffer.concat([...local, ...central, end]);
}

const utf8 = (text: string) => Buffer.from(text, 'utf8');
const many = (count: number) => Array.from({ length: count }, (_, i) => `c${i}x`).join(',');
const deep = (levels: number) => '['.repeat(levels) + ']'.repeat(levels);
const zeros = (megabytes: number) => Buffer.alloc(megabytes * 1024 * 1024, 0x20);

/** Each with the sentence that a person gets. */
const bad: [string, () => Buffer | Promise<Buffer>, RegExp][] = [
  ['nothing', () => utf8(''), /^The file is empty/],
  ['blank lines', () => utf8(' \n\n\r\n'), /^The file is empty/],
  ['a byte order mark alone', () => Buffer.from([0xef, 0xbb, 0xbf]), /^The file is empty/],
  ['a UTF-16 mark alone', () => Buffer.from([0xff, 0xfe]), /^The file is empty/],
  ['headings and no row', () => utf8('a,b\n'), /names its columns and has no row/],
  ['a record too long', () => utf8('a,b\n1,2\n1,2,3\n'), /^Record 3 has 3 values, the first has 2/],
  ['a record too short', () => utf8('a,b,c\n1,2,3\n1,2\n'), /^Record 3 has 2 values, the first has 3/],
  ['cut off within a record', () => utf8('a,b,c\n1,2,3\n4'), /^Record 3 has 1 value, the first has 3/],
  ['two headings in one file', () => utf8('a,b\n1,2\n\nc,d,e\n1,2,3\n'), /^Record 3 has 3 values/],
  ['the same heading twice', () => utf8('a,b,a\n1,2,3'), /^Two columns are called "a"/],
  ['the same heading but for spaces', () => utf8('a, a\n1,2'), /^Two columns are called "a"/],
  ['a quote never closed', () => utf8('a,b\n"x,2\n3,4\n'), /^A quote is opened near line \d+ and never closed/],
  ['a quote inside a quoted value', () => utf8('a,b\n"x"y,2'), /quote inside a quoted value is written twice/],
  ['301 columns', () => utf8(`${many(301)}\n${many(301)}`), /^The file has 301 columns; 300 can be taken/],
  [
    'a cell of 50 MB',
    () => Buffer.concat([utf8('a,b\n"'), Buffer.alloc(50 * 1024 * 1024, 0x78), utf8('",2\n')]),
    /more than 1,000,000 characters/,
  ],
  ['a heading of 2,000 characters', () => utf8(`a,"${'x'.repeat(2000)}"\n1,2`), /longer than 1,000 characters/],
  ['a picture called .csv', () => Buffer.from('89504e470d0a1a0a0000', 'hex'), /a picture \(PNG\)/],
  ['a photo', () => Buffer.from('ffd8ffe000104a464946', 'hex'), /a picture \(JPEG\)/],
  ['an animated picture', () => utf8('GIF89a..'), /a picture \(GIF\)/],
  ['a PDF', () => utf8('%PDF-1.7\n'), /a PDF/],
  ['an old or locked spreadsheet', () => Buffer.from('d0cf11e0a1b11ae1', 'hex'), /an old or a locked spreadsheet/],
  ['a gzip file', () => Buffer.from('1f8b0800000000', 'hex'), /unpack it first/],
  ['a program', () => Buffer.from('7f454c4602010100', 'hex'), /a program/],
  ['zero bytes', () => Buffer.from([97, 44, 98, 10, 49, 0, 50]), /zero bytes/],
  ['UTF-16 without its mark', () => Buffer.from('a,b\n1,2\n', 'utf16le'), /zero bytes/],
  ['JSON cut off', () => utf8('[{"a": 1}, {"a": '), /not JSON as RFC 8259 has it/],
  ['JSON with a comma too many', () => utf8('[{"a": 1},]'), /not JSON as RFC 8259 has it/],
  ['one JSON object', () => utf8('{\n "wells": [{"a": 1}]\n}'), /one object, not a list/],
  ['an empty JSON list', () => utf8('[]'), /an empty list/],
  ['JSON objects with no names', () => utf8('[{},{}]'), /no names/],
  ['a JSON list of numbers and objects', () => utf8('[{"a": 1}, 2]'), /^Record 2 is no object/],
  ['JSON with an object in a cell', () => utf8('[{"a": {"b": 1}}]'), /^Record 1: "a" holds an object/],
  ['JSON with a list of objects in a cell', () => utf8('[{"a": 1}, {"a": [{}]}]'), /^Record 2: "a" holds a list/],
  ['JSON nested 100,000 deep', () => utf8(`[{"a": ${deep(100_000)}}]`), /nested too deep|not JSON|holds a list/],
  ['JSON not in UTF-8', () => Buffer.concat([utf8('[{"a": "'), Buffer.from([0xe4]), utf8('"}]')]), /not in UTF-8/],
  [
    'JSON of 60 MB on one line',
    () => Buffer.concat([utf8('[{"a": "'), Buffer.alloc(60 * 1024 * 1024, 0x78), utf8('"}]')]),
    /too large to be read as JSON/,
  ],
  ['JSON Lines with a broken line', () => utf8('{"a": 1}\n{"a": \n{"a": 3}\n'), /^Line 2 is not JSON/],
  ['JSON Lines with a line that is no object', () => utf8('{"a": 1}\n[2]\n'), /^Line 2 is no object/],
  [
    'a packed file that is no spreadsheet',
    () => packed([{ name: 'readme.txt', bytes: utf8('hello') }]),
    /packed file that holds no spreadsheet/,
  ],
  [
    'a packed file cut off',
    async () => (await spreadsheet((sheet) => sheet.addRows([['a'], [1]]))).subarray(0, 2000),
    /damaged, or cut off/,
  ],
  [
    'a packed file with wrong bytes inside',
    async () => {
      const bytes = await spreadsheet((sheet) =>
        sheet.addRows([['a', 'b'], ...Array.from({ length: 500 }, (_, i) => [i, `text ${i}`])]),
      );
      bytes.fill(0xaa, 3000, 3600);
      return bytes;
    },
    /damaged/,
  ],
  [
    'a zip bomb',
    () =>
      packed([
        { name: 'xl/workbook.xml', bytes: utf8('<workbook/>') },
        { name: 'xl/sharedStrings.xml', bytes: zeros(200) },
      ]),
    /far larger than a spreadsheet of its size/,
  ],
  [
    'a zip bomb that lies about its size',
    () =>
      packed([
        { name: 'xl/workbook.xml', bytes: utf8('<workbook/>') },
        { name: 'xl/sharedStrings.xml', bytes: zeros(200), claims: 1000 },
      ]),
    /damaged/,
  ],
  [
    'a packed file of 10,001 parts',
    () => packed(Array.from({ length: 10_001 }, (_, i) => ({ name: `xl/${i}.xml`, bytes: Buffer.alloc(0) }))),
    /too many parts/,
  ],
  ['a spreadsheet with nothing in it', () => spreadsheet(() => undefined), /no value on any sheet/],
  [
    'a spreadsheet of headings',
    () => spreadsheet((sheet) => sheet.addRow(['Code', 'Depth'])),
    /names its columns and has no row/,
  ],
  [
    'a spreadsheet with a heading twice',
    () =>
      spreadsheet((sheet) =>
        sheet.addRows([
          ['Code', 'Code'],
          ['A', 'B'],
        ]),
      ),
    /^Two columns are called "Code"/,
  ],
  [
    'a spreadsheet with a title above its table',
    () => spreadsheet((sheet) => sheet.addRows([['Wells of the north'], ['Code', 'Depth'], ['A', 1]])),
    /^Row 2 has a value in column B, which has no heading/,
  ],
  [
    'a spreadsheet with a formula that failed',
    () =>
      spreadsheet((sheet) => {
        sheet.addRow(['Code', 'Depth']);
        sheet.addRow(['A', { formula: '1/0', result: { error: '#DIV/0!' } as never }]);
      }),
    /^The formula in cell B2 has failed/,
  ],
  [
    'a spreadsheet with an error in a cell',
    () =>
      spreadsheet((sheet) => {
        sheet.addRow(['Code', 'Depth']);
        sheet.addRow(['A', { error: '#N/A' }]);
      }),
    /^Cell B2 holds the error #N\/A/,
  ],
  [
    'a spreadsheet with 301 columns',
    () => spreadsheet((sheet) => sheet.addRows([Array.from({ length: 301 }, (_, i) => `c${i}x`), ['A']])),
    /^The file has 301 columns/,
  ],
];

describe('a bad file', () => {
  it.each(bad)('%s gets a clear sentence, in bounded memory', async (_what, make, sentence) => {
    const bytes = await make();
    const before = process.memoryUsage().rss;
    const fault = await readAll(asFile(bytes, 1 << 20)).then(
      () => 'it was read',
      (error: unknown) => error,
    );
    expect(fault).toBeInstanceOf(FileProblem);
    expect((fault as Error).message).toMatch(sentence);
    expect(process.memoryUsage().rss - before).toBeLessThan(400 * 1024 * 1024);
  });

  it('is one of at least forty', () => expect(bad.length).toBeGreaterThanOrEqual(40));
});

describe('a strange but sound file', () => {
  it('is read whole, and what is strange is said', async () => {
    const book = await spreadsheet((sheet, whole) => {
      sheet.addRows([
        ['Code', 'Depth', 'Since', 'Seen', 'Open'],
        ['007', 12.25, new Date('2026-11-24T00:00:00Z'), new Date('2026-11-24T09:30:00Z'), true],
        ['B', { formula: '6*7', result: 42 }, null, { formula: 'NOW()', result: 46350.5 }, false],
        ['C', { formula: '1-1', result: 0 }],
      ]);
      sheet.getCell('D3').numFmt = 'yyyy-mm-dd hh:mm';
      sheet.getCell('A5').value = { richText: [{ text: 'bold ' }, { text: 'plain', font: { bold: true } }] };
      sheet.mergeCells('B5:C5');
      sheet.getCell('A7').value = 'after a gap';
      whole.addWorksheet('Second').addRows([['x'], ['y']]);
    });
    const { facts, rows, lines } = await readAll(asFile(book));
    expect([facts.sheet, facts.sheets, facts.headers]).toEqual([
      'Wells',
      ['Wells', 'Second'],
      ['Code', 'Depth', 'Since', 'Seen', 'Open'],
    ]);
    expect(rows).toEqual([
      ['007', '12.25', '2026-11-24', '2026-11-24 09:30:00', 'true'],
      ['B', '42', '', '2026-11-24 12:00:00', 'false'],
      ['C', '0', '', '', ''],
      ['bold plain', '', '', '', ''],
      ['after a gap', '', '', '', ''],
    ]);
    expect(lines).toEqual([2, 3, 4, 5, 7]);
    expect(facts.remarks).toEqual([
      'The file has 2 sheets; "Wells" is read.',
      '3 cells are formulas; their last result is taken.',
      '1 area is merged; the value stands in its first cell alone.',
    ]);
    expect((await readAll(asFile(book), 'Second')).rows).toEqual([['y']]);
  });

  it('keeps every digit of JSON, and takes names as they come', async () => {
    const { facts, rows } = await readAll(
      asFile('[{"a": 12345678901234567890, "b": 0.10}, {"b": null, "c": ["x", "y"]}, {"a": 1.5e3, "c": true}]'),
    );
    expect([facts.format, facts.headers, rows]).toEqual([
      'JSON',
      ['a', 'b', 'c'],
      [
        ['12345678901234567890', '0.10', ''],
        ['', '', 'x,y'],
        ['1500', '', 'true'],
      ],
    ]);
    const lines = await readAll(asFile('{"a": 1}\r\n\r\n{"a": "ü", "b": 2}\n', 3));
    expect([lines.facts.format, lines.rows, lines.lines]).toEqual([
      'JSON Lines',
      [
        ['1', ''],
        ['ü', '2'],
      ],
      [1, 3],
    ]);
  });
});
