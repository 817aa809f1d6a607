import { hash } from 'node:crypto';
import { tableRights } from '../../../core/access/rights';
import { joined, sql } from '../../../core/sql/sql';
import { findTable } from '../../../core/table/catalogue';
import type { Row } from '../../../core/table/value';
import type { RawRow, Source } from '../../sources/source';
import { decode } from '../view/decode';
import { NotFound, Refused } from '../view/errors';
import { keyIs, readRecordId, recordId } from '../view/record-id';
import type { TableWrite } from '../view/table-visit';
import { storedTable, Tables } from '../view/tables';
import { viewSql } from '../view/view-sql';
import type { Visit } from '../view/visit';
import { refuseForeignFiles } from './column-files';
import { createKept } from './create';
import { standingColumns, type Created } from './insert';
import { noting } from './record-changes';
import { createLines, type NewLines } from './new-lines';
import { refuseBroken } from './field-rules';
import { refuseForeignCombinations, refuseForeignRelations } from './references';
import { assignments, keeps, readableError, readValues, stamped, type WriteOptions } from './write';
import { writing } from './writing';

/** What lets whoever made a record correct it, although they don't see it: the server keeps it, and never tells it. */
export interface Correctable {
  id: string;
  /** The role that it was made by. */
  role: string;
  /** A hash of all that stood in the record when it was made, or last corrected. */
  standing: string;
}

/** As `create`, with `lines` that lead to it, and with what lets it be corrected; null where its table has no key. */
export async function createCorrectable(
  source: Source,
  visit: Visit,
  tableName: string,
  values: Record<string, unknown>,
  { lines = [], ...options }: WriteOptions & { lines?: readonly NewLines[] } = {},
): Promise<{ made: Created; correctable: Correctable | null }> {
  const isOne = lines.length === 0;
  return writing(source, visit, { ...options, isOne }, async (runner) => {
    const { id, record, key, maker, stands } = await createKept(runner, visit, tableName, values);
    const table = findTable(visit.catalogue, tableName)!;
    for (const each of lines) await createLines(runner, visit, { table, key }, each);
    const at: TableWrite = { runner, visit, view: viewSql(visit), table };
    const made = { id, record };
    if (key.length === 0) return { made, correctable: null };
    const address = recordId(key);
    const standing = stands ? standingOf(stands) : (await standingNow(at, address))?.standing;
    return { made, correctable: standing === undefined ? null : { id: address, role: maker.role, standing } };
  });
}

/**
 * Corrects what somebody just made, in the columns that the role could fill then and can now; what must hold of a new
 * record must hold again. Refused as soon as anything in the record is another, whoever changed it. Gives the new
 * standing.
 */
export async function correct(
  source: Source,
  visit: Visit,
  tableName: string,
  { id, role, standing }: Correctable,
  sent: Record<string, unknown>,
  options: WriteOptions = {},
): Promise<Correctable> {
  return writing(source, visit, options, async (runner) => {
    const view = viewSql(visit);
    const table = findTable(visit.catalogue, tableName);
    const maker = table && tableRights(view.view(table)).makers.find((each) => each.role === role && !each.steward);
    if (!table || !maker) throw new NotFound('table');
    const stray = Object.keys(sent).filter((column) => !maker.fills.has(column));
    if (stray.length > 0) throw new Refused('You may not fill this.');
    // What the server put in when it was made stays, whatever is sent now.
    const stamps = stamped(view, maker.stamps, 'create');
    const own = Object.entries(sent).filter(([column]) => !stamps.has(column));
    const at: TableWrite = { runner, visit, view, table };
    const before = await standingNow(at, id, true);
    if (before?.standing !== standing)
      throw new Refused("It has been taken up by now, so it can't be corrected here any more.");
    const key = readRecordId(table, id)!;
    const values = readValues(table, own);
    await refuseForeignRelations(at, values);
    await refuseForeignFiles(visit, table, values, before.values);
    try {
      if (values.size > 0)
        await noting(at, key, () =>
          runner.write(
            sql`UPDATE ${storedTable(table)} SET ${assignments(values, view.dialect)}
              WHERE ${keyIs(storedTable(table), table, key)}`,
          ),
        );
    } catch (error) {
      throw readableError(error, table, [...values.keys()]);
    }
    await refuseForeignCombinations(at, key, [...values.keys()]);
    await refuseBroken(at, key, { isNew: true, columns: new Set(values.keys()) }, (column) => maker.fills.has(column));
    if (!(await keeps(at, key, [maker.keepIn])))
      throw new Refused('Such a record would not be yours to make, so it was not saved.');
    return { id, role, standing: (await standingNow(at, id))!.standing };
  });
}

/** All that stands in a record, and a hash of it; null where there is no such record any more. */
async function standingNow(
  { runner, visit, view, table }: TableWrite,
  id: string,
  lock = false,
): Promise<{ values: Row; standing: string } | null> {
  const key = readRecordId(table, id);
  if (!key) return null;
  const tables = new Tables(visit.catalogue, table);
  const columns = standingColumns(table);
  const selected = joined(
    columns.map(({ name }) => tables.raw([name])),
    sql`, `,
  );
  const [row] = await runner.rows(
    sql`SELECT ${selected} FROM ${tables.sql()}
      WHERE ${keyIs(tables.root, table, key)}${lock ? view.dialect.lock('change', tables.root) : sql``}`,
  );
  if (!row) return null;
  return {
    values: Object.fromEntries(columns.map((column, i) => [column.name, decode(column, row[i])])),
    standing: standingOf(row),
  };
}

/** The hash of what stands in the `standingColumns` of a record. */
const standingOf = (row: RawRow): string =>
  hash('sha256', JSON.stringify(row.map((value) => (value === null ? null : String(value)))), 'base64url');
