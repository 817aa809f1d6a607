import { tableRights } from '../../../core/access/rights';
import { historyView, visibleColumns, type View } from '../../../core/access/view';
import { printPath } from '../../../core/definition/path';
import { columnsUsed } from '../../../core/condition/analyse';
import { kindOf } from '../../../core/condition/operand-kind';
import { and, comma, joined, name, sql, type Sql } from '../../../core/sql/sql';
import { findTable, type Column, type Table } from '../../../core/table/catalogue';
import { parseValue, type Row, type Value } from '../../../core/table/value';
import { Cells, nothing, selectList } from '../view/cells';
import { named } from '../view/column-names';
import { NotFound } from '../view/errors';
import { titleFurther, titleOf } from './lookup';
import { keyIs, readRecordId, recordId } from '../view/record-id';
import { atTable, type TableVisit } from '../view/table-visit';
import { Tables } from '../view/tables';
import { ViewSql, viewSql } from '../view/view-sql';
import type { PlacedVisit, Visit } from '../view/visit';
import { decode } from '../view/decode';

/** What stood in a record before a change and after it, as it was kept; null where there was no record. */
interface PastChange {
  was: Readonly<Record<string, unknown>> | null;
  now: Readonly<Record<string, unknown>> | null;
}

/** A value that stood in a record, and what the record was called that it led to. */
export interface ToldValue {
  value: Value;
  title?: string;
}

/** What is told of one column in a change; a side is absent where it is not for this person. */
export interface ToldChange {
  column: string;
  was?: ToldValue;
  now?: ToldValue;
}

/** The past of a record as far as somebody may read it. */
export interface Past {
  /** The record's address, as its key stands in it. */
  id: string;
  /** What is told of each change; an empty list where nothing is. */
  tells(changes: readonly PastChange[]): Promise<ToldChange[][]>;
}

/**
 * Opens the past of a record: a cell of it is told where a lens by which histories are read shows it in the record as
 * it is now, and shows it in the record as it was then; what relations lead to is as it is now. NotFound where no such
 * lens has the record now. Builders read of deleted records too.
 */
export async function past(visit: PlacedVisit, tableName: string, id: string): Promise<Past> {
  const { source: runner } = visit;
  const { table } = atTable(runner, visit, tableName);
  const whole = viewSql(visit).view(table);
  const key = readRecordId(table, id);
  if (!key || !tableRights(whole).history) throw new NotFound();
  const narrowed = historyView(whole);
  const view = new ViewSql(visit, new Map([[table.name, narrowed]]));
  const at: TableVisit = { runner, visit, view, table };
  const today = await shownNow(at, key);
  if (!today && !(visit.person.kind === 'builder' && (await isGone(at, key)))) throw new NotFound();
  return {
    id: today?.id ?? id,
    tells: async (changes) => {
      const rows = changes.flatMap(({ was, now }) => [was, now]).map((row) => row && readPast(table, row));
      const told = await shownThen(at, narrowed, rows);
      return changes.map((_, i) => {
        const [was, now] = [told[2 * i] ?? null, told[2 * i + 1] ?? null];
        const differ = table.columns.filter(({ name: each }) => {
          const [before, after] = [rows[2 * i]?.get(each), rows[2 * i + 1]?.get(each)];
          return JSON.stringify(plain(before)) !== JSON.stringify(plain(after));
        });
        return differ.flatMap(({ name: column }): ToldChange[] => {
          if (today && !today.shown.has(column)) return [];
          const [before, after] = [was?.get(column), now?.get(column)];
          if (!before && !after) return [];
          return [{ column, ...(before ? { was: before } : {}), ...(after ? { now: after } : {}) }];
        });
      });
    },
  };
}

const plain = (value: Value | undefined): unknown => (typeof value === 'bigint' ? String(value) : (value ?? null));

/** Whether there is no such record at all: one that is only outside a ceiling is not gone. */
async function isGone({ runner, visit, table }: TableVisit, key: Value[]): Promise<boolean> {
  const tables = new Tables(visit.catalogue, table);
  const where = keyIs(tables.root, table, key);
  return (await runner.rows(sql`SELECT 1 AS one FROM ${tables.sql()} WHERE ${where} LIMIT 1`)).length === 0;
}

/** The columns that are shown whole in the record as it is; null where no lens has it. */
async function shownNow(
  { runner, visit, view, table }: TableVisit,
  key: Value[],
): Promise<{ id: string; shown: ReadonlySet<string> } | null> {
  const tables = new Tables(visit.catalogue, table);
  const columns = visibleColumns(view.view(table));
  const cells = new Cells(
    columns.map((column) => [column]),
    visit.catalogue,
    tables,
    view,
  );
  const keys = table.key.map((column) => table.columns.find((each) => each.name === column)!);
  const selected = [nothing, ...keys.map((column) => tables.column([], column))];
  const where = joined([keyIs(tables.root, table, key), view.rows(tables)], and);
  const [row] = await runner.rows(
    sql`SELECT ${selectList([...selected, ...cells.selected])} FROM ${tables.sql()} WHERE ${where}`,
  );
  if (!row) return null;
  const { values, masked } = cells.read(row, selected.length);
  const shown = columns.filter((column) => Object.hasOwn(values, named(column)) && !masked.includes(named(column)));
  return { id: recordId(keys.map((column, i) => decode(column, row[i + 1]))), shown: new Set(shown) };
}

/** The kept values of the columns that are there still and take them still. */
export function readPast(table: Table, kept: Readonly<Record<string, unknown>>): Map<string, Value> {
  const values = new Map<string, Value>();
  for (const column of table.columns) {
    if (column.type === 'other' || !Object.hasOwn(kept, column.name)) continue;
    const given = kept[column.name];
    // An empty text is one: read as typed it would be nothing.
    const isText = typeof given === 'string' && (column.type === 'text' || column.type === 'long text');
    const parsed = isText ? { ok: true as const, value: given } : parseValue({ ...column, nullable: true }, given);
    if (parsed.ok) values.set(column.name, parsed.value);
  }
  return values;
}

/**
 * Of records as they were: what is told of each column. They stand in a statement in the place of their table, so that
 * the same lenses are asked of them in the same way. Null where nothing is.
 */
async function shownThen(
  { runner, visit, view, table }: TableVisit,
  narrowed: View,
  rows: readonly (ReadonlyMap<string, Value> | null)[],
): Promise<(Map<string, ToldValue> | null)[]> {
  const typed = table.columns.filter(({ read, ...column }) => (read ?? 'uuid') === 'uuid' && kindOf(column) !== 'none');
  const asked = columnsAsked(visit, narrowed);
  const canAsk = (row: ReadonlyMap<string, Value>) =>
    [...asked].every((column) => row.has(column) && typed.some((each) => each.name === column));
  const asking = rows.flatMap((row, i) => (row && canAsk(row) ? [{ row, i }] : []));
  if (asking.length === 0) return rows.map(() => null);
  const tables = new Tables(visit.catalogue, table, undefined, rowsThen(view, table, typed, asking));
  const columns = visibleColumns(narrowed);
  const titles = new Map(columns.flatMap((column) => titlesOf(visit, view, table, column)));
  const paths = [...columns.map((column) => [column]), ...[...titles.values()].flat()];
  const cells = new Cells(paths, visit.catalogue, tables, view);
  // What it asks of related records joins them to the tables.
  const where = view.rows(tables);
  const selected = selectList([sql`${tables.root}.${name('g')}`, ...cells.selected]);
  const found = await runner.rows(sql`SELECT ${selected} FROM ${tables.sql()} WHERE ${where}`);
  const told = rows.map((): Map<string, ToldValue> | null => null);
  for (const row of found) {
    const i = Number(row[0]);
    const { values, masked } = cells.read(row, 1);
    const isShown = (path: string) => Object.hasOwn(values, path) && !masked.includes(path);
    const own = new Map<string, ToldValue>();
    for (const column of columns) {
      if (!isShown(named(column)) || !rows[i]!.has(column)) continue;
      const parts = (titles.get(column) ?? []).map(printPath);
      const title = parts
        .filter(isShown)
        .map((path) => values[path])
        .filter((part) => part !== null && part !== '')
        .join(' ');
      own.set(column, { value: rows[i]!.get(column)!, ...(title === '' ? {} : { title }) });
    }
    told[i] = own;
  }
  return told;
}

/** The columns of the table itself that decide whether a lens has a record. */
function columnsAsked({ catalogue }: Visit, { table, lenses }: View): Set<string> {
  const scope = { catalogue, table, member: true };
  const uses = lenses.flatMap(({ rows }) =>
    rows === 'no row' ? [] : rows.flatMap(({ where }) => columnsUsed(where, scope)),
  );
  return new Set(uses.flatMap((use) => (use.table === table.name ? [use.column] : [])));
}

/** Where a column leads to one record: the paths of what that is called for this person. */
function titlesOf(visit: Visit, view: ViewSql, table: Table, column: string): [string, string[][]][] {
  const relation = table.relations.find((each) => each.column === column);
  const there = relation && findTable(visit.catalogue, relation.table);
  const title = there && titleOf(visit, view, there);
  if (!title) return [];
  return [[column, [title, ...titleFurther(visit, view, there)].map((each) => [relation.name, each])]];
}

/** Records as a table of a statement, with every column of theirs; those that can't be restated are NULL. */
function rowsThen(
  view: ViewSql,
  table: Table,
  typed: readonly Column[],
  rows: readonly { row: ReadonlyMap<string, Value>; i: number }[],
): Sql {
  const given = name('given');
  const list = view.dialect.jsonRows(
    JSON.stringify(rows.map(({ row, i }) => [i, ...typed.map((column) => jsonOf(row.get(column.name) ?? null))])),
    typed.map((column) => ({
      name: name(column.name),
      // Those of another kind are left out.
      as: kindOf(column) as Exclude<ReturnType<typeof kindOf>, 'none'>,
      unsigned: column.nativeType.includes('unsigned'),
    })),
    given,
  );
  const columns = table.columns.map((column) => {
    const own = name(column.name);
    if (!typed.includes(column)) return sql`NULL AS ${own}`;
    const value = sql`${given}.${own}`;
    return column.collation === undefined ? value : sql`${view.dialect.collated(value, column.collation)} AS ${own}`;
  });
  return sql`(SELECT ${given}.${name('g')}, ${joined(columns, comma)} FROM ${list})`;
}

function jsonOf(value: Value): unknown {
  if (typeof value === 'bigint') return String(value);
  return typeof value === 'boolean' ? Number(value) : value;
}

/** A row as it is kept: what JSON can't hold as its text. */
export const keptRow = (row: Row | null): string | null =>
  row && JSON.stringify(row, (_, value: unknown) => (typeof value === 'bigint' ? String(value) : value));
