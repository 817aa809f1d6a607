import { createHash } from 'node:crypto';
import type { Rows } from '../../../core/access/rows';
import type { HandsOver } from '../../../core/definition/steward';
import { and, bound, joined, sql } from '../../../core/sql/sql';
import { findColumn, findTable, type Table } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import type { Runner, Source, Transaction } from '../../sources/source';
import { selectList } from '../view/cells';
import { named } from '../view/column-names';
import { decode } from '../view/decode';
import { Conflict, InvalidValues, NotFound, Refused } from '../view/errors';
import { isInView } from '../read/read';
import { keyIs, readRecordId, recordId } from '../view/record-id';
import type { TableVisit } from '../view/table-visit';
import { Tables } from '../view/tables';
import { viewSql } from '../view/view-sql';
import type { Visit } from '../view/visit';
import { editIn } from './edit';
import { keeps } from './write';
import { writing } from './writing';

/** A record that was given to another person, and how it stood then. */
export interface HandedOver {
  table: string;
  column: string;
  id: string;
  from: string;
  to: string;
  /** Of the record as it was right afterwards: SHA-256, in hexadecimal. */
  digest: string;
}

/** A record that was not taken back, and why. */
export interface LeftThere {
  record: HandedOver;
  why: 'changed since' | 'not yours any more';
}

/** One table of a hand-over, as far as this person may do it there. */
interface Part extends TableVisit {
  column: string;
  /** What may be handed over, and what must hold of it then. */
  rows: Rows;
  keepIn: Rows;
}

/** So many records are handed over at once: all of them stand or fall together. */
const mostAtOnce = 5000;

function partsOf(runner: Runner, visit: Visit, steward: HandsOver): Part[] {
  const view = viewSql(visit);
  return steward.tables.flatMap(({ table: name, column }): Part[] => {
    const table = findTable(visit.catalogue, name);
    const lens = table && view.view(table).lenses.find((each) => each.steward === steward.id);
    return table && lens?.edit ? [{ runner, visit, view, table, column, ...lens.edit }] : [];
  });
}

/** Whose records they are, as they stand in the tables; a person who is not open to whoever asks is no choice. */
async function personOf(
  runner: Runner,
  visit: Visit,
  { roster }: HandsOver,
  id: string,
  field: 'from' | 'to',
): Promise<Value> {
  const table = findTable(visit.catalogue, roster);
  const [value] = (table && readRecordId(table, id)) ?? [];
  if (!table || value === undefined || !(await isInView(runner, visit, roster, table.key[0]!, value)))
    throw new InvalidValues({ [field]: 'Choose somebody from the list.' });
  return value;
}

/** How many records of a person can be handed over, by table; those that can't be are not counted. */
export async function countHandOver(
  source: Source,
  visit: Visit,
  steward: HandsOver,
  from: string,
): Promise<{ table: string; records: number }[]> {
  const person = await personOf(source, visit, steward, from, 'from');
  return Promise.all(
    partsOf(source, visit, steward).map(async (part) => {
      const tables = new Tables(visit.catalogue, part.table);
      // What it asks of related records joins them to the tables.
      const where = whoseAre(part, tables, person);
      const [row] = await source.rows(sql`SELECT COUNT(*) AS c0 FROM ${tables.sql()} WHERE ${where}`);
      return { table: part.table.name, records: Number(row![0]) };
    }),
  );
}

const whoseAre = ({ view, column, rows }: Part, tables: Tables, person: Value) =>
  joined(
    [view.rows(tables), view.filter(rows, tables), sql`${tables.raw([column])} = ${bound(view.dialect.value(person))}`],
    and,
  );

/**
 * Gives all records of one person that can be handed over to another, in one transaction: each as an edit of the column
 * that leads to whose it is, under all that edits are. Throws Refused, and nothing is changed, where one of them may
 * not be the other's. `beforeKeeping` is told what was done, before it is kept.
 */
export async function handOver(
  source: Source,
  visit: Visit,
  steward: HandsOver,
  from: string,
  to: string,
  beforeKeeping: (records: HandedOver[]) => Promise<void> = () => Promise.resolve(),
  trial = false,
): Promise<HandedOver[]> {
  if (from === to) throw new InvalidValues({ to: 'Choose another person than the one they come from.' });
  return writing(source, visit, { trial }, async (runner) => {
    const was = await personOf(runner, visit, steward, from, 'from');
    const is = await personOf(runner, visit, steward, to, 'to');
    const records: HandedOver[] = [];
    for (const part of partsOf(runner, visit, steward)) {
      for (const id of await idsOf(part, was)) {
        await giveTo(part, id, was, is);
        records.push({ table: part.table.name, column: part.column, id, from, to, digest: await digestOf(part, id) });
        if (records.length > mostAtOnce)
          throw new Refused(
            `These are more than ${mostAtOnce.toLocaleString('en')} records, which is too many at once.`,
          );
      }
    }
    await beforeKeeping(records);
    return records;
  });
}

async function idsOf(part: Part, person: Value): Promise<string[]> {
  const { runner, visit, table } = part;
  const tables = new Tables(visit.catalogue, table);
  const key = table.key.map((column) => findColumn(table, column)!);
  const where = whoseAre(part, tables, person);
  const selected = selectList(table.key.map((column) => tables.raw([column])));
  const rows = await runner.rows(
    sql`SELECT ${selected} FROM ${tables.sql()} WHERE ${where} LIMIT ${bound(mostAtOnce + 1)}`,
  );
  return rows.map((row) => recordId(key.map((column, i) => decode(column, row[i]))));
}

const notTheirs = () =>
  new Refused('At least one of these records may not be theirs, so none was handed over. Choose somebody else.');

async function giveTo(part: Part, id: string, from: Value, to: Value): Promise<void> {
  try {
    await give(part, id, from, to);
  } catch (error) {
    if (error instanceof InvalidValues || (error instanceof Refused && Object.keys(error.fields).length === 0))
      throw notTheirs();
    throw error;
  }
}

/** An edit of the one column; what else the person may do with such records is not what they do it by. */
async function give(part: Part, id: string, from: Value, to: Value): Promise<void> {
  const { runner, visit, table, column, keepIn } = part;
  await editIn(runner, visit, table.name, id, { [named(column)]: { from, to } });
  if (!(await keeps(part, readRecordId(table, id)!, [keepIn]))) throw notTheirs();
}

/** The whole record as it is stored. */
async function digestOf({ runner, visit, table }: TableVisit, id: string): Promise<string> {
  const tables = new Tables(visit.catalogue, table);
  const columns = table.columns.filter(({ type }) => type !== 'other');
  const [row] = await runner.rows(
    sql`SELECT ${selectList(columns.map(({ name }) => tables.raw([name])))} FROM ${tables.sql()}
      WHERE ${keyIs(tables.root, table, readRecordId(table, id)!)}`,
  );
  const values = (row ?? []).map((value, i) => [columns[i]!.name, decode(columns[i]!, value)]);
  return createHash('sha256').update(JSON.stringify(values)).digest('hex');
}

/**
 * Takes records back that were handed over: those that are as they were then, under the rights that whoever does it has
 * now. The others are left, each with the reason.
 */
export async function takeBack(
  source: Source,
  visit: Visit,
  steward: HandsOver,
  records: readonly HandedOver[],
): Promise<{ back: HandedOver[]; left: LeftThere[] }> {
  return writing(source, visit, {}, async (runner) => {
    const parts = new Map(partsOf(runner, visit, steward).map((part) => [part.table.name, part]));
    const back: HandedOver[] = [];
    const left: LeftThere[] = [];
    for (const record of records) {
      const part = parts.get(record.table);
      const why = part ? await takenBack(runner, visit, part, steward, record) : 'not yours any more';
      if (why === null) back.push(record);
      else left.push({ record, why });
    }
    return { back, left };
  });
}

async function takenBack(
  runner: Transaction,
  visit: Visit,
  part: Part,
  steward: HandsOver,
  { id, from, to, digest }: HandedOver,
): Promise<LeftThere['why'] | null> {
  if ((await digestOf(part, id)) !== digest) return 'changed since';
  const roster = findTable(visit.catalogue, steward.roster);
  const [was, is] = [from, to].map((each) => roster && keyOf(roster, each));
  if (was === undefined || is === undefined) return 'not yours any more';
  try {
    await runner.attempt(async () => {
      await give(part, id, is, was);
      return true;
    });
    return null;
  } catch (error) {
    if (error instanceof Conflict) return 'changed since';
    if (error instanceof NotFound || error instanceof Refused || error instanceof InvalidValues)
      return 'not yours any more';
    throw error;
  }
}

const keyOf = (table: Table, id: string): Value | undefined => readRecordId(table, id)?.[0];
