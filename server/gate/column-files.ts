import { findColumn, type Table } from '../../core/table/catalogue';
import type { Value } from '../../core/table/value';
import { InvalidValues } from './errors';
import type { Visit } from './view-sql';

/** Files that columns of records hold by their id. */
export interface FilesOfColumns {
  /** Whether the person may put this file into this column; it is then kept as long as a record holds it. */
  hold(table: string, column: string, id: string): Promise<boolean>;
  /** How many are held by this visit. */
  held(): number;
  /** Holds no more what was held after so many: the write that they were for was not kept. */
  letGo(after: number): Promise<void>;
}

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
