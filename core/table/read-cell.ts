import type { Column } from './catalogue';
import { dateNotations, fromNotation, notationExamples, notations, type Notation } from './notation';
import { normaliseTimestamp, parseValue, type Parsed } from './value';

/**
 * Reads a cell of a file as a value for `column`: an empty cell is no value, `yes` and `no` are known, and another
 * notation is turned into ours.
 * What can't be meant otherwise is taken whatever was said: days as ISO 8601-1 writes them, and cells that the file
 * holds `typed`.
 */
export function readCell(column: Column, cell: string, notation?: Notation, typed = false): Parsed {
  if (cell === '') return parseValue(column, null);
  if (column.type === 'yes/no') {
    const word = cell.trim().toLowerCase();
    return parseValue(column, word === 'yes' ? true : word === 'no' ? false : word);
  }
  const plain = typed || (dateNotations.includes(notation!) && normaliseTimestamp(cell) !== null);
  if (notation === undefined || plain || !takesNotation(column, notation)) {
    // Typed into a form a comma is the point of whoever types; in a file it may as well stand between thousands.
    if (cell.includes(',') && (column.type === 'decimal' || column.type === 'number'))
      return {
        ok: false,
        problem: 'This has a comma, which can mean two things. Say how the numbers of this column are written.',
      };
    return parseValue(column, cell);
  }
  const ours = fromNotation(notation, cell);
  if (ours === null)
    return { ok: false, problem: `This is not written as said: ${notation}, like ${notationExamples[notation]}.` };
  return parseValue(column, ours);
}

/** The notations that a type can be written in. */
export function notationsOf(column: { type: string }): Notation[] {
  return notations.filter((notation) => takesNotation(column, notation));
}

/** Whether a notation means anything for a type. */
export function takesNotation(column: { type: string }, notation: Notation): boolean {
  const dates = column.type === 'date' || column.type === 'date and time';
  return dateNotations.includes(notation)
    ? dates
    : column.type === 'whole number' || column.type === 'decimal' || column.type === 'number';
}
