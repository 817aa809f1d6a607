import type { ColumnInfo } from '../client/portal';

/** Of the grid's rows, and of the column at their beginning, in pixels. */
export const rowHeight = 32;
export const markWidth = 64;

/** Of columns that nobody has made wider or narrower yet, where it is not 160. */
export const startWidth: Partial<Record<ColumnInfo['type'], number>> = {
  'whole number': 100,
  decimal: 110,
  number: 110,
  'yes/no': 80,
  date: 120,
  'date and time': 170,
  'long text': 260,
};
