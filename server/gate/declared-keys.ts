import type { PortalDefinition } from '../../core/definition/definition';
import { findColumn, findTable, isClosed, usableKey, type Catalogue, type Table } from '../../core/table/catalogue';
import type { Runner } from '../sources/source';
import { InvalidValues } from './errors';
import { fromTable } from './tables';
import { tellsApart } from './tells-apart';

/** Tries a key for a table or view that has none; throws InvalidValues where it does not tell the records apart. */
export async function tryKey(
  runner: Runner,
  catalogue: Catalogue,
  table: Table,
  key: readonly string[],
): Promise<void> {
  const strange = key.find((each) => !findColumn(table, each) || isClosed(table, each));
  if (strange !== undefined)
    throw new InvalidValues({ key: `${table.name} has no column ${strange} that can be read.` });
  if (usableKey(table.columns, key).length === 0)
    throw new InvalidValues({
      key: `${key.join(', ')} can't be compared, so it tells nothing apart. Choose other columns.`,
    });
  if (!(await tellsApart(runner, fromTable(catalogue, table.name), key)))
    throw new InvalidValues({
      key: `${key.join(', ')} is empty or the same in several records, so it can't tell them apart.`,
    });
}

/** The tables whose declared keys do not tell their records apart any more. For builders. */
export async function brokenKeys(
  runner: Runner,
  catalogue: Catalogue,
  { tables }: Pick<PortalDefinition, 'tables'>,
): Promise<string[]> {
  const broken: string[] = [];
  for (const [tableName, { key }] of Object.entries(tables)) {
    const table = findTable(catalogue, tableName);
    if (
      table &&
      key &&
      table.key.join('\n') === key.join('\n') &&
      !(await tellsApart(runner, fromTable(catalogue, tableName), key))
    )
      broken.push(tableName);
  }
  return broken;
}
