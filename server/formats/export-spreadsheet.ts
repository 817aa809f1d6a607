import type { ExportedPage } from '../gate/gate';
import { PassThrough } from 'node:stream';
import type ExcelJS from 'exceljs';
import type { Column } from '../../core/table/catalogue';
import type { Value } from '../../core/table/value';
import { FileProblem } from './file-problem';

export const spreadsheetType = 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet';

/** Of a sheet, and of the text in one cell (ECMA-376 as spreadsheets have it). */
const mostRows = 1_048_576;
const longestCell = 32_767;

/**
 * The records as a spreadsheet (XLSX) of one sheet. Numbers that a spreadsheet can hold exactly are numbers there,
 * dates are dates; all else is text.
 */
export function exportSpreadsheet(
  sheetName: string,
  columnOf: (path: string) => Column | null,
  pages: AsyncIterable<ExportedPage>,
  called: (path: string) => string = (path) => path,
): AsyncIterable<Buffer> {
  const out = new PassThrough({ highWaterMark: 1 << 20 });
  void write(out, sheetName, columnOf, pages, called).catch((error: Error) => out.destroy(error));
  return out as AsyncIterable<Buffer>;
}

async function write(
  out: PassThrough,
  sheetName: string,
  columnOf: (path: string) => Column | null,
  pages: AsyncIterable<ExportedPage>,
  called: (path: string) => string,
): Promise<void> {
  // Only when a spreadsheet is asked for: it takes long to load.
  const { default: excel } = await import('exceljs');
  const book = new excel.stream.xlsx.WorkbookWriter({ stream: out, useStyles: true, useSharedStrings: false });
  const sheet = book.addWorksheet(sheetName.replaceAll(/[*?:\\/[\]]/g, ' ').slice(0, 31), {
    views: [{ state: 'frozen', ySplit: 1 }],
  });
  let known: (Column | null)[] | null = null;
  let count = 1;
  for await (const { columns, records } of pages) {
    if (!known) {
      known = columns.map(columnOf);
      sheet.columns = known.map((column) => ({
        width: column?.type === 'long text' ? 40 : 18,
        style: formatOf(column),
      }));
      const head = sheet.addRow(columns.map(called));
      head.eachCell((cell) => {
        cell.numFmt = '@';
      });
      head.font = { bold: true };
      head.commit();
    }
    for (const { cells, masked } of records) {
      if (++count > mostRows)
        throw new FileProblem(
          `A sheet holds ${(mostRows - 1).toLocaleString('en')} records. Narrow the list, or take it as CSV.`,
        );
      sheet
        .addRow(cells.map((value, i) => cellOf(value, masked.includes(i) ? null : known![i]!, columns[i]!, count)))
        .commit();
    }
    if (out.writableNeedDrain) await new Promise((resolve) => out.once('drain', resolve));
  }
  await sheet.commit();
  await book.commit();
}

function formatOf(column: Column | null): Partial<ExcelJS.Style> {
  if (column?.type === 'date') return { numFmt: 'yyyy-mm-dd' };
  if (column?.type === 'date and time') return { numFmt: 'yyyy-mm-dd hh:mm:ss' };
  return column?.type === 'decimal' && column.scale ? { numFmt: `0.${'0'.repeat(column.scale)}` } : {};
}

function cellOf(value: Value | undefined, column: Column | null, path: string, row: number): ExcelJS.CellValue {
  if (value === null || value === undefined || value === '') return null;
  if (typeof value === 'boolean') return value;
  if (typeof value === 'number') return value;
  if (typeof value === 'bigint') return String(value);
  if (Array.isArray(value)) return value.join(',');
  if (column?.type === 'decimal' && fitsDouble(value)) return Number(value);
  // Before March 1900 spreadsheets count a day too many; a fraction of a second they would round.
  if ((column?.type === 'date' || column?.type === 'date and time') && value >= '1900-03-01' && value.length <= 19)
    return new Date(`${value.replace(' ', 'T')}${value.length === 10 ? 'T00:00:00' : ''}Z`);
  if (value.length > longestCell)
    throw new FileProblem(
      `In row ${row} ${path} has ${value.length.toLocaleString('en')} characters; a spreadsheet's cell holds ` +
        `${longestCell.toLocaleString('en')}. Take it as CSV, or without this column.`,
    );
  return escaped(value);
}

/** IEEE 754 doubles give back every decimal of up to 15 digits. */
function fitsDouble(text: string): boolean {
  return text.replaceAll(/[-.]/g, '').replace(/^0+/, '').length <= 15;
}

/**
 * Characters that XML 1.0 can't hold, and what looks like their escape, as ECMA-376 22.9.2.19 (ST_Xstring) writes them.
 */
function escaped(text: string): string {
  return text.replaceAll(escapes, (sign) => `_x${sign.charCodeAt(0).toString(16).toUpperCase().padStart(4, '0')}_`);
}

// oxlint-disable-next-line no-control-regex
const escapes = /_(?=x[0-9A-Fa-f]{4}_)|[\x00-\x08\x0b\x0c\x0d\x0e-\x1f\ufffe\uffff]/g;

/** The other way round, for reading. */
export function unescaped(text: string): string {
  return text.includes('_x')
    ? text.replaceAll(/_x([0-9A-Fa-f]{4})_/g, (_, hex: string) => String.fromCharCode(Number.parseInt(hex, 16)))
    : text;
}
