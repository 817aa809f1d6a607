import type { Column } from './catalogue';
import { dateNotations, fromNotation, notationExamples, type Notation } from './notation';
import { parseValue, type Parsed } from './value';

/** Reads a cell of a file as a value for `column`: an empty cell is no value, `yes` and `no` are known, and another notation is turned into ours. */
export function readCell(column: Column, cell: string, notation?: Notation): Parsed {
  if (cell === '') return parseValue(column, null);
  if (column.type === 'yes/no') {
    const word = cell.trim().toLowerCase();
    return parseValue(column, word === 'yes' ? true : word === 'no' ? false : word);
  }
  if (notation === undefined || !takesNotation(column, notation)) {
    // Typed into a form a comma is the point of whoever types; in a file it may as well stand between thousands.
    if (cell.includes(',') && (column.type === 'decimal' || column.type === 'number')) return { ok: false, problem: 'This has a comma, which can mean two things. Say how the numbers of this column are written.' };
    return parseValue(column, cell);
  }
  const ours = fromNotation(notation, cell);
  if (ours === null) return { ok: false, problem: `This is not written as said: ${notation}, like ${notationExamples[notation]}.` };
  return parseValue(column, ours);
}

/** Whether a notation means anything for a type. */
export function takesNotation(column: Pick<Column, 'type'>, notation: Notation): boolean {
  const dates = column.type === 'date' || column.type === 'date and time';
  return dateNotations.includes(notation) ? dates : column.type === 'whole number' || column.type === 'decimal' || column.type === 'number';
}
