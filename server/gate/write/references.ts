import type { TableVisit } from '../view/table-visit';
import { crossingsFrom, sourceName, canJoin } from '../../../core/definition/sources';
import { and, joined, name, or, sql, type Sql } from '../../../core/sql/sql';
import { findTable, type ForeignKey, type Table } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import { InvalidValues, Refused } from '../view/errors';
import { isInView } from '../read/read';
import { keyIs } from '../view/record-id';
import { Tables } from '../view/tables';
import type { Visit } from '../view/visit';

/**
 * What a record is made to point at must be something that the person sees, whatever kind of relation it is: else
 * writing would tell what exists.
 */
export const noSuchRecord = 'There is no such record. Choose another.';

/**
 * A relation may only be set to a record that the person sees, in this source or another; else the same answer as for
 * one that isn't there. A foreign key to a table that is not open here at all takes nothing. Builders' own work is held
 * to their view alone.
 */
export async function refuseForeignRelations(at: TableVisit, values: ReadonlyMap<string, Value>): Promise<void> {
  const { runner, visit, table } = at;
  const refuse = (column: string) => new InvalidValues({ [column]: noSuchRecord });
  for (const relation of table.relations) {
    const value = values.get(relation.column);
    if (value === undefined || value === null) continue;
    if (!(await isInView(runner, visit, relation.table, relation.targetColumn, value))) throw refuse(relation.column);
  }
  for (const relation of visit.elsewhere ? crossingsFrom(visit.definition, table.name) : []) {
    const value = values.get(relation.column);
    if (value === undefined || value === null) continue;
    const far = { ...visit, ...(await visit.elsewhere!(sourceName(visit.definition, relation.table))) };
    const target = findTable(far.catalogue, relation.table);
    // One that leads nowhere is no relation, only a column.
    if (
      target &&
      canJoin(table, relation, target) &&
      !(await isInView(far.source, far, relation.table, relation.targetColumn, value))
    )
      throw refuse(relation.column);
  }
  if (visit.person.kind === 'builder') return;
  for (const key of foreignKeysWithout(visit, table)) {
    const value = values.get(key.columns[0]!);
    if (value !== undefined && value !== null) throw refuse(key.columns[0]!);
  }
}

/** Foreign keys of one column to tables that are not among those of the catalogue. */
function foreignKeysWithout(visit: Visit, table: Table): ForeignKey[] {
  return (table.foreignKeys ?? []).filter(
    (key) => key.columns.length === 1 && (key.table === null || !findTable(visit.catalogue, key.table)),
  );
}

/** Foreign keys of several columns of which some are written. */
export function widerKeys(table: Table, written: Iterable<string>): ForeignKey[] {
  const columns = new Set(written);
  return (table.foreignKeys ?? []).filter(
    (key) => key.columns.length > 1 && key.columns.some((column) => columns.has(column)),
  );
}

/** The answer for foreign keys of several columns: the same whether the record is not there or not in the view. */
export function noSuchCombination(table: Table, written: Iterable<string>): InvalidValues {
  const columns = [...written];
  return new InvalidValues(
    Object.fromEntries(
      columns.filter((column) => widerKeys(table, [column]).length > 0).map((column) => [column, noSuchRecord]),
    ),
  );
}

/** After a write: what its foreign keys of several columns lead to must be in the person's view. */
export async function refuseForeignCombinations(
  at: TableVisit,
  key: Value[],
  written: readonly string[],
): Promise<void> {
  const { runner, visit, view, table } = at;
  const keys = visit.person.kind === 'builder' ? [] : widerKeys(table, written);
  if (keys.length === 0) return;
  if (table.key.length === 0)
    throw new Refused(
      "A table without a primary key can't take records under a rule, because the new one can't be told apart.",
    );
  const tables = new Tables(visit.catalogue, table);
  const holds = keys.map((each): Sql => {
    const empty = each.columns.map((column) => sql`${tables.root}.${name(column)} IS NULL`);
    const target = each.table === null ? undefined : findTable(visit.catalogue, each.table);
    if (!target) return sql`(${joined(empty, or)})`;
    const inner = tables.inside(target);
    const ends = each.targetColumns.map(
      (column, i) => sql`${view.end(target, column, inner)} = ${tables.root}.${name(each.columns[i]!)}`,
    );
    const seen = view.rows(inner);
    const there = sql`EXISTS (SELECT 1 FROM ${inner.sql()} WHERE ${joined([...ends, seen], and)})`;
    return sql`(${joined([...empty, there], or)})`;
  });
  const found = await runner.rows(
    sql`SELECT 1 AS c0 FROM ${tables.sql()} WHERE ${joined([keyIs(tables.root, table, key), ...holds], and)}`,
  );
  if (found.length === 0) throw noSuchCombination(table, written);
}
