import type { Column } from './catalogue';
import type { Value } from './value';

/**
 * A value as it is typed and copied: in the form that `fromPlain` and then the server read back. Several choices stand
 * between commas.
 */
export function plainText(value: Value | undefined): string {
  if (value === null || value === undefined) return '';
  return Array.isArray(value) ? value.join(', ') : String(value);
}

/** What typed text means for a column: nothing typed is no value. The server's word on it is the last. */
export function fromPlain(column: Pick<Column, 'type' | 'nullable'>, text: string): string | boolean | string[] | null {
  // None of several choices is a value too, where there must be one.
  if (text === '' && column.type === 'several choices' && !column.nullable) return [];
  if (text === '') return column.nullable || (column.type !== 'text' && column.type !== 'long text') ? null : '';
  if (column.type === 'yes/no') {
    const word = text.trim().toLowerCase();
    return word === 'yes' ? true : word === 'no' ? false : text.trim();
  }
  return text;
}
