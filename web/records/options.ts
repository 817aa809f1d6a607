import type { ColumnInfo } from '../client/portal';

/** What an input or a filter must know of a column; a builder's own columns fit too. */
export type InputColumn = Pick<ColumnInfo, 'path' | 'label' | 'type' | 'nullable'> &
  Partial<Pick<ColumnInfo, 'choices' | 'maxLength' | 'kind' | 'labels' | 'relation'>>;

/** What a value is called that stands for another; null where nobody said. */
export function labelOf(labels: Record<string, string> | undefined, value: string): string | null {
  return labels && Object.hasOwn(labels, value) ? labels[value]! : null;
}

/** What a column offers to choose from, as the text of the value and what it is called; null where it is typed. */
export function optionsOf(column: Pick<InputColumn, 'type' | 'choices' | 'labels'>): [string, string][] | null {
  const called = (value: string): [string, string] => [value, labelOf(column.labels, value) ?? value];
  if (column.type === 'yes/no')
    return [
      ['true', labelOf(column.labels, 'true') ?? 'Yes'],
      ['false', labelOf(column.labels, 'false') ?? 'No'],
    ];
  if (column.type === 'one choice') return (column.choices ?? []).map(called);
  return column.labels && column.type !== 'several choices' ? Object.keys(column.labels).map(called) : null;
}
