import { viewSql } from '../view/view-sql';
import { askable } from '../../../core/access/ask';
import type { Condition } from '../../../core/condition/tree';
import { kindOf } from '../../../core/condition/operand-kind';
import { canJoin, crossingsTo } from '../../../core/definition/sources';
import { findColumn, findTable, type ManyRelation } from '../../../core/table/catalogue';
import { sql } from '../../../core/sql/sql';
import { across, at } from '../view/across';
import type { PlacedVisit } from '../view/visit';
import { decode } from '../view/decode';
import { NotFound } from '../view/errors';
import { list, type ListAnswer, type ListQuestion } from './list';
import { openTable } from '../view/open-table';
import { keyIs, readRecordId } from '../view/record-id';
import { Tables } from '../view/tables';

/**
 * A to-many relation of a table for the person, with the visit at the source of its records; NotFound where they can't
 * ask along it.
 */
async function relatedTo<V extends PlacedVisit>(
  visit: V,
  tableName: string,
  relation: string,
): Promise<{ many: ManyRelation; there: V }> {
  const view = viewSql(visit);
  const table = openTable(visit, view, tableName);
  const own = findTable(view.askCatalogue(), table.name)?.many?.find((each) => each.name === relation);
  if (own) return { many: own, there: visit };
  const many = visit.elsewhere && crossingsTo(visit.definition, table.name).find((each) => each.name === relation);
  if (!many) throw new NotFound();
  const there = await at(visit, many.table);
  const child = findTable(there.catalogue, many.table);
  const isKnown =
    child && canJoin(child, many, table) && askable(viewSql(there).view(child), many.column)?.by === 'value';
  if (!isKnown) throw new NotFound();
  return { many, there };
}

/**
 * The records that point to one record, as a list of the person's view of their table: those whose relation the person
 * sees. The record itself must be in view; a to-many relation that they can't ask along is not there. `ask` says what
 * of the list is wanted.
 */
export async function related(
  visit: PlacedVisit,
  tableName: string,
  id: string,
  relation: string,
  ask: (there: PlacedVisit, child: string) => ListQuestion,
): Promise<ListAnswer> {
  const { many, there } = await relatedTo(visit, tableName, relation);
  const view = viewSql(visit);
  const table = openTable(visit, view, tableName);
  const key = readRecordId(table, id);
  const target = findColumn(table, many.targetColumn);
  if (!key || !target) throw new NotFound();
  const tables = new Tables(visit.catalogue, table);
  // The view's rows first: they name the tables that stand after FROM.
  const rows = view.rows(tables);
  const [row] = await visit.source.rows(
    sql`SELECT ${view.end(table, target.name, tables)} AS c0 FROM ${tables.sql()}
      WHERE ${keyIs(tables.root, table, key)} AND ${rows}`,
  );
  if (!row) throw new NotFound();
  const value = decode(target, row[0]);
  if (value === null) throw new NotFound();
  const kind = kindOf(target);
  const right =
    kind === 'whole' || kind === 'decimal'
      ? { kind: 'number' as const, digits: String(value) }
      : { kind: 'text' as const, text: String(value) };
  const pointing: Condition = {
    kind: 'compare',
    left: { kind: 'column', path: [many.column] },
    comparison: '=',
    right,
  };
  const question = ask(there, many.table);
  return across(there, many.table, question.columns, (columns) =>
    list(there.source, there, many.table, { ...question, columns, where: [...question.where, pointing] }),
  );
}
