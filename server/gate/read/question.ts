import type { TableVisit } from '../view/table-visit';
import { checkCondition } from '../../../core/condition/check';
import { and, joined, or, sql, type Sql } from '../../../core/sql/sql';
import type { Condition } from '../../../core/condition/tree';
import {
  findColumn,
  findTable,
  isPathProblem,
  resolvePath,
  type Column,
  type Table,
} from '../../../core/table/catalogue';
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
  /** The columns in which it is looked for, where those are not the ones that are shown. */
  searched?: string[][];
  after: string | null;
  before: string | null;
  size: number;
}

export type Asked = Pick<ListQuestion, 'columns' | 'where' | 'search' | 'searched'>;

/** One branch of an OR in place of the whole: of the policy, or of the condition with this number. */
export interface Alternative {
  of: 'policy' | number;
  conditions: Condition[];
}

/** What a person asks of a table, looked up once: statements are written from it as often as they are needed. */
export class ResolvedQuestion {
  private readonly searched: readonly string[][];
  private readonly sorted: readonly { path: string[]; column: Column; descending: boolean }[];

  /** Throws BadQuestion where a condition can't be asked of the view, or the list can't be sorted so. */
  constructor(
    readonly at: TableVisit,
    readonly asked: Asked,
    sort: ListQuestion['sort'] = [],
  ) {
    const { view, table } = at;
    const scope = view.askScope(table);
    for (const condition of asked.where) {
      const problem = checkCondition(condition, scope)[0];
      if (problem) throw new BadQuestion(`The filter can't be used: ${problem.reason}.`);
    }
    this.searched =
      asked.search === ''
        ? []
        : (asked.searched ?? asked.columns).filter((path) => {
            const found = resolveAsked(view, table, path);
            return found && ['text', 'long text', 'one choice'].includes(found.type);
          });
    // Without a key there is no order to go on by.
    this.sorted = (table.key.length === 0 ? [] : sort).map(({ path, descending }) => {
      const column = resolveAsked(view, table, path);
      if (!column || !isSortable(column)) throw new BadQuestion(`The list can't be sorted by ${path.join('.')}.`);
      return { path, column, descending };
    });
  }

  /** The policy and everything asked, as one WHERE. */
  where(tables: Tables, alternative?: Alternative): Sql {
    const { view } = this.at;
    const policy =
      alternative?.of === 'policy'
        ? joined(
            alternative.conditions.map((each) => view.condition(each, tables)),
            and,
          )
        : view.rows(tables);
    const asked = this.asked.where.map((condition, i) =>
      view.askedCondition(alternative?.of === i ? alternative.conditions[0]! : condition, tables),
    );
    return joined([policy, ...asked, ...this.searching(tables)], and);
  }

  private searching(tables: Tables): Sql[] {
    const { view } = this.at;
    const { search } = this.asked;
    if (search === '') return [];
    const pattern = `%${search.replaceAll(/[\\%_]/g, (sign) => `\\${sign}`)}%`;
    const found = this.searched.map((path) => view.dialect.contains(view.askedPath(path, tables), pattern));
    return [found.length > 0 ? sql`(${joined(found, or)})` : sql`FALSE`];
  }

  /**
   * The order asked for, then the key in the direction of the last term, so that an index can be walked either way.
   * Empty for a table without a key.
   */
  order(tables: Tables): OrderTerm[] {
    const { view, table } = this.at;
    if (table.key.length === 0) return [];
    // Along a relation, or where the view doesn't show it, a value may be missing even if the column is never NULL.
    const mayMiss = view.view(table).lenses.length > 1;
    const terms = this.sorted.map(({ path, column, descending }): OrderTerm => ({
      sql: view.askedPath(path, tables, true),
      column: { ...column, nullable: column.nullable || path.length > 1 || mayMiss },
      descending,
    }));
    const last = this.sorted.at(-1)?.descending ?? false;
    for (const key of table.key) {
      const column = findColumn(table, key)!;
      terms.push({ sql: tables.column([], column), column, descending: last });
    }
    return terms;
  }
}

/** The column that a path leads to as the person may ask about it; null where they may not. */
export function resolveAsked(view: ViewSql, { name }: Table, path: string[]): Column | null {
  const catalogue = view.askCatalogue();
  const found = resolvePath(catalogue, findTable(catalogue, name)!, path);
  return isPathProblem(found) ? null : found.column;
}
