import type { FigureMeasure } from '../../core/definition/figure-measures';
import type { Value } from '../../core/table/value';
import type { ColumnInfo } from '../client/portal';
import { cellText } from './Cell';

const words: Record<FigureMeasure, string> = {
  count: 'Number of',
  sum: 'Sum of',
  average: 'Average of',
  minimum: 'Least of',
  maximum: 'Most of',
  distinct: 'Different values of',
};

/** What is reckoned of records, as a page tells it. */
interface Reckoned {
  /** What the records are called. */
  label: string;
  measure: FigureMeasure;
  column: ColumnInfo | null;
}

/** What a number is of: "Sum of fee of visits". */
export function numberWords({ label, measure, column }: Reckoned): string {
  const noun = label.toLowerCase();
  return column ? `${measureWords(measure, column)} of ${noun}` : `${words[measure]} ${noun}`;
}

/** What is reckoned of a column: "Sum of fee", "Latest planned for". */
export function measureWords(measure: FigureMeasure, { type, label }: Pick<ColumnInfo, 'type' | 'label'>): string {
  const isTime = type === 'date' || type === 'date and time' || type === 'time';
  const word =
    isTime && measure === 'minimum' ? 'Earliest' : isTime && measure === 'maximum' ? 'Latest' : words[measure];
  return `${word} ${label.toLowerCase()}`;
}

const fine = new Intl.NumberFormat(undefined, { maximumFractionDigits: 2 });

/** A number as it is read: where it is a value of the column, or adds some up, as that column's cells are. */
export function shownNumber({ measure, column }: Reckoned, value: Value | undefined): string {
  if (value === null || value === undefined) return '–';
  const isOfColumn = measure === 'minimum' || measure === 'maximum' || measure === 'sum';
  const isNumber = typeof value !== 'string' || /^-?\d+(\.\d+)?$/.test(value);
  const unit = column?.currency && measure !== 'distinct' && measure !== 'count' ? ` ${column.currency}` : '';
  if (column && isOfColumn) return cellText(column.type, value, column.identifies) + unit;
  // Given as text, every digit counts until it is rounded.
  return (isNumber ? fine.format(value as number) : String(value)) + unit;
}
