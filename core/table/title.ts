import type { Column, Table } from './catalogue';
import { plainText } from './plain-text';
import type { Value } from './value';

/** Names that usually stand for the whole record, the telling first; also at the end of a longer one: `full_name`. */
const telling = /(?:^|_)(name|title|code|label|subject|number)$/i;
const order = ['name', 'title', 'code', 'label', 'subject', 'number'];

/**
 * The columns that may stand for a record of a table where it is chosen or named, the best first: the one `said`, then
 * those called like a name, then unique texts, then other texts. Of texts alone, since a title is searched as one.
 */
export function titleColumns(table: Table, said?: string): string[] {
  const rank = (column: Column): number => {
    if (column.name === said) return 0;
    const word = telling.exec(column.name)?.[1]?.toLowerCase();
    if (word) return 1 + order.indexOf(word) + (column.name.toLowerCase() === word ? 0 : 0.5);
    return column.unique ? 10 : 11;
  };
  return table.columns
    .filter((column) => column.type === 'text' && (!column.kind || column.kind === 'e-mail'))
    .map((column) => [rank(column), column.name] as const)
    .toSorted(([a], [b]) => a - b)
    .map(([, name]) => name);
}

/** What a record is called, by the values of its title's columns; empty when they hold nothing. */
export function titleText(values: readonly (Value | undefined)[]): string {
  return values.map(plainText).filter(Boolean).join(' · ');
}
