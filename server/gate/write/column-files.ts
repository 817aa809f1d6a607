import { findColumn, type Table } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import { InvalidValues } from '../view/errors';
import type { Visit } from '../view/visit';

/** A column of files takes only a file that this person sent for it: an id that is known or guessed opens nothing. */
export async function refuseForeignFiles(
  visit: Visit,
  table: Table,
  values: ReadonlyMap<string, Value>,
  before: Readonly<Record<string, Value>> = {},
): Promise<void> {
  for (const [name, value] of values) {
    if (findColumn(table, name)?.kind !== 'file' || value === null || value === '' || before[name] === value) continue;
    if (!(await visit.files?.hold(table.name, name, String(value))))
      throw new InvalidValues({ [name]: 'Choose a file and send it.' });
  }
}
