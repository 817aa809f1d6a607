import { createRequire } from 'node:module';
import { Readable } from 'node:stream';
import Big from 'big.js';
import type ExcelJS from 'exceljs';
import type { CellValue } from 'exceljs';
import yauzl from 'yauzl';
import { unescaped } from './export-spreadsheet';
import { FileProblem } from './file-problem';
import {
  longestRecord,
  looksHeaded,
  mostColumns,
  namedHeaders,
  refuseTooManyColumns,
  rowsAtOnce,
  type Bytes,
  type FileFacts,
  type Rows,
} from './file-facts';

// The package's streaming reader decodes what its XML parser has decoded already, so that a text like `&lt;` would come
// out as `<`.
(createRequire(import.meta.url)('exceljs/lib/utils/utils') as { xmlDecode: (text: string) => string }).xmlDecode = (
  text,
) => text;

/** Packed, unpacked, and how much of it the texts that cells share may be, since those are held in memory. */
const largestPacked = 60 * 1024 * 1024;
const largestUnpacked = 1500 * 1024 * 1024;
const largestTexts = 150 * 1024 * 1024;
const mostParts = 10_000;

/**
 * Reads a spreadsheet (ECMA-376, XLSX) through: its sheets, and the headings of the one that is read, which is the
 * first with a value unless `sheet` names one.
 */
export async function spreadsheetFacts(bytes: Bytes, sheet?: string): Promise<FileFacts> {
  const { sheets: names, formulas, merged } = await checkParts(bytes);
  const remarks: string[] = [];
  let found: { sheet: string; row: string[] } | null = null;
  const seen: string[] = [];
  for await (const { name, records } of sheetsOf(bytes)) {
    seen.push(name);
    if (found || (sheet !== undefined && sheet !== name)) continue;
    for await (const { row } of records()) {
      found = { sheet: name, row };
      break;
    }
  }
  if (!found)
    throw new FileProblem(
      sheet === undefined
        ? 'The spreadsheet has no value on any sheet.'
        : `There is no value on a sheet called "${sheet}".`,
    );
  const first = found.row;
  refuseTooManyColumns(first.length);
  const headed = looksHeaded(first);
  const headers = headed ? namedHeaders(first) : first.map((_, i) => `Column ${i + 1}`);
  if (seen.length > 1) remarks.push(`The file has ${seen.length} sheets; "${found.sheet}" is read.`);
  if (formulas > 0)
    remarks.push(
      `${formulas.toLocaleString('en')} ` +
        `${formulas === 1 ? 'cell is a formula; its' : 'cells are formulas; their'} last result is taken.`,
    );
  if (merged > 0)
    remarks.push(
      `${merged.toLocaleString('en')} ${merged === 1 ? 'area is' : 'areas are'} merged; the value stands in ` +
        'its first cell alone.',
    );
  return {
    format: 'spreadsheet',
    sheet: found.sheet,
    sheets: seen.length > 0 ? seen : names,
    headed,
    headers,
    remarks,
  };
}

/**
 * Rows with nothing in them are passed over; a value beyond the headings is refused, since nobody could say what it is.
 */
export async function* spreadsheetRows(bytes: Bytes, { sheet, headed, headers }: FileFacts): AsyncGenerator<Rows> {
  let batch: Required<Rows> = { rows: [], lines: [], typed: [] };
  let any = false;
  for await (const { name, records } of sheetsOf(bytes)) {
    if (name !== sheet) continue;
    let first = true;
    for await (const { row, typed, line } of records()) {
      if (row.length > headers.length)
        throw new FileProblem(
          `Row ${line} has a value in column ${letters(row.length)}, which has no heading. Give it one, or empty it.`,
        );
      const heading = first && headed;
      first = false;
      if (heading) continue;
      while (row.length < headers.length) row.push('');
      batch.rows.push(row);
      batch.lines.push(line);
      batch.typed.push(typed);
      if (batch.rows.length < rowsAtOnce) continue;
      any = true;
      yield batch;
      batch = { rows: [], lines: [], typed: [] };
    }
    break;
  }
  if (batch.rows.length > 0) yield batch;
  else if (!any) throw new FileProblem('The sheet names its columns and has no row.');
}

/** 1 is A, 27 is AA. */
function letters(column: number): string {
  return column <= 26
    ? String.fromCharCode(64 + column)
    : letters(Math.floor((column - 1) / 26)) + letters(((column - 1) % 26) + 1);
}

/** The cells of a row as text, and which of them are numbers, dates or truths. */
interface SheetRow {
  row: string[];
  typed: boolean[];
  line: number;
}

interface Sheet {
  name: string;
  records(): AsyncGenerator<SheetRow>;
}

/** The package's streaming reader, part by part. */
interface PartReader {
  _parseRels(part: Readable): Promise<void>;
  _parseWorkbook(part: Readable): Promise<void>;
  _parseStyles(part: Readable): Promise<void>;
  _parseSharedStrings(part: Readable): AsyncIterable<unknown>;
  _parseWorksheet(part: AsyncIterable<string>, number: string): Iterable<{ value: unknown }>;
}

/**
 * The sheets in their order in the file. The package is handed each part as text: taking the file apart by itself, it
 * now and then loses the end of a sheet that stands before the parts that it needs, and decodes wrongly what is cut in
 * two by the end of a piece.
 */
async function* sheetsOf(bytes: Bytes): AsyncGenerator<Sheet> {
  const zip = await opened(await packedOf(bytes));
  const parts = new Map<string, yauzl.Entry>();
  for await (const entry of entriesOf(zip)) parts.set(entry.fileName, entry);
  try {
    // Only when a spreadsheet comes: it takes long to load.
    const { default: excel } = await import('exceljs');
    const nothing = Readable.from([]);
    const book = new excel.stream.xlsx.WorkbookReader(nothing, {
      worksheets: 'emit',
      sharedStrings: 'cache',
      styles: 'cache',
      hyperlinks: 'ignore',
      entries: 'ignore',
    }) as unknown as PartReader;
    const part = (name: string) => {
      const entry = parts.get(name);
      return entry ? Readable.from(textOfPart(zip, entry)) : nothing;
    };
    await book._parseRels(part('xl/_rels/workbook.xml.rels'));
    await book._parseWorkbook(part('xl/workbook.xml'));
    if (parts.has('xl/styles.xml')) await book._parseStyles(part('xl/styles.xml'));
    if (parts.has('xl/sharedStrings.xml'))
      for await (const text of book._parseSharedStrings(part('xl/sharedStrings.xml'))) void text;
    for (const [name, entry] of parts) {
      const number = /^xl\/worksheets\/sheet(\d+)\.xml$/.exec(name)?.[1];
      if (number === undefined) continue;
      for (const { value } of book._parseWorksheet(textOfPart(zip, entry), number)) {
        const sheet = value as AsyncIterable<ExcelJS.Row> & { name?: string };
        const records = async function* (): AsyncGenerator<SheetRow> {
          try {
            for await (const row of sheet) {
              const found = cellsOf(row, excel.ValueType.Formula);
              if (found.row.length > 0) yield { ...found, line: row.number };
            }
          } catch (error) {
            throw unreadable(error);
          }
        };
        yield { name: String(sheet.name ?? ''), records };
      }
    }
  } catch (error) {
    throw unreadable(error);
  }
}

async function* textOfPart(zip: yauzl.ZipFile, entry: yauzl.Entry): AsyncGenerator<string> {
  // XML is UTF-8 here (ECMA-376, 11.2 by way of XML 1.0); a letter may stand at the end of one piece and the next.
  const decoder = new TextDecoder('utf-8');
  for await (const piece of await partStream(zip, entry)) {
    const text = decoder.decode(piece, { stream: true });
    if (text !== '') yield text;
  }
}

/** What the package says where a part is not what it should be: an entity or a reference that leads nowhere, say. */
function unreadable(error: unknown): FileProblem {
  return error instanceof FileProblem
    ? error
    : new FileProblem(
        `The spreadsheet can't be read: it is damaged, or not as ECMA-376 has it ` +
          `(${(error as Error).message.slice(0, 120)}). Save it again, or as CSV.`,
      );
}

/** The cells of a row as text, without the empty ones at its end. */
function cellsOf(row: ExcelJS.Row, formula: ExcelJS.ValueType): Omit<SheetRow, 'line'> {
  if (row.cellCount > mostColumns * 20) refuseTooManyColumns(row.cellCount);
  const cells: string[] = [];
  const typed: boolean[] = [];
  row.eachCell((cell, column) => {
    while (cells.length < column - 1) cells.push('');
    const held = cell.type === formula ? (cell.result as unknown) : cell.value;
    typed[column - 1] = typeof held === 'number' || typeof held === 'boolean' || held instanceof Date;
    const place = `${letters(column)}${row.number}`;
    const text = cell.type === formula ? resultText(cell, place) : textOf(cell.value, place);
    if (text.length > longestRecord)
      throw new FileProblem(`Cell ${place} has more than ${longestRecord.toLocaleString('en')} characters.`);
    cells.push(text);
  });
  while (cells.length > 0 && cells.at(-1) === '') cells.pop();
  return { row: cells, typed };
}

function textOf(value: CellValue | undefined, place: string): string {
  if (value === null || value === undefined) return '';
  if (typeof value === 'string') return unescaped(value);
  if (typeof value === 'boolean') return String(value);
  // Spreadsheets keep numbers as IEEE 754 doubles; this is the shortest text that is the same double.
  if (typeof value === 'number') return new Big(value).toFixed();
  if (value instanceof Date) return dateText(value, place);
  if ('error' in value)
    throw new FileProblem(`Cell ${place} holds the error ${value.error}. Mend it, or empty the cell.`);
  if ('richText' in value) return unescaped(value.richText.map((part) => part.text).join(''));
  if ('hyperlink' in value) return textOf(value.text as CellValue, place);
  return '';
}

/**
 * The last result of a formula, which the file keeps beside it. A number in a date's format is a date there too
 * (ECMA-376, 18.17.4.1: days since 1899-12-30).
 */
function resultText(cell: ExcelJS.Cell, place: string): string {
  const result: unknown = cell.result;
  if (typeof result === 'number' && Number.isNaN(result))
    throw new FileProblem(`The formula in cell ${place} has failed. Mend it, or empty the cell.`);
  if (typeof result === 'number' && isDateFormat(cell.numFmt as string | undefined))
    return dateText(new Date((result - 25_569) * 86_400_000), place);
  return textOf(result as CellValue, place);
}

/** Whether a number format shows days, months, years or hours, apart from its quoted words, colours and conditions. */
function isDateFormat(format: string | undefined): boolean {
  return format !== undefined && /[dmyhs]/i.test(format.replaceAll(/"[^"]*"|\\.|\[[^\]]*\]|general/gi, ''));
}

function dateText(date: Date, place: string): string {
  if (Number.isNaN(date.getTime())) throw new FileProblem(`Cell ${place} is marked as a date and holds none.`);
  // A moment is kept as a fraction of a day, which is exact to the millisecond only.
  const text = new Date(Math.round(date.getTime() / 1000) * 1000).toISOString();
  return text.endsWith('T00:00:00.000Z') ? text.slice(0, 10) : text.slice(0, 19).replace('T', ' ');
}

/**
 * Walks through all parts of the packed file, counting what really comes out of each, before any other reader sees it.
 */
async function checkParts(bytes: Bytes): Promise<{ sheets: string[]; formulas: number; merged: number }> {
  let formulas = 0;
  let merged = 0;
  let unpacked = 0;
  const names: string[] = [];
  const zip = await opened(await packedOf(bytes));
  for await (const entry of entriesOf(zip)) {
    if (names.push(entry.fileName) > mostParts)
      throw new FileProblem('The file has too many parts to be a spreadsheet.');
    if (entry.generalPurposeBitFlag & 1)
      throw new FileProblem('The file is locked with a password. Save it without one.');
    const counts = /^xl\/worksheets\/[^/]+\.xml$/.test(entry.fileName);
    const most = entry.fileName === 'xl/sharedStrings.xml' ? largestTexts : largestUnpacked;
    let ofPart = 0;
    let tail = '';
    for await (const part of await partStream(zip, entry)) {
      ofPart += part.length;
      unpacked += part.length;
      if (ofPart > most || unpacked > largestUnpacked)
        throw new FileProblem(
          'Unpacked, this file would be far larger than a spreadsheet of its size. It is not read.',
        );
      if (!counts) continue;
      const text = tail + part.toString('latin1');
      const whole = text.slice(0, Math.max(0, text.length - 12));
      formulas += (whole.match(/<f[ >]/g) ?? []).length;
      merged += (whole.match(/<mergeCell /g) ?? []).length;
      tail = text.slice(whole.length);
    }
    formulas += (tail.match(/<f[ >]/g) ?? []).length;
    merged += (tail.match(/<mergeCell /g) ?? []).length;
  }
  if (!names.includes('xl/workbook.xml'))
    throw new FileProblem('This is no table: it is a packed file that holds no spreadsheet.');
  return { sheets: [], formulas, merged };
}

async function packedOf(bytes: Bytes): Promise<Buffer> {
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const part of bytes()) {
    size += part.length;
    if (size > largestPacked)
      throw new FileProblem(
        `A spreadsheet may have ${largestPacked / 1024 / 1024} MB. Save it as CSV, which may be larger.`,
      );
    parts.push(part);
  }
  return Buffer.concat(parts);
}

const damaged = (error: unknown) =>
  new FileProblem(`The packed file is damaged, or cut off (${(error as Error).message.slice(0, 120)}). Save it again.`);

function opened(bytes: Buffer): Promise<yauzl.ZipFile> {
  return new Promise((resolve, reject) => {
    yauzl.fromBuffer(bytes, { lazyEntries: true, validateEntrySizes: true }, (error, zip) =>
      error ? reject(damaged(error)) : resolve(zip),
    );
  });
}

async function* entriesOf(zip: yauzl.ZipFile): AsyncGenerator<yauzl.Entry> {
  for (;;) {
    const entry = await new Promise<yauzl.Entry | null>((resolve, reject) => {
      zip.once('entry', resolve);
      zip.once('end', () => resolve(null));
      zip.once('error', (error) => reject(damaged(error)));
      zip.readEntry();
    });
    zip.removeAllListeners();
    if (!entry) return;
    yield entry;
  }
}

function partStream(zip: yauzl.ZipFile, entry: yauzl.Entry): Promise<AsyncIterable<Buffer>> {
  return new Promise((resolve, reject) => {
    zip.openReadStream(entry, (error, stream) => {
      if (error) {
        reject(damaged(error));
        return;
      }
      resolve(
        (async function* () {
          try {
            yield* stream as AsyncIterable<Buffer>;
          } catch (failed) {
            throw damaged(failed);
          }
        })(),
      );
    });
  });
}
