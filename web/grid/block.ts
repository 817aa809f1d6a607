import Papa from 'papaparse';
import type { ColumnInfo } from '../client/portal';
import type { Value } from '../../core/table/value';

/** A corner of the grid: row and column by their places. */
export interface Spot {
  row: number;
  column: number;
}

/** A rectangle of cells, both corners in it. */
export interface Block {
  top: number;
  left: number;
  bottom: number;
  right: number;
}

export function blockOf(a: Spot, b: Spot): Block {
  return {
    top: Math.min(a.row, b.row),
    left: Math.min(a.column, b.column),
    bottom: Math.max(a.row, b.row),
    right: Math.max(a.column, b.column),
  };
}

export function holds(block: Block, row: number, column: number): boolean {
  return row >= block.top && row <= block.bottom && column >= block.left && column <= block.right;
}

/** A value as it is typed and copied: in the form that the server reads back. */
export function plainText(value: Value | undefined): string {
  if (value === null || value === undefined) return '';
  return Array.isArray(value) ? value.join(', ') : String(value);
}

/** Text that came from a spreadsheet: cells divided by tabs, those with line ends in quotes. */
export function readBlock(text: string): string[][] {
  const { data } = Papa.parse<string[]>(text.replace(/\r?\n$/, ''), { delimiter: '\t' });
  return data;
}

/** Cells as spreadsheets take them. */
export function writeBlock(rows: string[][]): string {
  return Papa.unparse(rows, { delimiter: '\t', newline: '\r\n' });
}

/** What typed text means for a column: nothing typed is no value. */
export function typedValue(column: ColumnInfo, text: string): unknown {
  if (text === '') return column.nullable || (column.type !== 'text' && column.type !== 'long text') ? null : '';
  if (column.type === 'yes/no') {
    const word = text.trim().toLowerCase();
    return word === 'yes' ? true : word === 'no' ? false : text.trim();
  }
  return text;
}
