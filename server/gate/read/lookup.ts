import { viewSql, ViewSql } from '../view/view-sql';
import { tableRights } from '../../../core/access/rights';
import { isAskedFor } from '../../../core/access/asked-for';
import { askable } from '../../../core/access/ask';
import { crossingsFrom } from '../../../core/definition/sources';
import { findTable, type Relation, type Table } from '../../../core/table/catalogue';
import { plainText } from '../../../core/table/plain-text';
import { titleColumns, titleText } from '../../../core/table/title';
import type { Value } from '../../../core/table/value';
import { at } from '../view/across';
import type { PlacedVisit, Visit } from '../view/visit';
import { NotFound } from '../view/errors';
import { readPage } from './list';
import { openTable } from '../view/open-table';

/** A record that a relation can be set to: the value to send, and what people know the record by. */
export interface Candidate {
  value: Value;
  label: string;
}

/**
 * The records that a relation of a table may point to: those of the other table in the person's own view of it, by the
 * column that stands for a record there; also where that table is in another source. NotFound where they don't see the
 * relation, the other table, or the column it points to.
 */
export async function lookup(
  visit: PlacedVisit,
  tableName: string,
  relationName: string,
  search: string,
  size: number,
): Promise<Candidate[]> {
  const view = viewSql(visit);
  const from = findTable(visit.catalogue, tableName);
  const relation =
    from &&
    [...from.relations, ...(visit.elsewhere ? crossingsFrom(visit.definition, tableName) : [])].find(
      (each) => each.name === relationName,
    );
  const known =
    from &&
    relation &&
    (tableRights(view.view(from)).chooses(relation.column) || isAskedFor(visit, from.name, relation.column));
  if (!relation || !known) throw new NotFound('relation');
  const there = await at(visit, relation.table);
  return candidates(there, relation, search, size);
}

async function candidates(visit: PlacedVisit, relation: Relation, search: string, size: number): Promise<Candidate[]> {
  const view = viewSql(visit);
  const table = openTable(visit, view, relation.table);
  const pointed = relation.targetColumn;
  const isAddress = table.key.length === 1 && table.key[0] === pointed;
  if (!isAddress && askable(view.view(table), pointed)?.by !== 'value') throw new NotFound('relation');
  const title = titleOf(visit, view, table);
  const further = title === null ? [] : titleFurther(visit, view, table);
  const columns = [title ?? [], further, isAddress ? [] : pointed].flat().map((column) => [column]);
  const sort = title === null ? [] : [{ path: [title], descending: false }];
  const page = await readPage(
    { runner: visit.source, visit, view, table },
    {
      columns,
      sort,
      where: [],
      search,
      after: null,
      before: null,
      size,
    },
  );
  return page.records.flatMap((record) => {
    const value = isAddress ? decodeURIComponent(record.id ?? '') : (record.values[pointed] ?? null);
    const said = [title ?? [], further].flat().map((column) => record.values[column]);
    const label = titleText(said) || plainText(value);
    return value === null || value === '' ? [] : [{ value, label }];
  });
}

/** The further columns of a title that the person may ask by. */
export function titleFurther(visit: Visit, view: ViewSql, table: Table): string[] {
  const further = visit.definition.tables[table.name]?.titleFurther ?? [];
  return further.filter((name) => askable(view.view(table), name)?.by === 'value');
}

/** What stands for a record: the column that builders said or we guess, of those that the person may ask by. */
export function titleOf(visit: Visit, view: ViewSql, table: Table): string | null {
  const asks = (name: string) => askable(view.view(table), name)?.by === 'value';
  return titleColumns(table, visit.definition.tables[table.name]?.titleColumn).find(asks) ?? null;
}
