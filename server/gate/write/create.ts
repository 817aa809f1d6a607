import { viewSql } from '../view/view-sql';
import type { TableVisit, TableWrite } from '../view/table-visit';
import { tableRights, type Maker } from '../../../core/access/rights';
import { neededColumns } from '../../../core/access/view';
import { bound, joined, name, sql } from '../../../core/sql/sql';
import { findColumn, findTable, type Table } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import type { Source, Transaction } from '../../sources/source';
import { refuseForeignFiles } from './column-files';
import { hasRules, refuseBroken } from './field-rules';
import { refuseOthers } from './looked-after';
import { decode } from '../view/decode';
import { byColumn, namingColumns } from '../view/column-names';
import { InvalidValues, NotFound, Refused } from '../view/errors';
import { readState } from '../read/read';
import type { OpenRecord } from '../view/open-record';
import { recordId } from '../view/record-id';
import { refuseForeignCombinations, refuseForeignRelations } from './references';
import type { Visit } from '../view/visit';
import { defaulted, keeps, readableError, readValues, stamped, writing, type WriteOptions } from './write';
import { storedTable } from '../view/tables';

/** A new record: its address where the maker can see it, and the record as they see it. */
export interface Created {
  /**
   * Null when the table has no primary key, or the maker doesn't see what they made: its number would tell how many
   * there are.
   */
  id: string | null;
  record: OpenRecord | null;
}

/** A new record with its key, and the role that it was made by: for whoever goes on with it in the same transaction. */
interface Kept extends Created {
  key: Value[];
  maker: Maker;
}

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
  return writing(source, visit, options, (runner) => createIn(runner, visit, tableName, values));
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

/** As `createIn`, with the key and the role's part in it, which are not for the maker. */
export function createKept(
  runner: Transaction,
  visit: Visit,
  tableName: string,
  values: Record<string, unknown>,
): Promise<Kept> {
  const table = findTable(visit.catalogue, tableName);
  return namingColumns(table, () => createColumns(runner, visit, tableName, table ? byColumn(table, values) : values));
}

async function createColumns(
  runner: Transaction,
  visit: Visit,
  tableName: string,
  sent: Record<string, unknown>,
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
  await refuseForeignRelations(at, values);
  await refuseForeignFiles(visit, table, values);
  for (const maker of able) {
    const made = await runner.attempt(() => insertAs(at, maker, values));
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

const needed = (columns: string[]) => Object.fromEntries(columns.map((column) => [column, 'This needs a value.']));

/** Columns that must be filled, aren't, and that the person may fill. */
function missingOf(table: Table, maker: Maker, values: ReadonlyMap<string, unknown>): string[] {
  return neededColumns(table).filter(
    (column) =>
      (values.get(column) ?? null) === null &&
      maker.fills.has(column) &&
      !maker.stamps.some((stamp) => stamp.column === column),
  );
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

/** Null, and nothing made, when the keep-in rule or a fence refuses it. */
export async function insertAs(
  at: TableVisit,
  maker: Maker,
  values: Map<string, Value>,
  tells = true,
): Promise<Kept | null> {
  const { keepIn, steward } = maker;
  if (steward !== undefined) await refuseOthers(at, steward, null, values);
  const newKey = await insert(at, maker, values);
  await refuseForeignCombinations(at, newKey, [...values.keys()]);
  if (newKey.length === 0) {
    if (keepIn !== 'no row' && keepIn.length === 0 && !hasRules(at)) return { id: null, record: null, key: [], maker };
    throw new Refused(
      "A table without a primary key can't take records under a rule, because the new one can't be told apart.",
    );
  }
  if (!(await keeps(at, newKey, [keepIn]))) return null;
  const written = { isNew: true, columns: new Set(values.keys()) };
  await refuseBroken(at, newKey, written, (column) => maker.fills.has(column));
  // Where nobody is told of it, it need not be looked at as they see it.
  const state = tells ? await readState(at, newKey, [], false) : null;
  return { id: state && recordId(newKey), record: state?.record ?? null, key: newKey, maker };
}

/** Inserts the values with the stamps and the first state of the role; gives the new record's key. */
export async function insert(at: TableVisit, maker: Maker, values: ReadonlyMap<string, Value>): Promise<Value[]> {
  const { runner, visit, view, table } = at;
  const lifecycle = (visit.definition.lifecycles ?? []).find((each) => each.table === table.name);
  const start: [string, Value][] =
    lifecycle?.start !== undefined && findColumn(table, lifecycle.column) ? [[lifecycle.column, lifecycle.start]] : [];
  const defaults = defaulted(view, maker.stamps, values);
  const whole = new Map([...values, ...defaults, ...stamped(view, maker.stamps, 'create'), ...start]);
  refuseMissing(table, maker, whole);
  const columns = [...whole.keys()];
  const key = table.key.map((column) => findColumn(table, column)!);
  const returned = key.length
    ? joined(
        key.map((column) => name(column.name)),
        sql`, `,
      )
    : sql`1`;
  const listed = joined(
    columns.map((column) => name(column)),
    sql`, `,
  );
  const given = joined(
    [...whole.values()].map((value) => bound(view.dialect.value(value))),
    sql`, `,
  );
  try {
    const [row] = await runner.rows(
      sql`INSERT INTO ${storedTable(table)}
        ${columns.length ? sql`(${listed}) VALUES (${given})` : view.dialect.insertNothing} RETURNING ${returned}`,
    );
    return key.map((column, i) => decode(column, row![i]));
  } catch (error) {
    throw readableError(error, table, [...values.keys()]);
  }
}

/** Columns that must be filled are named only where the person may fill them. */
function refuseMissing(table: Table, maker: Maker, values: ReadonlyMap<string, Value>): void {
  const missing = neededColumns(table).filter((column) => (values.get(column) ?? null) === null);
  if (missing.length === 0) return;
  const own = missingOf(table, maker, values);
  if (own.length === 0)
    throw new Refused("Such a record can't be made by you: something that it needs would stay empty.");
  throw new InvalidValues(needed(own));
}
