import { keepInRules } from '../../core/access/view';
import { and, bound, joined, name, or, sql, sqlValue, type Sql } from '../../core/condition/sql';
import { findColumn, plainLabel, type Table } from '../../core/table/catalogue';
import { parseValue, sameValue, type Value } from '../../core/table/value';
import type { Runner, Source } from '../sources/source';
import { Conflict, InvalidValues, NotFound, Refused } from './errors';
import { openTable } from './list';
import { isInView, readRow, type OpenRecord } from './read';
import { keyIs, readRecordId } from './record-id';
import { Tables } from './tables';
import { ViewSql, type Visit } from './view-sql';

/** For each column to change: what the person was shown and what it shall hold. */
export type Changes = Record<string, { from: unknown; to: unknown }>;

/**
 * Changes a record of the person's view, in one transaction: the record is locked, rights, conflicts and values are
 * tested, the policy stands in the UPDATE's own WHERE, and the keep-in rule is tested after it. Returns the record as the
 * person sees it then; null when it has left their view (which a keep-in rule may allow).
 */
export async function edit(source: Source, visit: Visit, tableName: string, id: string, changes: Changes): Promise<OpenRecord | null> {
  const view = new ViewSql(visit);
  const table = openTable(visit, view, tableName);
  const key = readRecordId(table, id);
  if (!key) throw new NotFound();
  return source.transaction(async (runner) => {
    const before = await readRow(runner, visit, view, table, key, [], true);
    if (!before) throw new NotFound();
    refuseForeignColumns(changes, before);
    const values = readValues(table, changes);
    await refuseForeignRelations(runner, visit, table, values);
    refuseStale(table, changes, values, before);
    if (values.size > 0) {
      await update(runner, visit, view, table, key, values);
      await keepIn(runner, visit, view, table, key);
    }
    return readRow(runner, visit, view, table, key, [], false);
  });
}

/** A column that isn't editable gets the same answer whether it is shown, masked, hidden or not there at all. */
function refuseForeignColumns(changes: Changes, before: OpenRecord): void {
  const refused = Object.keys(changes).filter((column) => !before.editable.includes(column));
  if (refused.length === 0) return;
  throw new Refused('You may not change this.', Object.fromEntries(refused.map((column) => [column, 'This can\'t be changed by you.'])));
}

function readValues(table: Table, changes: Changes): Map<string, Value> {
  const values = new Map<string, Value>();
  const faults: Record<string, string> = {};
  for (const [columnName, change] of Object.entries(changes)) {
    const parsed = parseValue(findColumn(table, columnName)!, change.to);
    if (parsed.ok) values.set(columnName, parsed.value);
    else faults[columnName] = parsed.problem;
  }
  if (Object.keys(faults).length) throw new InvalidValues(faults);
  return values;
}

/** A relation may only be set to a record that the person sees; else the same answer as for one that isn't there. */
async function refuseForeignRelations(runner: Runner, visit: Visit, table: Table, values: Map<string, Value>): Promise<void> {
  for (const relation of table.relations) {
    const value = values.get(relation.column);
    if (value === undefined || value === null) continue;
    if (!(await isInView(runner, visit, relation.table, relation.targetColumn, value))) throw new InvalidValues({ [relation.column]: noSuchRecord });
  }
}

const noSuchRecord = 'There is no such record. Choose another.';

function refuseStale(table: Table, changes: Changes, values: Map<string, Value>, before: OpenRecord): void {
  const conflicts: Conflict['fields'] = {};
  for (const [column, yours] of values) {
    const now = before.values[column] ?? null;
    const was = parseValue({ ...findColumn(table, column)!, nullable: true }, changes[column]!.from);
    if (!(was.ok && sameValue(was.value, now)) && !sameValue(yours, now)) {
      conflicts[column] = { was: was.ok ? was.value : null, now, yours };
    }
  }
  if (Object.keys(conflicts).length) throw new Conflict(conflicts);
}

async function update(runner: Runner, visit: Visit, view: ViewSql, table: Table, key: Value[], values: Map<string, Value>): Promise<void> {
  const tables = new Tables(visit.catalogue, table);
  const mayEdit = view.view(table).lenses.flatMap((lens) => (lens.edit ? [view.filter(lens.edit.rows, tables, [], table)] : []));
  const where = joined([keyIs(tables.root, table, key), view.rows(tables), sql`(${joined(mayEdit, or)})`], and);
  const set = joined([...values].map(([column, value]) => sql`${tables.root}.${name(column)} = ${bound(sqlValue(value))}`), sql`, `);
  let matched: number;
  try {
    matched = await runner.write(sql`UPDATE ${tables.sql()} SET ${set} WHERE ${where}`);
  } catch (error) {
    throw readableError(error, table, [...values.keys()]);
  }
  if (matched !== 1) throw new NotFound();
}

async function keepIn(runner: Runner, visit: Visit, view: ViewSql, table: Table, key: Value[]): Promise<void> {
  const tables = new Tables(visit.catalogue, table);
  const rules: Sql[] = keepInRules(view.view(table)).map((rule) => view.filter(rule, tables, [], table));
  const where = sql`${keyIs(tables.root, table, key)} AND (${joined(rules, or)})`;
  const kept = await runner.rows(sql`SELECT 1 FROM ${tables.sql()} WHERE ${where}`);
  if (kept.length === 0) throw new Refused('With this change the record would no longer be yours to edit, so it was not saved.');
}

/** What the database itself refuses, said beside the column where that can be told. */
function readableError(error: unknown, table: Table, columns: string[]): unknown {
  const { errno, sqlMessage = '' } = error as { errno?: number; sqlMessage?: string };
  const only = columns.length === 1 ? columns[0]! : null;
  if (errno === 1062) {
    const unique = columns.filter((column) => findColumn(table, column)?.unique);
    return new InvalidValues(Object.fromEntries((unique.length ? unique : columns).map((column) => [column, 'This value is already taken. Choose another.'])));
  }
  if (errno === 1452) {
    const relation = table.relations.find((each) => columns.includes(each.column));
    return new InvalidValues({ [relation?.column ?? columns[0]!]: noSuchRecord });
  }
  if (errno === 1264 || errno === 1406 || errno === 1366 || errno === 1265) {
    const named = columns.find((column) => sqlMessage.includes(`'${column}'`) || sqlMessage.includes(`\`${column}\``)) ?? only;
    return named ? new InvalidValues({ [named]: 'This value does not fit. Shorten it or choose another.' }) : new Refused('A value does not fit.');
  }
  if (errno === 4025 || errno === 1644) {
    return new InvalidValues(Object.fromEntries(columns.map((column) => [column, `${plainLabel(column)} breaks a rule of the database.`])));
  }
  return error;
}
