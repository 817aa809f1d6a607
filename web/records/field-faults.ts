import { problemText, type ServerProblem } from '../client/http';
import type { ColumnInfo } from '../client/portal';

/** What is wrong, by column; under '' what belongs to none of them. */
export function faultsIn(error: ServerProblem, columns: readonly ColumnInfo[]): Record<string, string> {
  const fields = (error.body.fields ?? {}) as Record<string, string>;
  const known = Object.entries(fields).filter(([path]) => columns.some((column) => column.path === path));
  return known.length > 0 ? Object.fromEntries(known) : { '': problemText(error) };
}
