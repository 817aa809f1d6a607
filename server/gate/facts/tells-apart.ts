import { comma, joined, sql, type Sql } from '../../../core/sql/sql';
import type { Runner } from '../../sources/source';

/** Whether some columns are filled and different in every record of what is read. For builders. */
export async function tellsApart(runner: Runner, from: Sql, key: readonly Sql[]): Promise<boolean> {
  const filled = joined(
    key.map((each) => sql`${each} IS NULL`),
    sql` OR `,
  );
  const [twice] = await runner.rows(
    sql`SELECT 1 AS c0 FROM ${from} GROUP BY ${joined([...key], comma)} HAVING COUNT(*) > 1 OR ${filled} LIMIT 1`,
  );
  return !twice;
}
