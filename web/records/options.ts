import type { ColumnInfo } from '../client/portal';

/** What an input or a filter must know of a column; a builder's own columns fit too. */
export type InputColumn = Pick<ColumnInfo, 'path' | 'label' | 'type' | 'nullable'> &
  Partial<Pick<ColumnInfo, 'choices' | 'maxLength' | 'kind' | 'labels' | 'relation'>>;

/** What a column offers to choose from, as the text of the value and what it is called; null where it is typed. */
export function optionsOf(column: Pick<InputColumn, 'type' | 'choices' | 'labels'>): [string, string][] | null {
  const called = (value: string): [string, string] => [value, column.labels?.[value] ?? value];
  if (column.type === 'yes/no')
    return [
      ['true', column.labels?.true ?? 'Yes'],
      ['false', column.labels?.false ?? 'No'],
    ];
  if (column.type === 'one choice') return (column.choices ?? []).map(called);
  return column.labels && column.type !== 'several choices' ? Object.keys(column.labels).map(called) : null;
}
