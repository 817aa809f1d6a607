import type { FormLines } from '../definition/form';
import type { Column } from '../table/catalogue';
import { parseValue, type Row } from '../table/value';

/** Lines as they were entered, with what is wrong with them. */
export interface LinesState {
  rows: Row[];
  /** By column, for each line. */
  faults: Record<string, string>[];
  /** What is wrong with them as a whole. */
  fault: string | null;
}

/** So many lines may be sent with one form, where it doesn't say. */
export const mostLines = 100;

/** Reads the lines of a form: the same in the browser and on the server. */
export function linesState(
  { inputs, least = 0, most = mostLines }: Pick<FormLines, 'inputs' | 'least' | 'most'>,
  columns: readonly Column[],
  sent: readonly Record<string, unknown>[],
): LinesState {
  const rows: Row[] = [];
  const faults: Record<string, string>[] = [];
  for (const line of sent) {
    const row: Row = {};
    const wrong: Record<string, string> = {};
    for (const { column: name, required } of inputs) {
      const column = columns.find((each) => each.name === name);
      if (!column) continue;
      const parsed = parseValue({ ...column, nullable: true }, line[name] ?? null);
      if (!parsed.ok) wrong[name] = parsed.problem;
      else if (parsed.value !== null && parsed.value !== '') row[name] = parsed.value;
      else if (required) wrong[name] = 'This needs a value.';
    }
    rows.push(row);
    faults.push(wrong);
  }
  const fault =
    sent.length < least
      ? `At least ${least === 1 ? 'one is' : `${least} are`} needed.`
      : sent.length > most
        ? `No more than ${most} can be sent at once.`
        : null;
  return { rows, faults, fault };
}

/** Where what is wrong with a part's lines as a whole is said; no column is called so. */
export const linesPlace = (part: string): string => `~${part}`;

/** Where a fault of a line is said: the part, the place of the line, and the column. */
export const faultPlace = (part: string, line: number, column: string): string =>
  `${linesPlace(part)}.${line}.${column}`;

/** All that is wrong with a part's lines, by where it is said. */
export const linesFaults = (part: string, { faults, fault }: LinesState): Record<string, string> =>
  Object.fromEntries([
    ...(fault === null ? [] : [[linesPlace(part), fault]]),
    ...faults.flatMap((wrong, i) =>
      Object.entries(wrong).map(([column, why]) => [faultPlace(part, i, column), why] as const),
    ),
  ]);
