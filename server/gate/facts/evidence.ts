import { suggestClass, type ClassSuggestion } from '../../../core/classify/evidence';
import { dialectOf } from '../../../core/dialect/of';
import { bound, name, sql } from '../../../core/sql/sql';
import { isClosed, type Catalogue, type Table } from '../../../core/table/catalogue';
import { fromTable } from '../view/tables';
import type { Runner } from '../../sources/source';
import { selectList } from '../view/cells';
import { decode } from '../view/decode';

/** So many rows are looked at. */
const sample = 1000;

/**
 * What the values of a table suggest of its columns' data classes. For builders: it reads raw values, and gives only
 * counts of them.
 */
export async function suggestClasses(runner: Runner, catalogue: Catalogue, table: Table): Promise<ClassSuggestion[]> {
  const columns = table.columns.filter(
    (column) =>
      column.type !== 'other' &&
      !isClosed(table, column.name) &&
      !table.key.includes(column.name) &&
      !table.relations.some((relation) => relation.column === column.name),
  );
  const root = name('t0');
  const read = columns.map((column) => dialectOf(catalogue).read(sql`${root}.${name(column.name)}`, column));
  const rows = await runner.rows(
    sql`SELECT ${selectList(read)}
      FROM ${fromTable(catalogue, table.name)} ${root} LIMIT ${bound(sample)}`,
  );
  return columns.flatMap(
    (column, i) =>
      suggestClass(
        column,
        rows.map((row) => decode(column, row[i])),
      ) ?? [],
  );
}
