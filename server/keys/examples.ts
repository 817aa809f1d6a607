import type { ColumnInfo } from '../columns/column-info';

/** An invented value that a column could hold: the same for every column of its type. */
export function exampleOf({ type, choices, kind, scale, maxLength }: ColumnInfo): unknown {
  const short = (text: string) => (maxLength === undefined ? text : text.slice(0, maxLength));
  switch (type) {
    case 'text':
    case 'long text':
      if (kind === 'e-mail') return short('somebody@example.org');
      if (kind === 'phone') return short('01632 960000');
      return short(kind === 'web address' ? 'https://www.example.org/' : 'some words');
    case 'whole number':
      return 7;
    case 'decimal':
      return (12.5).toFixed(scale ?? 1);
    case 'number':
      return 12.5;
    case 'yes/no':
      return true;
    case 'date':
      return '2026-05-04';
    case 'date and time':
      return '2026-05-04 09:30:00';
    case 'time':
      return '09:30:00';
    case 'one choice':
      return choices?.[0] ?? 'one';
    case 'several choices':
      return choices?.slice(0, 1) ?? [];
    case 'other':
      return null;
  }
}
