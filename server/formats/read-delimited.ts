import { parse as parseWhole } from 'csv-parse/sync';
import { delimitedRecords } from './delimited-records';
import { FileProblem } from './file-problem';
import { looksHeaded, namedHeaders, refuseTooManyColumns, type Bytes, type FileFacts, type Rows } from './file-facts';

const delimiters = [',', ';', '\t', '|'];
const lookedAt = 200_000;

/** Reads a delimited text (RFC 4180 and its relatives) through: its encoding, delimiter and headings. */
export async function delimitedFacts(bytes: Bytes): Promise<FileFacts> {
  const { encoding, start, blank } = await findEncoding(bytes);
  if (blank) throw new FileProblem('The file is empty.');
  const delimiter = findDelimiter(start);
  let first: string[] | undefined;
  for await (const records of delimitedRecords(textOf(bytes, encoding), delimiter)) {
    [first] = records;
    break;
  }
  if (!first) throw new FileProblem('The file is empty.');
  refuseTooManyColumns(first.length);
  const headed = looksHeaded(first);
  const headers = headed ? namedHeaders(first) : first.map((_, i) => `Column ${i + 1}`);
  return { format: 'delimited text', encoding, delimiter, headed, headers, remarks: [] };
}

/** Each record must have as many values as the first. */
export async function* delimitedRows(
  bytes: Bytes,
  { encoding, delimiter, headed, headers }: FileFacts,
): AsyncGenerator<Rows> {
  let number = 0;
  let any = false;
  for await (const records of delimitedRecords(textOf(bytes, encoding), delimiter!)) {
    const rows: string[][] = [];
    const lines: number[] = [];
    for (const record of records) {
      number++;
      if (record.length !== headers.length)
        throw new FileProblem(
          `Record ${number} has ${record.length} ${record.length === 1 ? 'value' : 'values'}, the first has ` +
            `${headers.length}. Mend it, or check the quotes before it.`,
        );
      if (number === 1 && headed) continue;
      rows.push(record);
      lines.push(number);
    }
    if (rows.length > 0) {
      any = true;
      yield { rows, lines };
    }
  }
  if (!any) throw new FileProblem('The file names its columns and has no row.');
}

/** By the byte order mark, else UTF-8 where all bytes are valid, else Windows-1252, in which every byte is a letter. */
async function findEncoding(
  bytes: Bytes,
): Promise<{ encoding: NonNullable<FileFacts['encoding']>; start: string; blank: boolean }> {
  const decoder = new TextDecoder('utf-8', { fatal: true });
  let isUtf8 = true;
  let wide = false;
  let blank = true;
  let mark = Buffer.alloc(0);
  const head: Buffer[] = [];
  let headSize = 0;
  for await (const part of bytes()) {
    if (mark.length < 2) mark = Buffer.concat([mark, part.subarray(0, 2)]);
    wide = (mark[0] === 0xff && mark[1] === 0xfe) || (mark[0] === 0xfe && mark[1] === 0xff);
    if (headSize < lookedAt) head.push(part);
    headSize += part.length;
    if (wide && headSize >= lookedAt) break;
    if (!wide && mark.length > 1 && part.includes(0))
      throw new FileProblem('This is no text: it holds zero bytes. Save it as CSV, in UTF-8.');
    blank &&=
      !wide &&
      part.every(
        (byte) => byte === 0x20 || (byte >= 0x09 && byte <= 0x0d) || byte === 0xef || byte === 0xbb || byte === 0xbf,
      );
    if (isUtf8 && !wide) {
      try {
        decoder.decode(part, { stream: true });
      } catch {
        isUtf8 = false;
      }
    }
  }
  if (isUtf8 && !wide) {
    try {
      decoder.decode();
    } catch {
      isUtf8 = false;
    }
  }
  const encoding = wide ? 'UTF-16' : isUtf8 ? 'UTF-8' : 'Windows-1252';
  const whole = Buffer.concat(head);
  const start = decoderOf(encoding, whole).decode(whole.subarray(0, lookedAt));
  return { encoding, start, blank: blank || start.trim() === '' };
}

function decoderOf(encoding: FileFacts['encoding'], start: Buffer): TextDecoder {
  return new TextDecoder(
    encoding === 'UTF-8'
      ? 'utf-8'
      : encoding === 'Windows-1252'
        ? 'windows-1252'
        : start[0] === 0xfe
          ? 'utf-16be'
          : 'utf-16le',
  );
}

/**
 * The sign that divides the first records into the most columns, all into as many; where none does, the one that
 * divides the heading most.
 */
function findDelimiter(text: string): string {
  const width = (delimiter: string, records: number): number => {
    try {
      const found = parseWhole(text, {
        delimiter,
        to: records,
        relax_column_count: true,
        skip_empty_lines: true,
        relax_quotes: true,
      }) as string[][];
      return found.every((record) => record.length === found[0]!.length) ? (found[0]?.length ?? 0) : 0;
    } catch {
      return 0;
    }
  };
  const best = (records: number) =>
    delimiters
      .map((delimiter) => ({ delimiter, width: width(delimiter, records) }))
      .toSorted((a, b) => b.width - a.width)[0]!;
  const even = best(20);
  return even.width > 1 ? even.delimiter : best(1).width > 1 ? best(1).delimiter : ',';
}

/** The text of the file as it comes in, without its byte order mark. */
async function* textOf(bytes: Bytes, encoding: FileFacts['encoding']): AsyncGenerator<string> {
  let decoder: TextDecoder | undefined;
  for await (const part of bytes()) {
    decoder ??= decoderOf(encoding, part);
    yield decoder.decode(part, { stream: true });
  }
  if (decoder) yield decoder.decode();
}
