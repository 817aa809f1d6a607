import { FileProblem } from './file-problem';
import type { Bytes, FileFacts, Rows } from './file-facts';
import { delimitedFacts, delimitedRows } from './read-delimited';
import { jsonFacts, jsonRows } from './read-json';
import { spreadsheetFacts, spreadsheetRows } from './read-spreadsheet';

const signatures: [string, string][] = [
  ['89504e47', 'a picture (PNG)'],
  ['ffd8ff', 'a picture (JPEG)'],
  ['47494638', 'a picture (GIF)'],
  ['25504446', 'a PDF'],
  ['d0cf11e0', 'an old or a locked spreadsheet; save it as XLSX without a password'],
  ['1f8b', 'a packed file; unpack it first'],
  ['7f454c46', 'a program'],
  ['4d5a90', 'a program'],
];

async function startOf(bytes: Bytes): Promise<Buffer> {
  const parts: Buffer[] = [];
  let size = 0;
  for await (const part of bytes()) {
    parts.push(part);
    size += part.length;
    if (size >= 4096) break;
  }
  return Buffer.concat(parts);
}

/**
 * Finds out what a file is, by what it holds and not by its name. Throws FileProblem with a sentence that says what is
 * wrong and where.
 */
export async function readFacts(bytes: Bytes, sheet?: string): Promise<FileFacts> {
  const start = await startOf(bytes);
  const hex = start.subarray(0, 8).toString('hex');
  const other = signatures.find(([signature]) => hex.startsWith(signature));
  if (other) throw new FileProblem(`This is no table: it is ${other[1]}.`);
  if (hex.startsWith('504b0304') || hex.startsWith('504b0506')) return spreadsheetFacts(bytes, sheet);
  const text = start
    .toString('utf8')
    .replace(/^\ufeff/, '')
    .trimStart();
  if (/^(\[\s*(\{|\]|$)|\{\s*"|\{\s*\})/.test(text)) return jsonFacts(bytes);
  return delimitedFacts(bytes);
}

/** Reads the records of a file whose facts are known, some at a time. */
export function rowsOf(bytes: Bytes, facts: FileFacts): AsyncGenerator<Rows> {
  switch (facts.format) {
    case 'delimited text':
      return delimitedRows(bytes, facts);
    case 'spreadsheet':
      return spreadsheetRows(bytes, facts);
    case 'JSON':
    case 'JSON Lines':
      return jsonRows(bytes, facts);
  }
}
