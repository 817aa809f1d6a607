import { sql, name } from '../../../core/sql/sql';
import { type Catalogue, findColumn, findTable } from '../../../core/table/catalogue';
import type { Source } from '../../sources/source';
import { plain } from './shape';

/** A column that rules or pages look for, and that no index of the database leads with. */
export interface MissingIndex {
  table: string;
  column: string;
  /** The statement that would make one, in the words of the database. */
  statement: string;
}

/** Which of some columns have no index that begins with them. */
export async function missingIndexes(
  source: Source,
  catalogue: Catalogue,
  wanted: readonly { table: string; column: string }[],
): Promise<MissingIndex[]> {
  const isMariadb = catalogue.database !== 'postgresql';
  const rows = await source.rows(
    isMariadb
      ? sql`SELECT TABLE_NAME AS c0, COLUMN_NAME AS c1 FROM information_schema.STATISTICS
        WHERE TABLE_SCHEMA = DATABASE() AND SEQ_IN_INDEX = 1`
      : sql`SELECT c.relname AS c0, a.attname AS c1 FROM pg_index i JOIN pg_class c ON c.oid = i.indrelid
        JOIN pg_namespace n ON n.oid = c.relnamespace JOIN pg_attribute a ON a.attrelid = c.oid
        AND a.attnum = i.indkey[0] WHERE n.nspname = current_schema()`,
  );
  const known = new Set(rows.map((row) => `${String(row[0])}\n${String(row[1])}`));
  return wanted.flatMap(({ table, column }) => {
    // A table that rules or rosters name may be gone by now; that is said by others.
    const found = findTable(catalogue, table);
    const asked = found && findColumn(found, column);
    if (!asked || known.has(`${table}\n${column}`)) return [];
    const length = asked.type === 'long text' && isMariadb ? '(100)' : '';
    const text =
      `CREATE INDEX ${name(`${table}_${column}`.slice(0, 60)).text} ON ${name(table).text} ` +
      `(${name(column).text}${length})`;
    return [{ table, column, statement: isMariadb ? text : text.replaceAll('`', '"') }];
  });
}

/** Makes the index, in the product's own database. */
export async function makeIndex(
  source: Source,
  catalogue: Catalogue,
  wanted: { table: string; column: string },
): Promise<void> {
  const [missing] = await missingIndexes(source, catalogue, [wanted]);
  if (missing) await source.write(plain(missing.statement));
}
