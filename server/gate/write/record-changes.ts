import { historyOf } from '../../../core/definition/history';
import { sameValue, type Row, type Value } from '../../../core/table/value';
import { bound, comma, joined, name, sql } from '../../../core/sql/sql';
import type { Transaction } from '../../sources/source';
import { recordId } from '../view/record-id';
import type { TableVisit, TableWrite } from '../view/table-visit';
import type { LinesBeside } from '../view/record-change';
import { ownTable } from './held-beside';
import { stored } from './press-done';
import { logOf } from './transaction-log';

/**
 * Does a write on one record and notes what stood in it before and stands in it after, where its table keeps a history.
 * Both are what the database has, which may be another than what was sent. Outside a write that is kept nothing is
 * noted.
 */
export async function noting<T>(at: TableVisit, key: Value[], work: () => Promise<T>): Promise<T>;
/** As `noting`, of a record that is made: the work gives its key. */
export async function noting(at: TableVisit, key: null, work: () => Promise<Value[]>): Promise<Value[]>;
export async function noting(at: TableVisit, key: Value[] | null, work: () => Promise<unknown>): Promise<unknown> {
  const log = logOf(at.runner);
  if (!log || historyOf(at.visit.definition, at.table) === null) return work();
  const now = (of: Value[]) => stored(at as TableWrite, of, names(at));
  const was = key && (await now(key));
  const done = await work();
  const after = await now(key ?? (done as Value[]));
  if (!isSame(was, after)) note(at, was, after);
  return done;
}

const names = ({ table }: TableVisit): string[] =>
  table.columns.filter(({ type }) => type !== 'other').map((column) => column.name);

const isSame = (was: Row | null, now: Row | null): boolean =>
  was !== null && now !== null && Object.keys(now).every((column) => sameValue(was[column] ?? null, now[column]!));

function note({ runner, visit, table }: TableVisit, was: Row | null, now: Row | null): void {
  const row = now ?? was;
  if (!row) return;
  const { changes, action, by, depth } = logOf(runner)!;
  const { person } = visit;
  changes.push({
    table: table.name,
    id: recordId(table.key.map((column) => row[column]!)),
    was,
    now,
    action,
    // What follows of others by itself was not sent by anybody.
    form: depth === 0 ? (by.form ?? null) : null,
    brought: depth === 0 && by.brought === true,
    follows: depth > 0,
    role: person.kind === 'service' ? (person.roles[0] ?? null) : null,
  });
}

const atOnce = 200;

/** Writes lines into the product's own schema, which is on the server of the records: both are kept, or neither. */
export async function writeBeside(runner: Transaction, { schema, table, columns, lines }: LinesBeside): Promise<void> {
  const into = joined(
    columns.map((column) => name(column)),
    comma,
  );
  for (let from = 0; from < lines.length; from += atOnce) {
    const values = lines.slice(from, from + atOnce).map(
      (line) =>
        sql`(${joined(
          line.map((value) => bound(value)),
          comma,
        )})`,
    );
    await runner.write(sql`INSERT INTO ${ownTable(schema, table)} (${into}) VALUES ${joined(values, comma)}`);
  }
}
