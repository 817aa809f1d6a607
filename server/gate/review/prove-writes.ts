import { tableRights } from '../../../core/access/rights';
import type { Random } from '../../../core/proof/random';
import { keyOfRow, type ExpectedView } from '../../../core/proof/expected';
import { NotHeld, type HeldRows } from '../../../core/proof/held-rows';
import { Problem } from '../../../core/refusals/problem';
import type { Table } from '../../../core/table/catalogue';
import type { Row } from '../../../core/table/value';
import { edit } from '../write/edit';
import { remove } from '../write/remove';
import { NotFound } from '../view/errors';
import { recordId } from '../view/record-id';
import type { PlacedVisit } from '../view/visit';

/** What came of a write that was tried: as core has it, not to be judged, or what differs. */
export type Tried =
  | { is: 'as core has it' | 'unjudged' }
  | { is: 'other'; id: string; path: string | null; says: string };

/**
 * Tries a change of one column, or a deletion, of a record by chance, and takes it back. What core lets nobody do must
 * be refused. What it lets be done may still be refused for what the record would be then, or by the database: that is
 * not judged, unless the gate knows no such record.
 */
export async function tryWrite(
  visit: PlacedVisit,
  table: Table,
  expected: ExpectedView,
  held: HeldRows,
  chance: Random,
): Promise<Tried> {
  const rows = held.rows(table.name);
  if (rows.length === 0 || table.key.length === 0) throw new NotHeld(`${table.name} has no record that has an address`);
  const row = somewhatOpen(expected, table, rows, chance);
  const id = recordId(keyOfRow(table, row));
  const rights = expected.rights(table, row);
  const isDeletion = chance.next() < 0.2;
  const open = table.columns.map(({ name }) => name).filter((name) => rights.edits(name));
  const column = open.length > 0 && chance.next() < 0.5 ? chance.pick(open) : chance.pick(table.columns).name;
  const change = changeOf(expected, table, row, column, chance.pick(rows));
  const { state } = tableRights(expected.view(table));
  const { to } = change[column]!;
  // A state is changed by a move that leads there; that it is there already is told to whoever sees it.
  const isThere = to === (row[column] ?? null) && rights.cell(column).level === 'shown';
  const moves = column === state && (isThere || rights.moves.some(({ move }) => move.to === to));
  const may = isDeletion ? rights.deletable : moves || rights.edits(column);
  const outcome = await (
    isDeletion
      ? remove(visit.source, visit, table.name, id, {}, { trial: true })
      : edit(visit.source, visit, table.name, id, change, { trial: true })
  ).then(
    () => 'done' as const,
    (error: unknown) => {
      if (!(error instanceof Problem)) throw error;
      return error instanceof NotFound ? ('unknown' as const) : ('refused' as const);
    },
  );
  const path = isDeletion ? null : column;
  const what = isDeletion ? 'deleted' : 'changed';
  if (!may && outcome === 'done') return { is: 'other', id, path, says: `may be ${what} by the gate, not by core` };
  if (may && outcome === 'unknown') return { is: 'other', id, path, says: `may be ${what} by core, not by the gate` };
  return { is: may && outcome === 'refused' ? 'unjudged' : 'as core has it' };
}

/** Of most records nothing may be changed by most: of some one is looked for of which something may be. */
function somewhatOpen(expected: ExpectedView, table: Table, rows: readonly Row[], chance: Random): Row {
  let row = chance.pick(rows);
  if (chance.next() < 0.3) return row;
  for (let tries = 0; tries < 40; tries++) {
    const rights = expected.rights(table, row);
    if (rights.deletable || rights.editable.shown.size + rights.editable.unseen.size + rights.moves.length > 0) break;
    row = chance.pick(rows);
  }
  return row;
}

function changeOf(expected: ExpectedView, table: Table, row: Row, column: string, other: Row) {
  const cell = expected.cell(table, row, [column]);
  const from = cell.is === 'shown' ? cell.value : null;
  return { [column]: { from, to: other[column] ?? null } };
}
