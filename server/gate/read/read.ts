import { viewSql, ViewSql } from '../view/view-sql';
import { atTable, type TableVisit } from '../view/table-visit';
import { rightsOf, tableRights, type RecordRights } from '../../../core/access/rights';
import { visibleColumns } from '../../../core/access/view';
import { bound, name, sql, type Sql } from '../../../core/sql/sql';
import { findTable, type Table } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import type { Runner } from '../../sources/source';
import { Cells, nothing, selectList } from '../view/cells';
import { named } from '../view/column-names';
import { NotFound } from '../view/errors';
import { keyIs, readRecordId, recordId } from '../view/record-id';
import { Tables } from '../view/tables';
import type { Visit } from '../view/visit';
import type { OpenRecord } from '../view/open-record';

/** A record as the person sees it, together with what they may do with it: what the writes go by. */
export interface RowState {
  record: OpenRecord;
  rights: RecordRights;
  /** The lifecycle's state as stored; null when the table has none. */
  state: string | null;
}

/** Reads one record of the person's view; NotFound when it isn't in it. No columns means all that they see. */
export async function read(
  runner: Runner,
  visit: Visit,
  tableName: string,
  id: string,
  columns: string[][] = [],
): Promise<OpenRecord> {
  const at = atTable(runner, visit, tableName);
  const key = readRecordId(at.table, id);
  const proof = visit.assumed?.proof ?? null;
  const found = key && (await readState(at, key, columns, false, proof));
  if (proof) visit.assumed!.settle(found ? 1 : 0);
  if (!found) throw new NotFound();
  return found.record;
}

/** The question for one record of a table: made once for a visit and the same columns, and asked with a key. */
interface RecordQuestion {
  tables: Tables;
  cells: Cells;
  /** All before the key's condition, and all after it. */
  before: Sql;
  after: Sql;
  /** Of each lens, where its rules' outcomes stand; 0 what always holds, -1 what never does. */
  places: { seen: number; edited: number; removable: number; moves: number[]; actions: number[] }[];
  stateAt: number;
  cellsAt: number;
}

const questions = new WeakMap<ViewSql, Map<string, RecordQuestion>>();

function recordQuestion({ visit, view, table }: TableVisit, columns: string[][]): RecordQuestion {
  const known = questions.get(view) ?? new Map<string, RecordQuestion>();
  questions.set(view, known);
  const called = JSON.stringify([table.name, columns]);
  let question = known.get(called);
  if (!question) {
    question = makeQuestion(visit, view, table, columns);
    known.set(called, question);
  }
  return question;
}

function makeQuestion(visit: Visit, view: ViewSql, table: Table, columns: string[][]): RecordQuestion {
  const tables = new Tables(visit.catalogue, table);
  const paths = columns.length ? columns : visibleColumns(view.view(table)).map((column) => [column]);
  const cells = new Cells(paths, visit.catalogue, tables, view);
  const { lenses } = view.view(table);
  const { stateRead: stateColumn } = tableRights(view.view(table));

  const selected: Sql[] = [nothing];
  const flag = (test: Sql) => selected.push(sql`(${test} IS TRUE)`) - 1;
  const wrapped = (rows: Parameters<ViewSql['filter']>[0]) => sql`(${view.filter(rows, tables)})`;
  const places = lenses.map((lens) => ({
    seen: flag(wrapped(lens.rows)),
    edited: lens.edit ? flag(wrapped(lens.edit.rows)) : -1,
    removable: lens.remove ? flag(wrapped(lens.remove)) : -1,
    moves: (lens.moves?.moves ?? []).map((move) => (move.where ? flag(view.condition(move.where, tables)) : 0)),
    actions: lens.actions.map(({ where }) => (where.length > 0 ? flag(wrapped(where)) : 0)),
  }));
  const stateAt = stateColumn === null ? -1 : selected.push(sql`${tables.root}.${name(stateColumn)}`) - 1;
  const cellsAt = selected.length;
  // The rows first: they may join tables, which are named before them.
  const rows = view.rows(tables);
  const before = sql`SELECT ${selectList([...selected, ...cells.selected])} FROM ${tables.sql()} WHERE `;
  return { tables, cells, before, after: sql` AND ${rows}`, places, stateAt, cellsAt };
}

/**
 * The record with this key if it is in the view; `lock` keeps it from being changed until the transaction ends, and
 * `proof` must hold as well.
 */
export async function readState(
  at: TableVisit,
  key: Value[],
  columns: string[][],
  lock: boolean,
  proof: Sql | null = null,
): Promise<RowState | null> {
  const { runner, view, table } = at;
  const { tables, cells, before, after, places, stateAt, cellsAt } = recordQuestion(at, columns);
  const { stateRead, edit, removes, actions } = tableRights(view.view(table));
  // What nobody may change needs no keeping, and a view or a saved query can't be kept by every database.
  const keeps = lock && (edit.rows.length > 0 || removes || stateRead !== null || actions.length > 0);
  const locked = keeps ? view.dialect.lock('change', tables.root) : sql``;
  const proven = proof ? sql` AND ${proof}` : sql``;
  const [row] = await runner.rows(sql`${before}${keyIs(tables.root, table, key)}${after}${proven}${locked}`);
  if (!row) return null;

  const holds = (at: number) => at >= 0 && (at === 0 || Number(row[at]) === 1);
  const state = stateAt < 0 || row[stateAt] === null ? null : String(row[stateAt]);
  const rights = rightsOf(view.view(table), {
    seen: places.map((place) => holds(place.seen)),
    edited: places.map((place) => holds(place.edited)),
    removed: places.map((place) => holds(place.removable)),
    moves: places.map((place) => place.moves.map(holds)),
    actions: places.map((place) => place.actions.map(holds)),
    state,
  });
  const { editable } = rights;
  return {
    record: {
      id: recordId(key),
      ...cells.read(row, cellsAt),
      editable: inOrder(table, editable.shown),
      replaceable: inOrder(table, editable.unseen),
      deletable: rights.deletable,
      moves: rights.moves.map(({ move }) => ({
        id: move.id,
        name: move.name,
        to: move.to,
        needs: move.needs.filter((column) => editable.shown.has(column)).map(named),
      })),
      actions: rights.offered((action) => view.tells(table, action)).map(({ id }) => id),
    },
    rights,
    state,
  };
}

const ordered = new WeakMap<ReadonlySet<string>, string[]>();

/** Columns in the order of their table: of which may be edited there are few sets, each held by its view. */
function inOrder(table: Table, columns: ReadonlySet<string>): string[] {
  let names = ordered.get(columns);
  if (!names) {
    names = table.columns
      .map((column) => column.name)
      .filter((column) => columns.has(column))
      .map(named);
    ordered.set(columns, names);
  }
  return names;
}

/** Whether a record with this value in this column is in the person's view; what a relation may be set to. */
export async function isInView(
  runner: Runner,
  visit: Visit,
  tableName: string,
  column: string,
  value: Value,
): Promise<boolean> {
  const view = viewSql(visit);
  const table = findTable(visit.catalogue, tableName);
  if (!table || view.view(table).lenses.length === 0) return false;
  const tables = new Tables(visit.catalogue, table);
  const where = sql`${view.end(table, column, tables)} = ${bound(view.dialect.value(value))} AND ${view.rows(tables)}`;
  return (
    (
      await runner.rows(
        sql`SELECT 1 FROM ${tables.sql()} WHERE ${where} LIMIT 1${view.dialect.lock('keep', tables.root)}`,
      )
    ).length > 0
  );
}
