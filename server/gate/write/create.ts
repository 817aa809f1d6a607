import { tableRights, type Maker } from '../../../core/access/rights';
import { findTable } from '../../../core/table/catalogue';
import type { Source, Transaction } from '../../sources/source';
import { byColumn, namingColumns } from '../view/column-names';
import { InvalidValues, NotFound, Refused } from '../view/errors';
import type { TableWrite } from '../view/table-visit';
import { viewSql } from '../view/view-sql';
import type { Visit } from '../view/visit';
import { refuseForeignFiles } from './column-files';
import { insertAs, missingOf, needed, type Created, type Kept } from './insert';
import { refuseForeignRelations } from './references';
import { attempting } from './transaction-log';
import { readValues, type WriteOptions } from './write';
import { writing } from './writing';

/**
 * Makes a record, in one transaction. Each of the person's roles that lets all columns sent be filled is tried in turn,
 * with its own stamps; what it makes must satisfy its keep-in rule and fences.
 */
export async function create(
  source: Source,
  visit: Visit,
  tableName: string,
  values: Record<string, unknown>,
  options: WriteOptions = {},
): Promise<Created> {
  return writing(source, visit, { ...options, isOne: true }, (runner) => createIn(runner, visit, tableName, values));
}

/** As `create`, inside a transaction. */
export async function createIn(
  runner: Transaction,
  visit: Visit,
  tableName: string,
  values: Record<string, unknown>,
): Promise<Created> {
  const { id, record } = await createKept(runner, visit, tableName, values);
  return { id, record };
}

/**
 * As `createIn`, with the key and the role's part in it, which are not for the maker. By `ofOwn` it leads to a record
 * that they made in the same transaction, which they need not see.
 */
export function createKept(
  runner: Transaction,
  visit: Visit,
  tableName: string,
  values: Record<string, unknown>,
  ofOwn: string | null = null,
): Promise<Kept> {
  const table = findTable(visit.catalogue, tableName);
  return namingColumns(table, () =>
    createColumns(runner, visit, tableName, table ? byColumn(table, values) : values, ofOwn),
  );
}

async function createColumns(
  runner: Transaction,
  visit: Visit,
  tableName: string,
  sent: Record<string, unknown>,
  ofOwn: string | null,
): Promise<Kept> {
  const view = viewSql(visit);
  const table = findTable(visit.catalogue, tableName);
  const makers = table ? tableRights(view.view(table)).makers : [];
  if (!table || makers.length === 0) throw new NotFound('table');
  const able = makers.filter((maker) => Object.keys(sent).every((column) => maker.fills.has(column)));
  if (able.length === 0) throw refusedColumns(makers, sent);

  const values = whole(
    () => readValues(table, Object.entries(sent)),
    () => missingOf(table, able[0]!, new Map(Object.entries(sent))),
  );
  const at: TableWrite = { runner, visit, view, table };
  await refuseForeignRelations(at, new Map([...values].filter(([column]) => column !== ofOwn)));
  await refuseForeignFiles(visit, table, values);
  // Of one alone nothing has to be taken back before another is tried: what is thrown does it.
  const [only, ...others] = able;
  if (others.length === 0) {
    const made = await insertAs(at, only!, values);
    if (made) return made;
  } else
    for (const maker of able) {
      const made = await attempting(runner, () => insertAs(at, maker, values));
      if (made) return made;
    }
  throw new Refused('Such a record would not be yours to make, so it was not saved.');
}

/** What can't be kept, and beside it what is missing: every fault at once. */
function whole<T>(read: () => T, missing: () => string[]): T {
  try {
    return read();
  } catch (error) {
    if (!(error instanceof InvalidValues)) throw error;
    throw new InvalidValues({ ...needed(missing()), ...error.fields });
  }
}

/** Columns that can't be filled get the same answer whether they are there or not. */
function refusedColumns(makers: readonly Maker[], sent: Record<string, unknown>): Refused {
  const refused = Object.keys(sent).filter((column) => !makers.some((maker) => maker.fills.has(column)));
  // Each may be filled through some role, but not all of them through one.
  const named = refused.length ? refused : Object.keys(sent);
  return new Refused(
    'You may not fill this.',
    Object.fromEntries(named.map((column) => [column, "This can't be filled by you."])),
  );
}
