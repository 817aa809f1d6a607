import { InvalidValues, makeTable } from '../gate/gate';
import { Problem } from '../../core/refusals/problem';
import { FileEvidence, plannedColumn, type InferredColumn } from '../../core/table/infer';
import { readCell } from '../../core/table/read-cell';
import type { Catalogue } from '../../core/table/catalogue';
import type { Value } from '../../core/table/value';
import type { Source } from '../sources/source';
import { FileProblem } from '../formats/file-problem';
import type { Bytes, FileFacts } from '../formats/file-facts';
import { readFacts, rowsOf } from '../formats/file-rows';

/** What a file would become, before anything is made. */
export interface FilePreview {
  facts: FileFacts;
  rows: number;
  columns: InferredColumn[];
}

/** What a builder made of the preview: a name, and a type for each column of the file that they want. */
export interface TablePlan {
  name: string;
  columns: Pick<
    InferredColumn,
    'header' | 'name' | 'type' | 'nullable' | 'maxLength' | 'precision' | 'scale' | 'choices' | 'notation'
  >[];
}

/** A cell that can't be kept. */
export interface RefusedCell {
  row: number;
  column: string;
  value: string;
  reason: string;
}

export class CellsRefused extends Problem {
  constructor(
    readonly cells: RefusedCell[],
    readonly total: number,
  ) {
    super(
      422,
      'cells',
      `${total.toLocaleString('en')} ${total === 1 ? "value doesn't" : "values don't"} fit, so nothing was ` +
        'made. Change the types, or mend the file.',
      { cells, total },
    );
  }
}

/** Told after each part how many rows are done; may throw to stop. */
export type Progress = (rows: number) => Promise<void>;

const quietly: Progress = () => Promise.resolve();

/** Reads a file through and says what it holds. */
export async function previewFile(bytes: Bytes, sheet?: string, progress: Progress = quietly): Promise<FilePreview> {
  const facts = await readFacts(bytes, sheet);
  const evidence = new FileEvidence(facts.headers);
  for await (const { rows, typed } of rowsOf(bytes, facts)) {
    rows.forEach((row, i) => evidence.add(row, typed?.[i]));
    await progress(evidence.rows);
  }
  return { facts, rows: evidence.rows, columns: evidence.result() };
}

const mostRefused = 20;

/** Makes a table of a file: every value fits, or nothing is made and those that don't are told. */
export async function fileToTable(
  source: Source,
  catalogue: Catalogue,
  bytes: Bytes,
  facts: FileFacts,
  plan: TablePlan,
  progress: Progress = quietly,
  beforeKeeping: () => Promise<void> = () => Promise.resolve(),
): Promise<number> {
  const places = plan.columns.map((column) => facts.headers.indexOf(column.header));
  const missing = plan.columns.find((_, i) => places[i]! < 0);
  if (missing) throw new FileProblem(`The file has no column "${missing.header}". Choose the file again.`);
  const twice = plan.columns.find((column, i) => plan.columns.findIndex((other) => other.name === column.name) !== i);
  if (twice) throw new InvalidValues({ [twice.header]: `Two columns would be called ${twice.name}.` });
  const columns = plan.columns.map(plannedColumn);
  const refused: RefusedCell[] = [];
  let total = 0;
  let count = 0;
  const keyAt = columns.findIndex((column) => column.name === 'id');
  const seen = new Set<string>();
  const refuse = (row: number, i: number, value: string, reason: string) => {
    total++;
    if (refused.length < mostRefused)
      refused.push({ row, column: plan.columns[i]!.header, value: value.slice(0, 100), reason });
  };
  await makeTable(source, catalogue, { name: plan.name, columns }, async (put) => {
    let writing: Promise<void> = Promise.resolve();
    for await (const { rows, lines, typed } of rowsOf(bytes, facts)) {
      const values = rows.map((row, r) =>
        columns.map((column, i): Value => {
          const cell = row[places[i]!]!;
          const parsed = readCell(column, cell, plan.columns[i]!.notation, typed?.[r]![places[i]!]);
          if (!parsed.ok) {
            refuse(lines[r]!, i, cell, parsed.problem);
            return null;
          }
          if (i === keyAt && (parsed.value === null || seen.size === seen.add(String(parsed.value)).size))
            refuse(
              lines[r]!,
              i,
              cell,
              'The column id is the key: each value must stand there once, and none be empty.',
            );
          return parsed.value;
        }),
      );
      // The next rows are read while the database takes these.
      await writing;
      count += rows.length;
      if (total === 0) writing = put(values);
      writing.catch(() => undefined);
      await progress(count);
    }
    await writing;
    if (total > 0) throw new CellsRefused(refused, total);
    await beforeKeeping();
  });
  return count;
}
