import type { Column } from '../../../core/table/catalogue';
import { normaliseTimestamp, wholeNumber, type Value } from '../../../core/table/value';

/** A raw value of the driver as a value of the column. */
export function decode(column: Column, raw: unknown): Value {
  if (raw === null || raw === undefined) return null;
  switch (column.type) {
    case 'whole number':
      return typeof raw === 'number' ? raw : wholeNumber(String(raw));
    case 'number':
      return Number(raw);
    case 'yes/no':
      return raw !== 'false' && Number(raw) !== 0;
    case 'date and time':
      // The drivers write the canonical form; only a fraction may end in zeros, and a zone be named, which is UTC.
      return String(raw).length === 19
        ? String(raw)
        : (normaliseTimestamp(String(raw).replace(/\+00$/, '')) ?? String(raw));
    case 'several choices':
      if (Array.isArray(raw)) return raw.map(String);
      return String(raw) === '' ? [] : String(raw).split(',');
    case 'text':
      // A padded text is without its padding wherever it is read, by the database or from what a key gives.
      return column.read === 'text' ? String(raw).replace(/ +$/, '') : String(raw);
    default:
      return String(raw);
  }
}
