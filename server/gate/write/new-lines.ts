import { faultPlace } from '../../../core/form/lines';
import { findTable, type Table } from '../../../core/table/catalogue';
import type { Row, Value } from '../../../core/table/value';
import type { Transaction } from '../../sources/source';
import { InvalidValues, NotFound, Refused } from '../view/errors';
import type { Visit } from '../view/visit';
import { createKept } from './create';

/** Records that are made with another one, to which each leads by a column. */
export interface NewLines {
  /** What faults of theirs are said under. */
  part: string;
  table: string;
  by: string;
  rows: Row[];
}

/** Makes the lines of a record that was just made: all of them, or the first fault is thrown with its place. */
export async function createLines(
  runner: Transaction,
  visit: Visit,
  of: { table: Table; key: Value[] },
  { part, table: name, by, rows }: NewLines,
): Promise<void> {
  const relation = findTable(visit.catalogue, name)?.relations.find(
    (each) => each.column === by && each.table === of.table.name,
  );
  const place = relation ? of.table.key.indexOf(relation.targetColumn) : -1;
  if (place < 0) throw new NotFound('table');
  for (const [i, row] of rows.entries()) {
    try {
      await createKept(runner, visit, name, { ...row, [by]: of.key[place]! }, by);
    } catch (error) {
      throw placed(error, part, i);
    }
  }
}

function placed(error: unknown, part: string, line: number): unknown {
  if (error instanceof InvalidValues)
    return new InvalidValues(
      Object.fromEntries(Object.entries(error.fields).map(([column, why]) => [faultPlace(part, line, column), why])),
    );
  return error instanceof Refused ? new InvalidValues({ [faultPlace(part, line, '')]: error.message }) : error;
}
