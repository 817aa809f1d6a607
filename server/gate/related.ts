import type { Condition } from '../../core/condition/tree';
import { kindOf } from '../../core/condition/check';
import { findColumn, findTable } from '../../core/table/catalogue';
import { sql } from '../../core/condition/sql';
import type { Runner } from '../sources/source';
import { decode } from './decode';
import { NotFound } from './errors';
import { list, openTable, type ListAnswer, type ListQuestion } from './list';
import { keyIs, readRecordId } from './record-id';
import { Tables } from './tables';
import { ViewSql, type Visit } from './view-sql';

/**
 * The records that point to one record, as a list of the person's view of their table: those whose relation the person sees. The
 * record itself must be in view; a to-many relation that they can't ask along is not there.
 */
export async function related(runner: Runner, visit: Visit, tableName: string, id: string, relation: string, question: ListQuestion): Promise<ListAnswer> {
  const view = new ViewSql(visit);
  const table = openTable(visit, view, tableName);
  const key = readRecordId(table, id);
  const many = findTable(view.askCatalogue(), table.name)?.many?.find((each) => each.name === relation);
  const target = many && findColumn(table, many.targetColumn);
  if (!key || !target) throw new NotFound();
  const tables = new Tables(visit.catalogue, table);
  const [row] = await runner.rows(sql`SELECT ${view.end(table, target.name, tables)} AS c0 FROM ${tables.sql()} WHERE ${keyIs(tables.root, table, key)} AND ${view.rows(tables)}`);
  if (!row) throw new NotFound();
  const value = decode(target, row[0]);
  if (value === null) throw new NotFound();
  const kind = kindOf(target);
  const right = kind === 'whole' || kind === 'decimal' ? { kind: 'number' as const, digits: String(value) } : { kind: 'text' as const, text: String(value) };
  const pointing: Condition = { kind: 'compare', left: { kind: 'column', path: [many.column] }, comparison: '=', right };
  return list(runner, visit, many.table, { ...question, where: [...question.where, pointing] });
}
