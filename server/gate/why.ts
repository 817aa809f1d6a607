import { explain, pathsToExplain, type Explanation } from '../../core/access/explain';
import { sql, joined } from '../../core/condition/sql';
import { findTable, isPathProblem, resolvePath } from '../../core/table/catalogue';
import type { Value } from '../../core/table/value';
import type { Runner } from '../sources/source';
import { nothing } from './cells';
import { decode } from './decode';
import { NotFound } from './errors';
import { keyIs, readRecordId } from './record-id';
import { Tables } from './tables';
import { ViewSql, type Visit } from './view-sql';

/** Why the visit's person does or doesn't get a record or a cell. For builders: it reads raw values of the filters' columns. */
export async function why(runner: Runner, visit: Visit, tableName: string, id: string, column: string | null): Promise<Explanation> {
  const table = findTable(visit.catalogue, tableName);
  const key = table && readRecordId(table, id);
  if (!table || !key || (column !== null && !table.columns.some((each) => each.name === column))) throw new NotFound();
  const view = new ViewSql(visit);
  const tables = new Tables(visit.catalogue, table);
  const paths = pathsToExplain(view.view(table));
  const selected = paths.map((path) => tables.raw(path));
  const [row] = await runner.rows(sql`SELECT ${joined([nothing, ...selected], sql`, `)} FROM ${tables.sql()} WHERE ${keyIs(tables.root, table, key)}`);
  if (!row) throw new NotFound();
  const values = new Map<string, Value>();
  paths.forEach((path, i) => {
    const found = resolvePath(visit.catalogue, table, path);
    if (!isPathProblem(found)) values.set(JSON.stringify(path), decode(found.column, row[i + 1]));
  });
  const readPath = (path: readonly string[]): Value => values.get(JSON.stringify(path)) ?? null;
  return explain(visit.definition, visit.catalogue, view.view(table), visit.person, readPath, view.context, column);
}
