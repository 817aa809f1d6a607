import { viewSql } from '../view/view-sql';
import { sql } from '../../../core/sql/sql';
import type { Condition } from '../../../core/condition/tree';
import type { Table } from '../../../core/table/catalogue';
import type { Runner } from '../../sources/source';
import { Tables } from '../view/tables';
import type { Visit } from '../view/visit';

/**
 * How many rows of the raw table a policy's condition lets through for a person: shown to builders beside its editor.
 */
export async function countCondition(
  runner: Runner,
  visit: Visit,
  table: Table,
  condition: Condition,
): Promise<number> {
  const tables = new Tables(visit.catalogue, table);
  const where = viewSql(visit).condition(condition, tables);
  const [row] = await runner.rows(sql`SELECT COUNT(*) FROM ${tables.sql()} WHERE ${where}`);
  return Number(row?.[0] ?? 0);
}
