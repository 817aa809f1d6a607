import { builderPerson } from '../../../core/access/person';
import { name, sql } from '../../../core/sql/sql';
import type { PortalDefinition } from '../../../core/definition/definition';
import { findColumn, findTable, isClosed, usableKey, type Catalogue, type Table } from '../../../core/table/catalogue';
import type { Runner } from '../../sources/source';
import { InvalidValues } from '../view/errors';
import { Tables } from '../view/tables';
import { tellsApart } from './tells-apart';
import { ViewSql } from '../view/view-sql';

/** Tries a key for a table or view that has none; throws InvalidValues where it does not tell the records apart. */
export async function tryKey(
  runner: Runner,
  catalogue: Catalogue,
  definition: PortalDefinition,
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
  if (!(await tells(runner, catalogue, definition, table, key)))
    throw new InvalidValues({
      key: `${key.join(', ')} is empty or the same in several records, so it can't tell them apart.`,
    });
}

/** The tables whose declared keys do not tell their records apart any more. For builders. */
export async function brokenKeys(
  runner: Runner,
  catalogue: Catalogue,
  definition: PortalDefinition,
): Promise<string[]> {
  const broken: string[] = [];
  for (const [tableName, { key }] of Object.entries(definition.tables)) {
    const table = findTable(catalogue, tableName);
    // A key that is not used says nothing: the table has one of its own, or a column of it is gone or closed.
    if (!table || !key || !table.keyByWord || table.query !== undefined) continue;
    if (!(await tells(runner, catalogue, definition, table, key))) broken.push(tableName);
  }
  return broken;
}

/** Among the records that the ceiling leaves; of those beyond it a builder learns nothing either. */
function tells(
  runner: Runner,
  catalogue: Catalogue,
  definition: PortalDefinition,
  table: Table,
  key: readonly string[],
): Promise<boolean> {
  const tables = new Tables(catalogue, table);
  const view = new ViewSql({ definition, catalogue, person: builderPerson, moment: new Date() });
  const rows = view.rows(tables);
  return tellsApart(
    runner,
    sql`${tables.sql()} WHERE ${rows}`,
    key.map((each) => sql`${tables.root}.${name(each)}`),
  );
}
