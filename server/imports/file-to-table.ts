import { inferColumns, plannedColumn, type InferredColumn } from '../../core/table/infer';
import { parseValue, type Value } from '../../core/table/value';
import { makeTable } from '../gate/new-table';
import { InvalidValues } from '../gate/errors';
import type { Source } from '../sources/source';
import type { Catalogue } from '../../core/table/catalogue';
import { FileProblem, readDelimited, type DelimitedFile } from './read-delimited';

/** What a file would become, before anything is made. */
export interface FilePreview extends Omit<DelimitedFile, 'rows' | 'headers' | 'firstLine'> {
  rows: number;
  columns: InferredColumn[];
}

/** What a builder made of the preview: a name, and a type for each column of the file that they want. */
export interface TablePlan {
  name: string;
  columns: (Pick<InferredColumn, 'header' | 'name' | 'type' | 'nullable' | 'maxLength' | 'precision' | 'scale'>)[];
}

/** A cell that can't be kept under the plan. */
export interface RefusedCell {
  row: number;
  column: string;
  value: string;
  reason: string;
}

export class CellsRefused extends Error {
  constructor(
    readonly cells: RefusedCell[],
    readonly total: number,
  ) {
    super(`${total} ${total === 1 ? 'value doesn\'t' : 'values don\'t'} fit, so nothing was made. Change the types, or mend the file.`);
  }
}

export function previewFile(bytes: Buffer): FilePreview {
  const { headers, rows, encoding, delimiter, headed } = readDelimited(bytes);
  return { encoding, delimiter, headed, rows: rows.length, columns: inferColumns(headers, rows) };
}

const mostRefused = 20;

/** Makes a table of a file: every value fits, or nothing is made and those that don't are told. */
export async function fileToTable(source: Source, catalogue: Catalogue, bytes: Buffer, plan: TablePlan): Promise<number> {
  const file = readDelimited(bytes);
  const places = plan.columns.map((column) => file.headers.indexOf(column.header));
  const missing = plan.columns.find((_, i) => places[i]! < 0);
  if (missing) throw new FileProblem(`The file has no column "${missing.header}". Choose the file again.`);
  const twice = plan.columns.find((column, i) => plan.columns.findIndex((other) => other.name === column.name) !== i);
  if (twice) throw new InvalidValues({ [twice.header]: `Two columns would be called ${twice.name}.` });
  const columns = plan.columns.map(plannedColumn);
  const refused: RefusedCell[] = [];
  let total = 0;
  const seen = new Set<string>();
  const rows = file.rows.map((row, i) => columns.map((column, j): Value => {
    const cell = row[places[j]!]!;
    const parsed = parseValue(column, cell === '' ? null : column.type === 'yes/no' ? readYesNo(cell) : cell);
    const repeated = column.name === 'id' && parsed.ok && (parsed.value === null || seen.has(String(parsed.value)));
    if (column.name === 'id' && parsed.ok) seen.add(String(parsed.value));
    if (parsed.ok && !repeated) return parsed.value;
    total++;
    if (refused.length < mostRefused) refused.push({ row: i + file.firstLine, column: plan.columns[j]!.header, value: cell.slice(0, 100), reason: parsed.ok ? 'The column id is the key: each value must stand there once, and none be empty.' : parsed.problem });
    return null;
  }));
  if (total > 0) throw new CellsRefused(refused, total);
  await makeTable(source, catalogue, { name: plan.name, columns, rows });
  return rows.length;
}

function readYesNo(cell: string): unknown {
  const word = cell.trim().toLowerCase();
  return word === 'yes' ? true : word === 'no' ? false : word;
}
