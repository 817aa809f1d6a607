import type { ExportedPage, LinedPage } from '../gate/gate';
import { csvFormatRow } from 'd3-dsv';
import { formulaSigns, plainNumber } from '../../core/text/csv-cell';
import type { Value } from '../../core/table/value';

export type TextFormat = 'csv' | 'json' | 'jsonl';

export const exportFormats: Record<TextFormat, { ending: string; type: string }> = {
  csv: { ending: 'csv', type: 'text/csv; charset=utf-8' },
  json: { ending: 'json', type: 'application/json; charset=utf-8' },
  jsonl: { ending: 'jsonl', type: 'application/jsonl; charset=utf-8' },
};

export interface ExportOptions {
  /** Text that a spreadsheet would take for a formula begins with an apostrophe, as OWASP advises ("CSV Injection"). */
  guard: boolean;
}

/** The records as text, page by page; a hidden cell is empty in CSV and absent in JSON. */
export function exportText(
  format: TextFormat,
  pages: AsyncIterable<ExportedPage>,
  options: ExportOptions,
): AsyncGenerator<string> {
  return format === 'csv' ? csvText(pages, options) : jsonText(pages, format === 'json');
}

/** The records as CSV (RFC 4180, in UTF-8), page by page; lines that the database put together stay as they are. */
export async function* csvText(
  pages: AsyncIterable<ExportedPage | LinedPage>,
  { guard }: ExportOptions,
): AsyncGenerator<string> {
  let headed = false;
  for await (const page of pages) {
    let text = headed ? '' : csvLine(page.columns.map((column) => guarded(column, guard)));
    headed = true;
    if ('lines' in page) text += page.lines.length > 0 ? `${page.lines.join('\r\n')}\r\n` : '';
    else for (const { cells } of page.records) text += csvLine(cells.map((value) => cellText(value, guard)));
    if (text !== '') yield text;
  }
}

/** One record. An empty one has its quotes, since many readers skip empty lines. */
export function csvLine(cells: string[]): string {
  return `${csvFormatRow(cells) || '""'}\r\n`;
}

const signs = new Set<string>(formulaSigns);
const isNumber = new RegExp(plainNumber);

/** A value as the text of a cell. What is a number through and through is no formula. */
export function cellText(value: Value | undefined, guard: boolean): string {
  if (value === null || value === undefined) return '';
  if (typeof value !== 'string') return Array.isArray(value) ? guarded(value.join(','), guard) : String(value);
  return guarded(value, guard);
}

function guarded(text: string, guard: boolean): string {
  return guard && signs.has(text.charAt(0)) && !isNumber.test(text) ? `'${text}` : text;
}

/** RFC 8259; one object on each line when it is not a list. Numbers keep all their digits. */
async function* jsonText(pages: AsyncIterable<ExportedPage>, asList: boolean): AsyncGenerator<string> {
  let first = true;
  if (asList) yield '[';
  for await (const { columns, records } of pages) {
    const names = columns.map((column) => JSON.stringify(column));
    let text = '';
    for (const { cells } of records) {
      text += asList ? (first ? '\n  ' : ',\n  ') : '';
      const filled = names.flatMap((name, i) => (cells[i] === undefined ? [] : [`${name}:${jsonValue(cells[i]!)}`]));
      text += `{${filled.join(',')}}`;
      text += asList ? '' : '\n';
      first = false;
    }
    if (text !== '') yield text;
  }
  if (asList) yield first ? ']\n' : '\n]\n';
}

function jsonValue(value: Value): string {
  return typeof value === 'bigint' ? String(value) : JSON.stringify(value);
}
