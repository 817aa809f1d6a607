import type { SqlValue } from '../sql/sql';
import type { Value } from '../table/value';

/** A value of a record as the database takes it. */
export function sqlValue(value: Value): SqlValue {
  if (typeof value === 'boolean') return value ? 1 : 0;
  return Array.isArray(value) ? value.join(',') : value;
}
