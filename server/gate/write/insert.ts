import { hasRules, refuseBroken } from './field-rules';
import { refuseOthers } from './looked-after';
import { followersOf, happened } from './happenings';
import { tableRights, type Maker } from '../../../core/access/rights';
import { neededColumns } from '../../../core/access/view';
import { bound, comma, joined, name, sql } from '../../../core/sql/sql';
import { historyOf } from '../../../core/definition/history';
import { findColumn, type Column, type Table } from '../../../core/table/catalogue';
import type { RawRow } from '../../sources/source';
import { logOf } from './transaction-log';
import type { Value } from '../../../core/table/value';
import { readState } from '../read/read';
import { decode } from '../view/decode';
import { InvalidValues, Refused } from '../view/errors';
import type { OpenRecord } from '../view/open-record';
import { recordId } from '../view/record-id';
import type { TableWrite } from '../view/table-visit';
import { storedTable } from '../view/tables';
import { refuseForeignCombinations, widerKeys } from './references';
import { noting } from './record-changes';
import { defaulted, keeps, readableError, stamped } from './write';

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
export interface Kept extends Created {
  key: Value[];
  maker: Maker;
  /** What stands in its `standingColumns`, where it was made by one statement; else it is to be read. */
  stands: RawRow | null;
}

export const needed = (columns: string[]) =>
  Object.fromEntries(columns.map((column) => [column, 'This needs a value.']));

/** Columns that must be filled, aren't, and that the person may fill. */
export function missingOf(table: Table, maker: Maker, values: ReadonlyMap<string, unknown>): string[] {
  return neededColumns(table).filter(
    (column) =>
      (values.get(column) ?? null) === null &&
      maker.fills.has(column) &&
      !maker.stamps.some((stamp) => stamp.column === column),
  );
}

/** The columns by which it is told whether anything in a record was changed. */
export const standingColumns = (table: Table): Column[] => table.columns.filter(({ type }) => type !== 'other');

/** Whether nothing else is asked in the transaction in which a record is made that its maker doesn't see. */
const isOneStatement = (at: TableWrite, { keepIn, steward }: Maker, values: ReadonlyMap<string, Value>): boolean =>
  logOf(at.runner)?.isOne === true &&
  steward === undefined &&
  keepIn !== 'no row' &&
  keepIn.length === 0 &&
  !hasRules(at) &&
  historyOf(at.visit.definition, at.table) === null &&
  widerKeys(at.table, values.keys()).length === 0 &&
  followersOf(at, 'made').length === 0;

/** Null, and nothing made, when the keep-in rule or a fence refuses it. */
export async function insertAs(
  at: TableWrite,
  maker: Maker,
  values: Map<string, Value>,
  tells = true,
): Promise<Kept | null> {
  const { keepIn, steward } = maker;
  if (steward !== undefined) await refuseOthers(at, steward, null, values);
  const sees = tells && tableRights(at.view.view(at.table)).sees;
  const isOne = !sees && isOneStatement(at, maker, values);
  const { key: newKey, stands } = await insert(at, maker, values, isOne);
  await refuseForeignCombinations(at, newKey, [...values.keys()]);
  if (newKey.length === 0) {
    const isFree = keepIn !== 'no row' && keepIn.length === 0 && !hasRules(at);
    if (isFree) return { id: null, record: null, key: [], maker, stands: null };
    throw new Refused(
      "A table without a primary key can't take records under a rule, because the new one can't be told apart.",
    );
  }
  if (!(await keeps(at, newKey, [keepIn]))) return null;
  const written = { isNew: true, columns: new Set(values.keys()) };
  await refuseBroken(at, newKey, written, (column) => maker.fills.has(column));
  happened(at, newKey, 'made');
  // Where nobody is told of it, or sees any, it need not be looked at as they see it.
  const state = sees ? await readState(at, newKey, [], false) : null;
  return { id: state && recordId(newKey), record: state?.record ?? null, key: newKey, maker, stands };
}

/**
 * Inserts the values with the stamps and the first state of the role; gives the new record's key, and where nothing
 * else is asked in the transaction all that stands in it.
 */
export async function insert(
  at: TableWrite,
  maker: Maker,
  values: ReadonlyMap<string, Value>,
  isOne = false,
): Promise<{ key: Value[]; stands: RawRow | null }> {
  const { runner, visit, view, table } = at;
  const lifecycle = (visit.definition.lifecycles ?? []).find((each) => each.table === table.name);
  const start: [string, Value][] =
    lifecycle?.start !== undefined && findColumn(table, lifecycle.column) ? [[lifecycle.column, lifecycle.start]] : [];
  const defaults = defaulted(view, maker.stamps, values);
  const whole = new Map([...values, ...defaults, ...stamped(view, maker.stamps, 'create'), ...start]);
  refuseMissing(table, maker, whole);
  const columns = [...whole.keys()];
  const key = table.key.map((column) => findColumn(table, column)!);
  const last = isOne ? runner.last : undefined;
  // Without a key nobody goes on from what stands there.
  const standing = last && key.length > 0 ? standingColumns(table) : [];
  const told = [
    ...key.map((column) => name(column.name)),
    ...standing.map((column) => view.dialect.read(name(column.name), column)),
  ];
  const listed = joined(
    columns.map((column) => name(column)),
    comma,
  );
  const given = joined(
    [...whole.values()].map((value) => bound(view.dialect.value(value))),
    comma,
  );
  try {
    const statement = sql`INSERT INTO ${storedTable(table)}
      ${columns.length ? sql`(${listed}) VALUES (${given})` : view.dialect.insertNothing}
      RETURNING ${told.length ? joined(told, comma) : sql`1`}`;
    let stands: RawRow | null = null;
    const made = await noting(at, null, async () => {
      const [row] = await (last ?? runner.rows)(statement);
      if (standing.length > 0) stands = row!.slice(key.length);
      return key.map((column, i) => decode(column, row![i]));
    });
    return { key: made, stands };
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
