import { comma, joined, name, sql, type Sql } from '../../core/condition/sql';
import type { Runner } from '../sources/source';

/** Whether some columns are filled and different in every record of a table, view or query. For builders. */
export async function tellsApart(runner: Runner, from: Sql, key: readonly string[]): Promise<boolean> {
  const keys = key.map((each) => name(each));
  const filled = joined(
    keys.map((each) => sql`${each} IS NULL`),
    sql` OR `,
  );
  const [twice] = await runner.rows(
    sql`SELECT 1 AS c0 FROM ${from} q GROUP BY ${joined(keys, comma)} HAVING COUNT(*) > 1 OR ${filled} LIMIT 1`,
  );
  return !twice;
}
