import type { Response } from 'express';
import { Problem } from '../../core/refusals/problem';
import { printPath } from '../../core/definition/path';
import { exportFormats, exportText } from '../formats/export-text';
import type { ListPage } from '../gate/gate';

const formats = { 'text/csv': 'csv', 'application/jsonl': 'jsonl' } as const;

type PageType = keyof typeof formats;

/** How a page of a list can be had beside JSON. */
export const pageTypes = Object.keys(formats) as [PageType, ...PageType[]];

/** Writes a page of a list to the response as text: a record a line, columns in the order in which they are asked. */
export async function sendPage(
  res: Response,
  type: PageType,
  paths: readonly string[][],
  { records, away = [] }: ListPage & { away?: string[] },
  guard: boolean,
): Promise<void> {
  // A line has no place to say that a cell is missing.
  if (away.length > 0)
    throw new Problem(503, 'source', 'Some of these columns can’t be had at the moment. Try again in a while.');
  const columns = paths.map(printPath);
  const page = { columns, records: records.map(cellsIn(columns)) };
  let text = '';
  for await (const part of exportText(formats[type], only(page), { guard })) text += part;
  res.type(exportFormats[formats[type]].type).send(text);
}

const none: number[] = [];

const cellsIn =
  (columns: string[]) =>
  ({ values, masked }: ListPage['records'][number]) => ({
    cells: columns.map((column) => values[column]),
    // Mostly none is.
    masked: masked.length === 0 ? none : columns.flatMap((column, i) => (masked.includes(column) ? [i] : [])),
  });

async function* only<T>(one: T): AsyncGenerator<T> {
  yield one;
}
