import {
  faultsOf,
  keepingRules,
  rulesAfter,
  worksAt,
  type RuleOutcome,
  type Written,
} from '../../../core/form/field-rules';
import type { FieldRule } from '../../../core/definition/definition';
import { joined, sql, type Sql } from '../../../core/sql/sql';
import { findColumn } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import { InvalidValues, Refused } from '../view/errors';
import { keyIs } from '../view/record-id';
import type { TableVisit } from '../view/table-visit';
import { Tables } from '../view/tables';
import { yes } from '../view/view-sql';

const rulesOf = ({ visit, table }: Pick<TableVisit, 'visit' | 'table'>): readonly FieldRule[] =>
  Object.hasOwn(visit.definition.tables, table.name) ? (visit.definition.tables[table.name]!.rules ?? []) : [];

/** Whether a write on the table has to be looked at after it, whoever it is by. */
export const hasRules = (at: Pick<TableVisit, 'visit' | 'table'>): boolean => rulesOf(at).length > 0;

/**
 * Throws where a column would be changed that a rule of the table keeps as it is. The record is the one before the
 * change, and locked. `told` are the columns that the person may change: others are not named.
 */
export async function refuseKept(
  at: TableVisit,
  key: Value[],
  changed: ReadonlySet<string>,
  told: (column: string) => boolean,
): Promise<void> {
  const outcomes = await outcomesOf(at, key, keepingRules(rulesOf(at), changed));
  const faults = Object.entries(faultsOf(outcomes)).filter(([column]) => changed.has(column));
  refuse(Object.fromEntries(faults), told);
}

/** Throws where the record, as it is after the write, is not what the table's rules ask. */
export async function refuseBroken(
  at: TableVisit,
  key: Value[],
  written: Written,
  told: (column: string) => boolean,
): Promise<void> {
  refuse(faultsOf(await outcomesOf(at, key, rulesAfter(rulesOf(at), written, scopeOf(at)))), told);
}

const scopeOf = ({ visit: { catalogue }, table }: TableVisit) => ({ catalogue, table, member: true });

async function outcomesOf(at: TableVisit, key: Value[], rules: readonly FieldRule[]): Promise<RuleOutcome[]> {
  if (rules.length === 0) return [];
  const { runner, visit, view, table } = at;
  // Nobody knows what it would have refused.
  if (!rules.every((rule) => worksAt(rule, scopeOf(at))))
    throw new Refused("This can't be saved: a rule of the table does not work any more. Its portal's keeper mends it.");
  const tables = new Tables(visit.catalogue, table);
  const selected: Sql[] = [];
  const places = rules.map(({ when, columns }) => ({
    when: selected.push(sql`(${when ? view.condition(when, tables) : yes} IS TRUE)`) - 1,
    columns: columns.map((column) => selected.push(tables.column([], findColumn(table, column)!)) - 1),
  }));
  // Locked as for a keep-in rule: what the rule goes by elsewhere must hold until the write is kept.
  const lock = view.dialect.lock('keep', tables.root);
  const [row] = await runner.rows(
    sql`SELECT ${joined(selected, sql`, `)} FROM ${tables.sql()} WHERE ${keyIs(tables.root, table, key)}${lock}`,
  );
  return rules.map((rule, i) => ({
    rule,
    applies: Number(row?.[places[i]!.when] ?? 0) === 1,
    empty: new Set(rule.columns.filter((_, n) => (row?.[places[i]!.columns[n]!] ?? '') === '')),
  }));
}

function refuse(faults: Record<string, string>, told: (column: string) => boolean): void {
  const all = Object.entries(faults);
  if (all.length === 0) return;
  const seen = all.filter(([column]) => told(column));
  if (seen.length > 0) throw new InvalidValues(Object.fromEntries(seen));
  throw new Refused("This can't be saved: something else in the record does not allow it.");
}
