import { CsvError } from 'csv-parse';
import { parse } from 'csv-parse/sync';
import Papa from 'papaparse';
import { FileProblem } from './file-problem';
import { longestRecord, rowsAtOnce } from './file-facts';

/** So many characters are looked through at once. */
const atOnce = 128_000;

/**
 * The records of a delimited text (RFC 4180), some at a time. Blocks of whole records are read by the quicker of two
 * packages; whatever it might take otherwise than the strict one (quotes out of place, other ends of lines) is read by
 * the strict one, which also says what is wrong.
 */
export async function* delimitedRecords(
  text: AsyncIterable<string>,
  delimiter: string,
  size = atOnce,
): AsyncGenerator<string[][]> {
  let rest = '';
  let newline: string | undefined;
  let wanted = size;
  let line = 1;
  let records: string[][] = [];
  const read = (block: string, end: string): void => {
    for (const record of recordsOf(block, delimiter, end, line)) records.push(record);
    line += linesIn(block);
  };
  for await (const part of text) {
    rest += part;
    if (rest.length < wanted) continue;
    newline ??= endOfLine(rest, false);
    const cut = newline === undefined ? 0 : lastWhole(rest, newline);
    if (cut > 0) {
      read(rest.slice(0, cut), newline!);
      rest = rest.slice(cut);
    }
    // A record that goes on and on is not looked through again and again; one that is too long is a fault.
    if (rest.length > longestRecord) {
      strictly(rest, delimiter, newline ?? '\n', line);
      throw tooLong(line);
    }
    wanted = Math.max(size, 2 * rest.length);
    while (records.length >= rowsAtOnce) {
      yield records.slice(0, rowsAtOnce);
      records = records.slice(rowsAtOnce);
    }
  }
  read(rest, newline ?? endOfLine(rest, true) ?? '\n');
  for (let from = 0; from < records.length; from += rowsAtOnce) yield records.slice(from, from + rowsAtOnce);
}

function linesIn(block: string): number {
  let lines = 0;
  for (let at = block.indexOf('\n'); at >= 0; at = block.indexOf('\n', at + 1)) lines++;
  return lines;
}

/** How the first record ends: the first end of line outside quotes; undefined while there is none, or it may go on. */
function endOfLine(text: string, isWhole: boolean): string | undefined {
  let quoted = false;
  for (let at = 0; at < text.length; at++) {
    const sign = text[at];
    if (sign === '"') quoted = !quoted;
    else if (!quoted && sign === '\n') return '\n';
    else if (!quoted && sign === '\r')
      return text[at + 1] === '\n' ? '\r\n' : at + 1 < text.length || isWhole ? '\r' : undefined;
  }
  return undefined;
}

/**
 * Behind the last end of line that stands outside quotes: where quotes before it are even in number. 0 when there is
 * none.
 */
function lastWhole(text: string, newline: string): number {
  let even = true;
  for (let at = text.indexOf('"'); at >= 0; at = text.indexOf('"', at + 1)) even = !even;
  let from = text.length;
  for (let at = text.lastIndexOf(newline); at >= 0; at = at === 0 ? -1 : text.lastIndexOf(newline, at - 1)) {
    for (let quote = text.lastIndexOf('"', from - 1); quote > at; quote = text.lastIndexOf('"', quote - 1))
      even = !even;
    from = at + 1;
    if (even) return at + newline.length;
  }
  return 0;
}

function tooLong(line: number): FileProblem {
  return new FileProblem(
    `Near line ${line} a record has more than ${longestRecord.toLocaleString('en')} characters. Is a quote not closed?`,
  );
}

function recordsOf(block: string, delimiter: string, newline: string, line: number): string[][] {
  return quickly(block, delimiter, newline) ?? strictly(block, delimiter, newline, line);
}

/** Null where the strict package might say otherwise. */
function quickly(block: string, delimiter: string, newline: string): string[][] | null {
  // The quick one takes a \n between a quote and a delimiter for a space.
  if (
    block.length > longestRecord ||
    newline === '\r' ||
    (newline === '\n' && block.includes('\r')) ||
    (newline === '\r\n' && /\r(?!\n)|(?<!\r)\n/.test(block))
  )
    return null;
  const hasQuotes = block.includes('"');
  if (hasQuotes && /"[^\S\r\n]|[^\S\r\n]"/.test(block)) return null;
  const { data, errors } = Papa.parse<string[]>(block, { delimiter, newline: newline as '\n', quoteChar: '"' });
  if (errors.length > 0) return null;
  // Behind the last end of line it sees one more, empty record.
  if (block.endsWith(newline) && data.at(-1)?.length === 1 && data.at(-1)![0] === '') data.pop();
  if (
    hasQuotes &&
    data.some((record) => (record.length === 1 && record[0] === '') || record.some((value) => value.includes('"')))
  ) {
    // Within values quotes are rare, and an empty quoted line is not an empty line.
    return null;
  }
  return data.filter((record) => record.length > 1 || record[0] !== '');
}

function strictly(block: string, delimiter: string, newline: string, line: number): string[][] {
  try {
    return parse(block, {
      delimiter,
      record_delimiter: newline,
      skip_empty_lines: true,
      relax_column_count: true,
      max_record_size: longestRecord,
    }) as string[][];
  } catch (error) {
    if (!(error instanceof CsvError)) throw error;
    const at = line - 1 + Number((error as unknown as { lines?: number }).lines ?? 0);
    if (error.code === 'CSV_MAX_RECORD_SIZE') throw tooLong(at);
    if (error.code === 'CSV_QUOTE_NOT_CLOSED')
      throw new FileProblem(`A quote is opened near line ${at} and never closed.`);
    throw new FileProblem(
      `Near line ${at} the quotes are not as they should be: a quote inside a quoted value is written twice.`,
    );
  }
}
