import { hasRules, refuseBroken } from './field-rules';
import { refuseOthers } from './looked-after';
import { happened } from './happenings';
import { tableRights, type Maker } from '../../../core/access/rights';
import { neededColumns } from '../../../core/access/view';
import { bound, joined, name, sql } from '../../../core/sql/sql';
import { findColumn, type Table } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import { readState } from '../read/read';
import { decode } from '../view/decode';
import { InvalidValues, Refused } from '../view/errors';
import type { OpenRecord } from '../view/open-record';
import { recordId } from '../view/record-id';
import type { TableWrite } from '../view/table-visit';
import { storedTable } from '../view/tables';
import { refuseForeignCombinations } from './references';
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

/** Null, and nothing made, when the keep-in rule or a fence refuses it. */
export async function insertAs(
  at: TableWrite,
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
  happened(at, newKey, 'made');
  // Where nobody is told of it, or sees any, it need not be looked at as they see it.
  const state = tells && tableRights(at.view.view(at.table)).sees ? await readState(at, newKey, [], false) : null;
  return { id: state && recordId(newKey), record: state?.record ?? null, key: newKey, maker };
}

/** Inserts the values with the stamps and the first state of the role; gives the new record's key. */
export async function insert(at: TableWrite, maker: Maker, values: ReadonlyMap<string, Value>): Promise<Value[]> {
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
    const statement = sql`INSERT INTO ${storedTable(table)}
      ${columns.length ? sql`(${listed}) VALUES (${given})` : view.dialect.insertNothing} RETURNING ${returned}`;
    return await noting(at, null, async () => {
      const [row] = await runner.rows(statement);
      return key.map((column, i) => decode(column, row![i]));
    });
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
