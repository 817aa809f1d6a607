import { createInterface } from 'node:readline';
import { Readable } from 'node:stream';
import Big from 'big.js';
import { parse } from 'lossless-json';
import { FileProblem } from './file-problem';
import {
  longestRecord,
  namedHeaders,
  refuseTooManyColumns,
  rowsAtOnce,
  type Bytes,
  type FileFacts,
  type Rows,
} from './file-facts';

/** A JSON text (RFC 8259) is read whole, so it has a limit of its own; JSON Lines have none. */
const largestWhole = 50 * 1024 * 1024;

/** Reads a list of objects, or one object on each line, through: the names of all. */
export async function jsonFacts(bytes: Bytes): Promise<FileFacts> {
  const format = (await isLines(bytes)) ? 'JSON Lines' : 'JSON';
  const names = new Set<string>();
  let any = false;
  for await (const { records } of recordsOf(bytes, format)) {
    for (const record of records) {
      any = true;
      for (const name in record) names.add(name);
    }
    refuseTooManyColumns(names.size);
  }
  if (!any) throw new FileProblem('The file holds an empty list.');
  if (names.size === 0) throw new FileProblem('The objects of the file have no names.');
  return { format, encoding: 'UTF-8', headed: true, headers: namedHeaders([...names]), remarks: [] };
}

export async function* jsonRows(bytes: Bytes, { format, headers }: FileFacts): AsyncGenerator<Rows> {
  for await (const { records, lines } of recordsOf(bytes, format)) {
    yield {
      rows: records.map((record, i) => headers.map((header) => cellOf(record[header], header, lines[i]!))),
      lines,
      typed: records.map((record) =>
        headers.map((header) => record[header] instanceof WrittenNumber || typeof record[header] === 'boolean'),
      ),
    };
  }
}

type Records = { records: Record<string, unknown>[]; lines: number[] };

async function isLines(bytes: Bytes): Promise<boolean> {
  for await (const line of linesOf(bytes)) {
    if (line.trim() === '') continue;
    // One whole object on a line; a lone one is read as lines too.
    if (!line.trimStart().startsWith('{')) return false;
    try {
      parse(line);
      return true;
    } catch {
      return false;
    }
  }
  return false;
}

async function* recordsOf(bytes: Bytes, format: FileFacts['format']): AsyncGenerator<Records> {
  if (format === 'JSON Lines') {
    yield* lineRecords(bytes);
    return;
  }
  const list = parsed(await wholeText(bytes), 'The file');
  if (!Array.isArray(list))
    throw new FileProblem(
      'The file holds one object, not a list. The list of records must be the outermost: [ { … }, { … } ].',
    );
  for (let from = 0; from < list.length; from += rowsAtOnce) {
    const part = list.slice(from, from + rowsAtOnce) as unknown[];
    yield {
      records: part.map((each, i) => objectOf(each, `Record ${from + i + 1}`)),
      lines: part.map((_, i) => from + i + 1),
    };
  }
}

async function* lineRecords(bytes: Bytes): AsyncGenerator<Records> {
  let number = 0;
  let found: Records = { records: [], lines: [] };
  for await (const line of linesOf(bytes)) {
    number++;
    if (line.trim() === '') continue;
    if (line.length > longestRecord)
      throw new FileProblem(`Line ${number} has more than ${longestRecord.toLocaleString('en')} characters.`);
    found.records.push(objectOf(parsed(line, `Line ${number}`), `Line ${number}`));
    found.lines.push(number);
    if (found.records.length === rowsAtOnce) {
      yield found;
      found = { records: [], lines: [] };
    }
  }
  if (found.records.length > 0) yield found;
}

/** As decoded text in small parts, so that one endless line is noticed before it fills the memory. */
async function* decoded(bytes: Bytes): AsyncGenerator<string> {
  const decoder = new TextDecoder('utf-8', { fatal: true });
  let inLine = 0;
  try {
    for await (const part of bytes()) {
      const text = decoder.decode(part, { stream: true });
      const last = text.lastIndexOf('\n');
      inLine = last < 0 ? inLine + text.length : text.length - last;
      if (inLine > largestWhole)
        throw new FileProblem(
          'The file is too large to be read as JSON. Write one object on each line (JSON Lines), or save it as CSV.',
        );
      yield text;
    }
    decoder.decode();
  } catch (error) {
    if (error instanceof TypeError) throw new FileProblem('The file is not in UTF-8, which JSON must be (RFC 8259).');
    throw error;
  }
}

async function* linesOf(bytes: Bytes): AsyncGenerator<string> {
  const source = Readable.from(decoded(bytes));
  let fault: unknown = null;
  source.on('error', (error) => {
    fault = error;
  });
  const lines = createInterface({ input: source, crlfDelay: Infinity });
  try {
    yield* lines;
    if (fault) throw fault;
  } finally {
    lines.close();
    source.destroy();
  }
}

async function wholeText(bytes: Bytes): Promise<string> {
  const parts: string[] = [];
  let size = 0;
  for await (const part of decoded(bytes)) {
    parts.push(part);
    size += part.length;
    if (size > largestWhole)
      throw new FileProblem(
        'The file is too large to be read as JSON. Write one object on each line (JSON Lines), or save it as CSV.',
      );
  }
  return parts.join('');
}

/** A number as the digits that it was written as. */
class WrittenNumber {
  constructor(readonly digits: string) {}
}

/** Numbers stay the digits that they were written as; an exponent is written out. */
function parsed(text: string, what: string): unknown {
  try {
    return parse(
      text,
      undefined,
      (number) => new WrittenNumber(/^-?\d+(\.\d+)?e[+-]?\d{1,3}$/i.test(number) ? new Big(number).toFixed() : number),
    );
  } catch (error) {
    if (error instanceof RangeError) throw new FileProblem(`${what} is nested too deep to be read.`);
    throw new FileProblem(`${what} is not JSON as RFC 8259 has it: ${(error as Error).message.slice(0, 200)}.`);
  }
}

function objectOf(value: unknown, what: string): Record<string, unknown> {
  if (typeof value === 'object' && value !== null && !Array.isArray(value) && !(value instanceof WrittenNumber))
    return value as Record<string, unknown>;
  throw new FileProblem(`${what} is no object. Each record must be one: { "name": … }.`);
}

function cellOf(value: unknown, header: string, line: number): string {
  if (value === undefined || value === null) return '';
  if (typeof value === 'string') return value;
  if (value instanceof WrittenNumber) return value.digits;
  if (typeof value === 'boolean') return String(value);
  if (Array.isArray(value) && value.every((each) => typeof each === 'string')) return value.join(',');
  throw new FileProblem(
    `Record ${line}: "${header}" holds ${Array.isArray(value) ? 'a list' : 'an object'}. Only plain values and ` +
      'lists of texts can be brought.',
  );
}
