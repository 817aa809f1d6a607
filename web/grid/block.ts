import Papa from 'papaparse';

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

/** Text that came from a spreadsheet: cells divided by tabs, those with line ends in quotes. */
export function readBlock(text: string): string[][] {
  const { data } = Papa.parse<string[]>(text.replace(/\r?\n$/, ''), { delimiter: '\t' });
  return data;
}

/** Cells as spreadsheets take them. */
export function writeBlock(rows: string[][]): string {
  return Papa.unparse(rows, { delimiter: '\t', newline: '\r\n' });
}
