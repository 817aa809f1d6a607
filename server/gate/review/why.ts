import { viewSql } from '../view/view-sql';
import type { TableVisit } from '../view/table-visit';
import { explain, neededToExplain, type Explanation } from '../../../core/access/explain';
import type { RecordReader } from '../../../core/condition/prepare';
import { sql } from '../../../core/sql/sql';
import type { ExistsCondition } from '../../../core/condition/tree';
import { findTable, isPathProblem, resolvePath } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import type { View } from '../../../core/access/view';
import type { Runner } from '../../sources/source';
import { nothing, selectList } from '../view/cells';
import { decode } from '../view/decode';
import { NotFound } from '../view/errors';
import { keyIs, readRecordId } from '../view/record-id';
import { Tables } from '../view/tables';
import type { Visit } from '../view/visit';

/**
 * Why the visit's person does or doesn't get a record or a cell. For builders: it reads raw values of the filters'
 * columns.
 */
export async function why(
  runner: Runner,
  visit: Visit,
  tableName: string,
  id: string,
  column: string | null,
): Promise<Explanation> {
  const table = findTable(visit.catalogue, tableName);
  const key = table && readRecordId(table, id);
  if (!table || !key || (column !== null && !table.columns.some((each) => each.name === column))) throw new NotFound();
  const view = viewSql(visit);
  const record = await readForWhy({ runner, visit, view, table }, view.view(table), key);
  if (!record) throw new NotFound();
  const rules = view.view(table);
  return explain(visit.definition, visit.catalogue, rules, visit.person, record, view.context, column).explanation;
}

/** The raw record as far as the view's rules ask about it; each EXISTS is answered by the database. */
export async function readForWhy(at: TableVisit, rules: View, key: Value[]): Promise<RecordReader | null> {
  const { runner, visit, view, table } = at;
  const tables = new Tables(visit.catalogue, table);
  const needed = neededToExplain(rules);
  const selected = [
    nothing,
    ...needed.paths.map((path) => tables.raw(path)),
    ...needed.exists.map((condition) => view.condition(condition, tables)),
  ];
  const [row] = await runner.rows(
    sql`SELECT ${selectList(selected)} FROM ${tables.sql()} WHERE ${keyIs(tables.root, table, key)}`,
  );
  if (!row) return null;
  const values = new Map<string, Value>();
  needed.paths.forEach((path, i) => {
    const found = resolvePath(visit.catalogue, table, path);
    if (!isPathProblem(found)) values.set(JSON.stringify(path), decode(found.column, row[i + 1]));
  });
  const exists = new Map<ExistsCondition, boolean>(
    needed.exists.map((condition, i) => [condition, Number(row[1 + needed.paths.length + i]) === 1]),
  );
  return {
    value: (path) => values.get(JSON.stringify(path)) ?? null,
    exists: (condition) => exists.get(condition) ?? false,
  };
}
