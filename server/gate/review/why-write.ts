import { viewSql } from '../view/view-sql';
import type { TableWrite } from '../view/table-visit';
import { roleChange, tableRights, type RecordRights } from '../../../core/access/rights';
import { explain, explainRows, type Explanation, type RowsExplanation } from '../../../core/access/explain';
import { bound, name, sql } from '../../../core/sql/sql';
import { findColumn, findTable, type Table } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import { DatabaseRefusal } from '../../sources/refusal';
import type { Source, Transaction } from '../../sources/source';
import { byColumn, named } from '../view/column-names';
import { createIn } from '../write/create';
import { insert } from '../write/insert';
import { editIn } from '../write/edit';
import { Conflict, InvalidValues, NotFound, Refused } from '../view/errors';
import { isInView, read } from '../read/read';
import type { OpenRecord } from '../view/open-record';
import { keyIs, readRecordId } from '../view/record-id';
import { removeIn } from '../write/remove';
import { fromTable, storedTable } from '../view/tables';
import type { Visit } from '../view/visit';
import { readForWhy } from './why';
import { assignments, readValues, stamped } from '../write/write';
import { writing } from '../write/writing';

/** What the gate itself says of a write that was tried and taken back. */
interface WriteOutcome {
  allowed: boolean;
  /** The gate's own words where it refuses. */
  words: string | null;
  fields: Record<string, string>;
  /** The record as the person would see it; null where it would leave their view, or is refused. */
  record: OpenRecord | null;
}

/**
 * Why a write is allowed or refused: the gate's own outcome, the record before it, and the keep-in rule and fences of
 * each role on what it makes of it.
 */
export interface WriteExplanation {
  outcome: WriteOutcome;
  /** Null for a new record. */
  before: Explanation | null;
  after: { role: string; steward?: string; mayFill: Record<string, boolean>; keepIn: RowsExplanation }[];
  /** Relations that would be set: whether the record that they lead to is there, and whether the person sees it. */
  relations: { column: string; table: string; value: Value; isThere: boolean; isSeen: boolean }[];
}

/** The record as it stands, explained; it must be there, in view or not. */
async function explainNow(at: TableWrite, key: Value[]): Promise<{ explanation: Explanation; rights: RecordRights }> {
  const { visit, view, table } = at;
  const rules = view.view(table);
  const record = await readForWhy(at, rules, key);
  if (!record) throw new NotFound();
  return explain(visit.definition, visit.catalogue, rules, visit.person, record, view.context, null);
}

/**
 * Why the visit's person may or may not change a record so. For builders: the change is tried as theirs, then made
 * whoever may, looked at, and taken back.
 */
export async function whyChange(
  source: Source,
  visit: Visit,
  tableName: string,
  id: string,
  sent: Record<string, unknown>,
): Promise<WriteExplanation> {
  const view = viewSql(visit);
  const table = findTable(visit.catalogue, tableName);
  const key = table && readRecordId(table, id);
  const to = table ? byColumn(table, sent) : sent;
  if (!table || !key || !Object.keys(to).every((column) => findColumn(table, column))) throw new NotFound();
  const rules = view.view(table);
  return writing(source, visit, { trial: true }, async (runner) => {
    const at = { runner, visit, view, table };
    const { explanation: before, rights } = await explainNow(at, key);
    const outcome = await outcomeOf(runner, async () => {
      const seen = await read(runner, visit, tableName, id);
      const changes = Object.fromEntries(
        Object.entries(to).map(([column, value]) => [column, { from: seen.values[named(column)] ?? null, to: value }]),
      );
      return editIn(runner, visit, tableName, id, changes);
    });
    const relations = await relationsOf(runner, visit, table, to);
    const after: WriteExplanation['after'] = [];
    await runner
      .attempt(async () => {
        const values = new Map([...valuesOf(table, to), ...stamped(view, rights.stamps, 'change')]);
        if (values.size > 0)
          await runner.write(
            sql`UPDATE ${storedTable(table)} SET ${assignments(values, view.dialect)}
              WHERE ${keyIs(storedTable(table), table, key)}`,
          );
        const changed = await readForWhy(at, rules, key);
        for (const lens of changed ? rules.lenses : []) {
          const part = roleChange(lens, Object.keys(to), rights);
          if (!part) continue;
          after.push({
            role: lens.role,
            ...(lens.steward === undefined ? {} : { steward: lens.steward }),
            mayFill: Object.fromEntries(Object.keys(to).map((column) => [named(column), part.fills(column)])),
            keepIn: explainRows(part.keepIn, visit.catalogue, rules, changed!, view.context),
          });
        }
        return null;
      })
      .catch(databaseSaysNo);
    return { outcome, before, after, relations };
  });
}

/**
 * Why the visit's person may or may not make such a record: it is made as each of their roles would, looked at, and
 * taken back.
 */
export async function whyCreate(
  source: Source,
  visit: Visit,
  tableName: string,
  sent: Record<string, unknown>,
): Promise<WriteExplanation> {
  const view = viewSql(visit);
  const table = findTable(visit.catalogue, tableName);
  const values = table ? byColumn(table, sent) : sent;
  if (!table || table.key.length === 0 || !Object.keys(values).every((column) => findColumn(table, column)))
    throw new NotFound('table');
  const rules = view.view(table);
  return writing(source, visit, { trial: true }, async (runner: Transaction) => {
    const outcome = await outcomeOf(runner, async () => (await createIn(runner, visit, tableName, values)).record);
    const relations = await relationsOf(runner, visit, table, values);
    const after: WriteExplanation['after'] = [];
    for (const maker of tableRights(rules).makers) {
      await runner
        .attempt(async () => {
          const at = { runner, visit, view, table };
          const { key } = await insert(at, maker, valuesOf(table, values));
          const made = await readForWhy(at, rules, key);
          if (made)
            after.push({
              role: maker.role,
              ...(maker.steward === undefined ? {} : { steward: maker.steward }),
              mayFill: Object.fromEntries(
                Object.keys(values).map((column) => [named(column), maker.fills.has(column)]),
              ),
              keepIn: explainRows(maker.keepIn, visit.catalogue, rules, made, view.context),
            });
          return null;
        })
        .catch(databaseSaysNo);
    }
    return { outcome, before: null, after, relations };
  });
}

/** Why the visit's person may or may not delete a record. */
export async function whyRemove(
  source: Source,
  visit: Visit,
  tableName: string,
  id: string,
): Promise<WriteExplanation> {
  const view = viewSql(visit);
  const table = findTable(visit.catalogue, tableName);
  const key = table && readRecordId(table, id);
  if (!table || !key) throw new NotFound();
  return writing(source, visit, { trial: true }, async (runner) => {
    const { explanation: before } = await explainNow({ runner, visit, view, table }, key);
    const outcome = await outcomeOf(runner, async () => {
      await removeIn(runner, visit, tableName, id);
      return null;
    });
    return { outcome, before, after: [], relations: [] };
  });
}

/** Tries a write as the gate does it, and takes it back. */
async function outcomeOf(runner: Transaction, write: () => Promise<OpenRecord | null>): Promise<WriteOutcome> {
  let outcome: WriteOutcome = { allowed: true, words: null, fields: {}, record: null };
  await runner
    .attempt(async () => {
      outcome = { ...outcome, record: await write() };
      return null;
    })
    .catch((error: unknown) => {
      if (
        !(
          error instanceof NotFound ||
          error instanceof InvalidValues ||
          error instanceof Refused ||
          error instanceof Conflict
        )
      )
        throw error;
      const fields = error instanceof InvalidValues || error instanceof Refused ? error.fields : {};
      outcome = { allowed: false, words: error.message, fields, record: null };
    });
  return outcome;
}

/** What could not even be looked at (a value that doesn't fit, one that is taken) is told by the outcome. */
function databaseSaysNo(error: unknown): null {
  if (error instanceof InvalidValues || error instanceof Refused || error instanceof DatabaseRefusal) return null;
  throw error;
}

/** The values that can be read; those that can't are told by the outcome. */
function valuesOf(table: Table, sent: Record<string, unknown>): Map<string, Value> {
  const values = new Map<string, Value>();
  for (const entry of Object.entries(sent)) {
    try {
      for (const [column, value] of readValues(table, [entry])) values.set(column, value);
    } catch (error) {
      if (!(error instanceof InvalidValues)) throw error;
    }
  }
  return values;
}

async function relationsOf(
  runner: Transaction,
  visit: Visit,
  table: Table,
  sent: Record<string, unknown>,
): Promise<WriteExplanation['relations']> {
  const values = valuesOf(table, sent);
  const found: WriteExplanation['relations'] = [];
  for (const relation of table.relations) {
    const value = values.get(relation.column);
    const target = findTable(visit.catalogue, relation.table);
    if (value === undefined || value === null || !target) continue;
    const isSeen = await isInView(runner, visit, relation.table, relation.targetColumn, value);
    const [row] = isSeen
      ? [[1]]
      : await runner.rows(
          sql`SELECT 1 AS c0 FROM ${fromTable(visit.catalogue, relation.table)} there
            WHERE ${name(relation.targetColumn)} = ${bound(viewSql(visit).dialect.value(value))} LIMIT 1`,
        );
    found.push({ column: named(relation.column), table: relation.table, value, isThere: row !== undefined, isSeen });
  }
  return found;
}
