import { checkCondition } from '../../../core/condition/check';
import { and, joined, or, sql, type Sql } from '../../../core/sql/sql';
import type { Condition } from '../../../core/condition/tree';
import { findColumn, findTable, isPathProblem, resolvePath } from '../../../core/table/catalogue';
import { BadQuestion } from '../view/errors';
import { isSortable, type OrderTerm } from '../view/order';
import type { Tables } from '../view/tables';
import type { ViewSql } from '../view/view-sql';

/** What a person asks of a table. Everything in it works on their view. */
export interface ListQuestion {
  columns: string[][];
  sort: { path: string[]; descending: boolean }[];
  /** Conditions on the view, all of which must hold: the page's own and the person's. */
  where: Condition[];
  /** Text looked for in the text columns of the list. */
  search: string;
  after: string | null;
  before: string | null;
  size: number;
}

export type Asked = Pick<ListQuestion, 'columns' | 'where' | 'search'>;

/** The policy and everything asked, as one WHERE. */
export function asking(view: ViewSql, tables: Tables, asked: Asked, alternative?: Alternative): Sql {
  const parts = [
    alternative?.of === 'policy'
      ? joined(
          alternative.conditions.map((each) => view.condition(each, tables)),
          and,
        )
      : view.rows(tables),
  ];
  asked.where.forEach((condition, i) => {
    const problem = checkCondition(condition, view.askScope(tables.table))[0];
    if (problem) throw new BadQuestion(`The filter can't be used: ${problem.reason}.`);
    parts.push(view.askedCondition(alternative?.of === i ? alternative.conditions[0]! : condition, tables));
  });
  if (asked.search !== '') parts.push(searching(view, tables, asked.columns, asked.search));
  return joined(parts, and);
}

function searching(view: ViewSql, tables: Tables, columns: string[][], search: string): Sql {
  const pattern = `%${search.replaceAll(/[\\%_]/g, (sign) => `\\${sign}`)}%`;
  const searched = columns.flatMap((path) => {
    const found = resolveAsked(view, tables, path);
    return found && ['text', 'long text', 'one choice'].includes(found.type)
      ? [view.dialect.contains(view.askedPath(path, tables), pattern)]
      : [];
  });
  return searched.length ? sql`(${joined(searched, or)})` : sql`FALSE`;
}

export function resolveAsked(view: ViewSql, tables: Tables, path: string[]) {
  const table = findTable(view.askCatalogue(), tables.table.name)!;
  const found = resolvePath(view.askCatalogue(), table, path);
  return isPathProblem(found) ? null : found.column;
}

/** The order asked for, then the key in the direction of the last term, so that an index can be walked either way. */
export function orderTerms(view: ViewSql, tables: Tables, sort: ListQuestion['sort']): OrderTerm[] {
  const { table } = tables;
  if (table.key.length === 0) return [];
  const terms = sort.map(({ path, descending }): OrderTerm => {
    const column = resolveAsked(view, tables, path);
    if (!column || !isSortable(column)) throw new BadQuestion(`The list can't be sorted by ${path.join('.')}.`);
    // Along a relation, or where the view doesn't show it, a value may be missing even if the column is never NULL.
    return {
      sql: view.askedPath(path, tables, true),
      column: { ...column, nullable: column.nullable || path.length > 1 || view.view(table).lenses.length > 1 },
      descending,
    };
  });
  const last = sort.at(-1)?.descending ?? false;
  for (const key of table.key) {
    const column = findColumn(table, key)!;
    terms.push({ sql: tables.column([], column), column, descending: last });
  }
  return terms;
}

/**
 * Pages of lists whose rows are given by an OR. Asked plainly, the database mostly walks the order's index past rows
 * that don't match, or collects and sorts all that do. United, each branch gives its own first rows in the list's
 * order, and the first of all of these are the page: the same rows in the same order, because the order is total and
 * whatever is on the page is among the first of each branch that has it. Which of the two reads less is measured on the
 * data at hand.
 */
/** One branch of an OR in place of the whole: of the policy, or of the condition with this number. */
export interface Alternative {
  of: 'policy' | number;
  conditions: Condition[];
}
