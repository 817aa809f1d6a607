import { FileProblem } from './file-problem';

/** A file that can be read from its start as often as needed. */
export type Bytes = () => AsyncIterable<Buffer>;

/** What a file is, found out by reading through it once. */
export interface FileFacts {
  format: 'delimited text' | 'spreadsheet' | 'JSON' | 'JSON Lines';
  encoding?: 'UTF-8' | 'UTF-16' | 'Windows-1252';
  delimiter?: string;
  /** The sheet that is read, and all that there are. */
  sheet?: string;
  sheets?: string[];
  /** Whether the first record names the columns. */
  headed: boolean;
  headers: string[];
  /** What the person should know about it. */
  remarks: string[];
}

/**
 * Some records of a file, each as long as the headers; an empty cell is ''. `lines` are the places in the file, counted
 * as the person would.
 */
export interface Rows {
  rows: string[][];
  lines: number[];
  /**
   * Which cells the file holds as a number, a date or a truth, and not as a text of one; absent where its format can't
   * tell.
   */
  typed?: boolean[][];
}

export const mostColumns = 300;

/** Characters of one record, and so of one cell. */
export const longestRecord = 1_000_000;
export const rowsAtOnce = 4000;

/** The headers as the first record gives them, each of its own; throws where two are the same. */
export function namedHeaders(first: readonly string[]): string[] {
  const headers = first.map((cell) => cell.trim());
  const twice = headers.find((header, i) => headers.indexOf(header) !== i);
  if (twice !== undefined) throw new FileProblem(`Two columns are called "${twice}". Give each a name of its own.`);
  const long = headers.find((header) => header.length > 1000);
  if (long !== undefined)
    throw new FileProblem(
      `The heading that begins "${long.slice(0, 40)}" is longer than 1,000 characters. Is a quote not closed?`,
    );
  return headers;
}

/** Whether a first record looks like headings: each filled, none a number or a date. */
export function looksHeaded(first: readonly string[]): boolean {
  return first.every((cell) => cell.trim() !== '' && !/^-?[\d.,/: -]+$/.test(cell.trim()));
}

export function refuseTooManyColumns(count: number): void {
  if (count > mostColumns) throw new FileProblem(`The file has ${count} columns; ${mostColumns} can be taken.`);
}
