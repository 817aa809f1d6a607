import type { TableVisit } from '../view/table-visit';
import { constantValue, isConstant } from '../../../core/condition/operand-value';
import type { Dialect } from '../../../core/dialect/dialect';
import { and, bound, joined, name, sql, type Sql } from '../../../core/sql/sql';
import type { Rows } from '../../../core/access/rows';
import type { Stamp } from '../../../core/definition/definition';
import { findColumn, plainLabel, type Table } from '../../../core/table/catalogue';
import { parseValue, type Value } from '../../../core/table/value';
import { DatabaseRefusal } from '../../sources/refusal';
import { InvalidValues, NotFound } from '../view/errors';
import { keyIs } from '../view/record-id';
import type { Leaving } from '../view/leaving';
import type { Leaver } from '../view/visit';
import { noting } from './record-changes';
import type { DoneBy } from './transaction-log';
import { noSuchCombination, noSuchRecord, widerKeys } from './references';
import { storedTable, Tables } from '../view/tables';
import { yes, type ViewSql } from '../view/view-sql';

/** What every kind of write has in common. */

/** `trial` runs the whole write, says what came of it, and takes it back. */
export interface WriteOptions {
  trial?: boolean;
  /** Of a trial: told what would have left by it. */
  wouldLeave?: (leaving: Leaving) => void;
  /** By what it is done, where that matters to what follows by itself. */
  by?: DoneBy;
  /** Whether it is noted what it takes to take it back. */
  notes?: boolean;
  /** Where what leaves by it is written down, in place of the visit's own. */
  leaver?: Leaver;
  /** Of several records: told how many were done. What it throws takes all back. */
  progress?: (done: number) => Promise<void>;
  /** Called inside the transaction, just before its end. */
  beforeKeeping?: () => Promise<void>;
}

/** Reads what was sent for each column; InvalidValues names every one that can't be kept. */
export function readValues(table: Table, sent: Iterable<[string, unknown]>): Map<string, Value> {
  const values = new Map<string, Value>();
  const faults: Record<string, string> = {};
  for (const [columnName, input] of sent) {
    const parsed = parseValue(findColumn(table, columnName)!, input);
    if (parsed.ok) values.set(columnName, parsed.value);
    else faults[columnName] = parsed.problem;
  }
  if (Object.keys(faults).length) throw new InvalidValues(faults);
  return values;
}

/** The values that stamps put in; the first stamp of a column decides. */
export function stamped(view: ViewSql, stamps: Iterable<Stamp>, on: 'create' | 'change'): Map<string, Value> {
  const values = new Map<string, Value>();
  for (const stamp of stamps) {
    const due = stamp.on === on || stamp.on === 'create and change';
    if (due && !values.has(stamp.column) && isConstant(stamp.value))
      values.set(stamp.column, constantValue(stamp.value, view.context));
  }
  return values;
}

/** The defaults of columns that a new record was given nothing for; the first of a column decides. */
export function defaulted(
  view: ViewSql,
  stamps: Iterable<Stamp>,
  given: ReadonlyMap<string, Value>,
): Map<string, Value> {
  const values = new Map<string, Value>();
  for (const { on, column, value } of stamps) {
    const isEmpty = (given.get(column) ?? '') === '';
    if (on === 'left empty' && isEmpty && !values.has(column) && isConstant(value))
      values.set(column, constantValue(value, view.context));
  }
  return values;
}

/** `a = ?, b = ?` for an UPDATE. */
export function assignments(values: ReadonlyMap<string, Value>, dialect: Dialect): Sql {
  return joined(
    [...values].map(([column, value]) => sql`${name(column)} = ${bound(dialect.value(value))}`),
    sql`, `,
  );
}

/**
 * Runs `UPDATE …` or `DELETE …` on one record with the policy in the same statement: whoever lost the right in between
 * changes nothing, and gets NotFound.
 */
export async function underPolicy(
  at: TableVisit,
  key: Value[],
  statement: Sql,
  policy: (tables: Tables) => Sql[],
): Promise<void> {
  const { runner, visit, table } = at;
  const tables = new Tables(visit.catalogue, table);
  const parts = policy(tables).filter((part) => part !== yes);
  const allowed = joined([keyIs(tables.root, table, key), ...parts], and);
  const own = sql`${statement} WHERE ${keyIs(storedTable(table), table, key)}`;
  const matched = await noting(at, key, () =>
    // Where the policy lets every row through there is nothing to ask beside the key.
    runner.write(
      parts.length === 0
        ? own
        : sql`${own} AND EXISTS (SELECT 1 FROM (SELECT 1 FROM ${tables.sql()} WHERE ${allowed}) allowed)`,
    ),
  );
  if (matched !== 1) throw new NotFound();
}

/** Whether the record satisfies one of the rules as it is now, after the write. */
export async function keeps(at: TableVisit, key: Value[], rules: readonly Rows[]): Promise<boolean> {
  // Where every row will do there is nothing to look at.
  if (rules.some((rows) => rows !== 'no row' && rows.length === 0)) return true;
  const { runner, visit, view, table } = at;
  const tables = new Tables(visit.catalogue, table);
  const where = sql`${keyIs(tables.root, table, key)} AND ${view.anyRows(rules, tables)}`;
  return (
    (await runner.rows(sql`SELECT 1 FROM ${tables.sql()} WHERE ${where}${view.dialect.lock('keep', tables.root)}`))
      .length > 0
  );
}

/**
 * What the database itself refuses, said beside the column where that can be told. Never says whose value is in the
 * way.
 */
export function readableError(error: unknown, table: Table, columns: string[]): unknown {
  if (!(error instanceof DatabaseRefusal)) return error;
  const all = (reason: (column: string) => string, chosen = columns) =>
    new InvalidValues(Object.fromEntries(chosen.map((column) => [column, reason(column)])));
  const named =
    error.column !== null && columns.includes(error.column) ? error.column : columns.length === 1 ? columns[0]! : null;
  switch (error.kind) {
    case 'taken': {
      const unique = columns.filter((column) => findColumn(table, column)?.unique);
      return all(() => 'This value is already taken. Choose another.', unique.length ? unique : columns);
    }
    case 'no such record':
      if (widerKeys(table, columns).length > 0) return noSuchCombination(table, columns);
      return new InvalidValues({
        [table.relations.find((each) => columns.includes(each.column))?.column ?? columns[0] ?? '']: noSuchRecord,
      });
    case 'does not fit':
      return named === null
        ? new InvalidValues({})
        : new InvalidValues({ [named]: 'This value does not fit. Shorten it or choose another.' });
    case 'breaks a rule':
      return all(
        (column) => `${plainLabel(column)} breaks a rule of the database.`,
        named === null ? columns : [named],
      );
    case 'still used':
      return error;
  }
}
