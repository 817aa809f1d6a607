import { viewSql, BadQuestion, type ListQuestion, openTable, isSortable, ViewSql, type Visit } from '../gate/gate';
import Joi from 'joi';
import { visibleColumns } from '../../core/access/view';
import { readCondition } from '../../core/condition/check';
import type { Condition } from '../../core/condition/tree';
import type { RowFilter } from '../../core/definition/definition';
import { readPath } from '../../core/definition/path';
import { findTable, isPathProblem, resolvePath, type Table } from '../../core/table/catalogue';

export interface ListQuery {
  /** Which tab of a section that has some it is asked in. */
  view?: string;
  columns?: string;
  sort?: string;
  filter: string;
  search: string;
  after?: string;
  before?: string;
  /** How many records at most; as many as stand on a page when absent. */
  size?: number;
}

/** So many records stand on a page of a list where nothing else is said. */
const usualSize = 25;

export const text = (max: number) => Joi.string().allow('').max(max);

const listKeys = {
  columns: text(4000),
  sort: text(1000),
  filter: text(8000).default(''),
  search: text(200).trim().default(''),
  after: Joi.string().max(20_000),
  before: Joi.string().max(20_000),
  size: Joi.number().integer().min(1).max(200),
};

export const listQuery = Joi.object<ListQuery>(listKeys).oxor('after', 'before');

/** As `listQuery`, of a section, which may have tabs. */
export const sectionQuery = Joi.object<ListQuery>({ ...listKeys, view: text(60) }).oxor('after', 'before');

/** As `listQuery`, whether the records are counted, and whether cells of CSV are guarded. */
export const countedQuery = Joi.object<ListQuery & { counted: boolean; guard: boolean }>({
  ...listKeys,
  counted: Joi.boolean().default(true),
  guard: Joi.boolean().default(true),
}).oxor('after', 'before');

/** What a page chooses of a table, where it is not the whole view. */
interface ListOfPage {
  columns: string[];
  sort: { column: string; descending: boolean }[];
  where: RowFilter;
}

export function questionOf(
  visit: Visit,
  tableName: string,
  query: ListQuery,
  section: ListOfPage | null,
): ListQuestion {
  const view = viewSql(visit);
  const table = openTable(visit, view, tableName);
  const columns = query.columns
    ? pathsOf(query.columns)
    : section
      ? knownPaths(section.columns)
      : visibleColumns(view.view(table)).map((name) => [name]);
  const where: Condition[] = [];
  if (section && section.where !== 'every row') where.push(section.where);
  where.push(...askedFilter(view, table, query.filter));
  return {
    columns,
    sort: query.sort ? sortOf(query.sort) : sectionSort(view, table, section),
    where,
    search: query.search,
    after: query.after ?? null,
    before: query.before ?? null,
    size: query.size ?? usualSize,
  };
}

/** The filter that a person makes: columns of their view against constants, and against what is their own. */
export function askedFilter(view: ViewSql, table: Table, filter: string): Condition[] {
  return filter.trim() === '' ? [] : [readCondition(filter, view.filterScope(table))];
}

function knownPaths(texts: string[]): string[][] {
  return texts.flatMap((each) => {
    const path = readPath(each);
    return path ? [path] : [];
  });
}

/** The page's own order, as far as this person may sort by it. */
function sectionSort(view: ViewSql, table: Table, section: ListOfPage | null): ListQuestion['sort'] {
  const asking = view.askCatalogue();
  return (section?.sort ?? []).flatMap(({ column, descending }) => {
    const path = readPath(column);
    const found = path && resolvePath(asking, findTable(asking, table.name)!, path);
    return path && found && !isPathProblem(found) && isSortable(found.column) ? [{ path, descending }] : [];
  });
}

function sortOf(sort: string): ListQuestion['sort'] {
  return sort
    .split(',')
    .slice(0, 5)
    .map((term) => {
      const descending = term.startsWith('-');
      const path = readPath(descending ? term.slice(1) : term);
      if (!path) throw new BadQuestion("The list can't be sorted by this.");
      return { path, descending };
    });
}

export function pathsOf(columns: string): string[][] {
  return columns
    .split(',')
    .slice(0, 300)
    .map((each) => pathOf(each.trim()));
}

export function pathOf(column: string): string[] {
  const path = readPath(column);
  if (!path) throw new BadQuestion(`"${column}" is not the name of a column.`);
  return path;
}
