import { standingPaths, type HungRights, type Standing } from '../../../core/access/hung-rights';
import type { Hung } from '../../../core/definition/hung';
import { lensesOf } from '../../../core/access/lens';
import { rightsOf } from '../../../core/access/rights';
import { printPath } from '../../../core/definition/path';
import {
  findColumn,
  findTable,
  isPathProblem,
  resolvePath,
  type Catalogue,
  type Column,
  type Table,
} from '../../../core/table/catalogue';
import { and, joined, or, sql, type Sql } from '../../../core/sql/sql';
import type { RawRow, Runner } from '../../sources/source';
import { nothing, selectList } from '../view/cells';
import { decode } from '../view/decode';
import { NotFound } from '../view/errors';
import { keyIs, readRecordId, recordId } from '../view/record-id';
import { atTable } from '../view/table-visit';
import { Tables } from '../view/tables';
import type { Visit } from '../view/visit';

/** A record by the columns that told it apart when something was said of it. */
export interface RecordKey {
  columns: string[];
  id: string;
}

/** A record as far as comments or files hang on it. */
export interface Discussed {
  /** By its key as it is now, then by the further ones that were asked for. */
  keys: RecordKey[];
  /** What makes it somebody's at the moment: digests, which tell whether two values are the same and nothing else. */
  standing: Standing;
  rights: HungRights;
}

/**
 * What a person may do with comments, or with files, on a record of their view; NotFound when it isn't in it, or none
 * of its are open to them. `keyedBy`: further columns that tell its records apart, or did.
 */
export async function discussed(
  runner: Runner,
  visit: Visit,
  what: Hung,
  tableName: string,
  id: string,
  keyedBy: readonly string[][] = [],
): Promise<Discussed> {
  const { view, table } = atTable(runner, visit, tableName);
  const { lenses } = view.view(table);
  const key = readRecordId(table, id);
  if (!key || !lenses.some((lens) => lens[what] !== null)) throw new NotFound();
  const tables = new Tables(visit.catalogue, table);
  const selected: Sql[] = [nothing];
  const seenAt = lenses.map((lens) => selected.push(sql`(${view.filter(lens.rows, tables)} IS TRUE)`) - 1);
  const forms = [table.key, ...keyedBy].flatMap((names) => {
    const columns = names.flatMap((each) => findColumn(table, each) ?? []);
    if (columns.length !== names.length) return [];
    return [{ names, columns, at: selected.push(...columns.map((column) => tables.column([], column))) }];
  });
  // Without the portal's secret nothing can be told of it, which opens nothing.
  const stands = (visit.standIn ? pathsOfStanding(visit, table) : []).flatMap((path) => {
    const found = resolvePath(visit.catalogue, table, path);
    if (isPathProblem(found)) return [];
    const at = selected.push(tables.column(found.steps, found.column)) - 1;
    return [{ name: printPath(path), column: found.column, at }];
  });
  const where = joined([keyIs(tables.root, table, key), view.rows(tables)], and);
  const [row] = await runner.rows(sql`SELECT ${selectList(selected)} FROM ${tables.sql()} WHERE ${where}`);
  if (!row) throw new NotFound();
  const standing = Object.fromEntries(
    stands.map(({ name, column, at }) => [
      name,
      visit.standIn!.hmac(JSON.stringify(String(decode(column, row[at]) ?? '\u0000'))),
    ]),
  );
  return {
    keys: forms.map(({ names, columns, at }) => ({ columns: names, id: idIn(row, columns, at - columns.length) })),
    standing,
    rights: rightsOf(view.view(table), { seen: seenAt.map((at) => Number(row[at]) === 1) }).hung(what, standing),
  };
}

const idIn = (row: RawRow, columns: Column[], from: number): string =>
  recordId(columns.map((column, i) => decode(column, row[from + i])));

/** Of every role, not only of this person's: what one of them says is read by the others. */
function pathsOfStanding({ definition, catalogue }: Visit, table: Table): string[][] {
  const lenses = definition.roles.flatMap(({ id }) => lensesOf(definition, catalogue, table, id));
  return standingPaths(lenses);
}

/**
 * Of records that these columns tell apart, those that are no more, whoever could see them: for whoever keeps what is
 * said of them, and nobody else.
 */
export async function goneRecords(
  runner: Runner,
  catalogue: Catalogue,
  tableName: string,
  keyedBy: string[],
  ids: readonly string[],
): Promise<string[]> {
  const table = findTable(catalogue, tableName);
  const columns = keyedBy.flatMap((each) => (table && findColumn(table, each)) ?? []);
  // Nothing can be said where the columns are gone; and a row that leaves a query or a view may come back.
  const isQuery = table?.query !== undefined || table?.keyByWord;
  if (!table || isQuery || columns.length === 0 || columns.length !== keyedBy.length) return [];
  const keyed: Table = { ...table, key: keyedBy };
  const tables = new Tables(catalogue, table);
  const keys = ids.map((id) => readRecordId(keyed, id)).filter((key) => key !== null);
  if (keys.length === 0) return [...ids];
  const isOne = joined(
    keys.map((key) => sql`(${keyIs(tables.root, keyed, key)})`),
    or,
  );
  const rows = await runner.rows(
    sql`SELECT ${selectList(columns.map((column) => tables.column([], column)))} FROM ${tables.sql()} WHERE ${isOne}`,
  );
  const there = new Set(rows.map((row) => idIn(row, columns, 0)));
  return ids.filter((id) => !there.has(id));
}
