import { CsvError, parse } from 'csv-parse/sync';

/** A file that can't be read, said to the person who brought it. */
export class FileProblem extends Error {}

/** A delimited text (RFC 4180 and its relatives) as it was found. */
export interface DelimitedFile {
  encoding: 'UTF-8' | 'UTF-16' | 'Windows-1252';
  delimiter: string;
  /** Whether the first line names the columns. */
  headed: boolean;
  headers: string[];
  rows: string[][];
  /** The line of the file on which the first row stands. */
  firstLine: number;
}

const mostColumns = 300;
const longestCell = 1_000_000;
const delimiters = [',', ';', '\t', '|'];
const signatures: [string, string][] = [['89504e47', 'a picture (PNG)'], ['ffd8ff', 'a picture (JPEG)'], ['47494638', 'a picture (GIF)'], ['504b0304', 'a packed file, maybe a spreadsheet; save it as CSV first'], ['25504446', 'a PDF'], ['d0cf11e0', 'an old spreadsheet; save it as CSV first'], ['1f8b', 'a packed file']];

/** Reads the bytes of a file; throws FileProblem with a sentence that says what is wrong and where. */
export function readDelimited(bytes: Buffer): DelimitedFile {
  const start = bytes.subarray(0, 8).toString('hex');
  const other = signatures.find(([signature]) => start.startsWith(signature));
  if (other) throw new FileProblem(`This is no text: it is ${other[1]}.`);
  const { text, encoding } = decodeText(bytes);
  if (text.trim() === '') throw new FileProblem('The file is empty.');
  const delimiter = findDelimiter(text);
  const records = readRecords(text, delimiter);
  const [first] = records;
  if (!first) throw new FileProblem('The file is empty.');
  if (first.length > mostColumns) throw new FileProblem(`The file has ${first.length} columns; ${mostColumns} can be taken.`);
  const ragged = records.findIndex((record) => record.length !== first.length);
  if (ragged > 0) throw new FileProblem(`Record ${ragged + 1} has ${records[ragged]!.length} values, the first has ${first.length}. Mend it, or check the quotes before it.`);
  const headed = first.every((cell) => cell.trim() !== '' && !/^-?[\d.,/:-]+$/.test(cell.trim()));
  const headers = headed ? first.map((cell) => cell.trim()) : first.map((_, i) => `Column ${i + 1}`);
  const twice = headed ? headers.find((header, i) => headers.indexOf(header) !== i) : undefined;
  if (twice !== undefined) throw new FileProblem(`Two columns are called "${twice}". Give each a name of its own.`);
  const rows = headed ? records.slice(1) : records;
  if (rows.length === 0) throw new FileProblem('The file names its columns and has no row.');
  return { encoding, delimiter, headed, headers, rows, firstLine: headed ? 2 : 1 };
}

/** By the byte order mark, else UTF-8 where the bytes are valid, else Windows-1252, in which every byte is a letter. */
function decodeText(bytes: Buffer): { text: string; encoding: DelimitedFile['encoding'] } {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return { text: new TextDecoder('utf-16le').decode(bytes), encoding: 'UTF-16' };
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return { text: new TextDecoder('utf-16be').decode(bytes), encoding: 'UTF-16' };
  if (bytes.includes(0)) throw new FileProblem('This is no text: it holds zero bytes. Save it as CSV, in UTF-8.');
  try {
    return { text: new TextDecoder('utf-8', { fatal: true }).decode(bytes), encoding: 'UTF-8' };
  } catch {
    return { text: new TextDecoder('windows-1252').decode(bytes), encoding: 'Windows-1252' };
  }
}

/** The sign that divides the first records into the most columns, all into as many. */
function findDelimiter(text: string): string {
  const lines = text.slice(0, 200_000);
  const width = (delimiter: string): number => {
    try {
      const records = parse(lines, { delimiter, to: 20, relax_column_count: true, skip_empty_lines: true, relax_quotes: true }) as string[][];
      const widths = records.map((record) => record.length);
      return widths.every((each) => each === widths[0]) ? (widths[0] ?? 0) : 0;
    } catch {
      return 0;
    }
  };
  const ranked = delimiters.map((delimiter) => ({ delimiter, width: width(delimiter) })).toSorted((a, b) => b.width - a.width);
  return ranked[0]!.width > 1 ? ranked[0]!.delimiter : ',';
}

function readRecords(text: string, delimiter: string): string[][] {
  try {
    return parse(text, { delimiter, skip_empty_lines: true, relax_column_count: true, max_record_size: longestCell }) as string[][];
  } catch (error) {
    if (!(error instanceof CsvError)) throw error;
    const line = Number((error as unknown as { lines?: number }).lines ?? 0);
    if (error.code === 'CSV_MAX_RECORD_SIZE') throw new FileProblem(`Near line ${line} a record has more than ${longestCell.toLocaleString('en')} characters. Is a quote not closed?`);
    if (error.code === 'CSV_QUOTE_NOT_CLOSED') throw new FileProblem(`A quote is opened near line ${line} and never closed.`);
    throw new FileProblem(`Near line ${line} the quotes are not as they should be: a quote inside a quoted value is written twice.`);
  }
}
