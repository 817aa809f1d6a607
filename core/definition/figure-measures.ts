import { kindOf } from '../condition/operand-kind';
import type { Column } from '../table/catalogue';

/** What is reckoned of records. */
export const figureMeasures = ['count', 'sum', 'average', 'minimum', 'maximum', 'distinct'] as const;

export type FigureMeasure = (typeof figureMeasures)[number];

const numbers: readonly ReturnType<typeof kindOf>[] = ['whole', 'decimal', 'double'];
const unordered: readonly ReturnType<typeof kindOf>[] = ['none', 'choice', 'truth'];

/** Whether a measure can be reckoned of a column. */
export function fitsMeasure(measure: FigureMeasure, column: Column): boolean {
  const kind = kindOf(column);
  if (measure === 'sum' || measure === 'average') return numbers.includes(kind);
  return measure === 'distinct' || (!column.equalityOnly && !unordered.includes(kind));
}
