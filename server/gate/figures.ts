import { mergedGroups } from '../../core/access/smallest-group';
import { comma, and, bound, joined, or, sql, type Sql } from '../../core/condition/sql';
import type { Condition } from '../../core/condition/tree';
import { findTable, isPathProblem, resolvePath, type Column, type Table } from '../../core/table/catalogue';
import type { Value } from '../../core/table/value';
import { kindOf } from '../../core/condition/check';
import type { RawRow, Runner, Source } from '../sources/source';
import { selectList } from './cells';
import type { DateStep, Dialect } from '../../core/dialect/dialect';
import { decode } from './decode';
import { BadQuestion } from './errors';
import { openTable } from './list';
import { asking, resolveAsked } from './question';
import { Tables } from './tables';
import { no, ViewSql, type Visit } from './view-sql';

export const measures = ['count', 'sum', 'average', 'minimum', 'maximum', 'distinct'] as const;

export interface Measure {
  what: (typeof measures)[number];
  /** Of which column; not for `count`. */
  path?: string[];
}

export interface FigureQuestion {
  measures: Measure[];
  /** At most two; a date can be grouped by a step of the calendar. */
  by: { path: string[]; step?: DateStep }[];
  where: Condition[];
  /** Groups of fewer records are merged; see mergedGroups. */
  smallestGroup?: number;
}

export interface FigureGroup {
  /** The values grouped by; null for "others". */
  key: Value[] | null;
  /** One for each measure. Sums and averages of exact numbers are decimal text. */
  values: Value[];
  /** How many cells a sum or an average left out because they are masked for the person; one for each measure. */
  leftOut: number[];
}

export interface FigureAnswer {
  groups: FigureGroup[];
  /** True when there are too few records to show anything. */
  tooFew: boolean;
}

const mostGroups = 5000;

/** Figures over the person's view. Without `by` there is one group. */
export async function figures(source: Source, visit: Visit, tableName: string, question: FigureQuestion): Promise<FigureAnswer> {
  const view = new ViewSql(visit);
  const table = openTable(visit, view, tableName);
  if (question.by.length > 2) throw new BadQuestion('A figure can be grouped by two columns at most.');
  // Both statements must see the same records, or the others could give a group away.
  return source.transaction(async (runner) => {
    const groups = await readGroups(runner, visit, view, table, question, null);
    if (groups.length > mostGroups) throw new BadQuestion(`This makes more than ${mostGroups} groups. Group by something coarser.`);
    const smallest = question.smallestGroup ?? 0;
    const merged = mergedGroups(groups.map((group) => group.count), smallest);
    if (merged === null) return { groups: [], tooFew: true };
    const kept = groups.filter((_, i) => !merged.has(i));
    const others = merged.size ? await readGroups(runner, visit, view, table, question, kept) : [];
    return { groups: [...kept, ...others].map(({ key, values, leftOut }) => ({ key, values, leftOut })), tooFew: false };
  });
}

interface CountedGroup extends FigureGroup {
  count: number;
}

/** The groups, or with `kept` one group of all that are not in it. */
async function readGroups(runner: Runner, visit: Visit, view: ViewSql, table: Table, question: FigureQuestion, kept: FigureGroup[] | null): Promise<CountedGroup[]> {
  const tables = new Tables(visit.catalogue, table);
  const by = question.by.map((each) => groupedBy(view, tables, each));
  const measured = question.measures.map((measure) => measureSql(visit, view, tables, measure));
  const where = asking(view, tables, { columns: [], where: question.where, search: '' });
  const grouped = kept ? [] : by;
  const selected = [sql`COUNT(*)`, ...grouped.map((each) => each.sql), ...measured.flatMap((each) => [each.value, each.leftOut])];
  const outside = kept ? sql` AND (${keyIsOneOf(by, kept, view.dialect)}) IS NOT TRUE` : sql``;
  // By their place in the list: an expression with parameters is not the same when it is written twice.
  const places = joined(grouped.map((_, i): Sql => ({ text: String(i + 2), params: [] })), comma);
  const order = joined(grouped.map((_, i): Sql => sql`${{ text: String(i + 2), params: [] }}${view.dialect.nullsFirst(false)}`), comma);
  const groupBy = grouped.length ? sql` GROUP BY ${places} ORDER BY ${order}` : sql``;
  const rows = await runner.rows(sql`SELECT ${selectList(selected)} FROM ${tables.sql()} WHERE ${where}${outside}${groupBy} LIMIT ${bound(mostGroups + 1)}`);
  return rows.map((row) => readGroup(row, grouped, measured, kept !== null));
}

function readGroup(row: RawRow, by: Grouped[], measured: MeasuredSql[], others: boolean): CountedGroup {
  const from = 1 + by.length;
  return {
    count: Number(row[0]),
    key: others ? null : by.map((each, i) => decode(each.column, row[1 + i])),
    values: measured.map((each, i) => each.read(row[from + 2 * i])),
    leftOut: measured.map((_, i) => Number(row[from + 2 * i + 1] ?? 0)),
  };
}

interface Grouped {
  sql: Sql;
  column: Column;
}

function askedColumn(view: ViewSql, tables: Tables, path: string[]): Column {
  const column = resolveAsked(view, tables, path);
  if (!column) throw new BadQuestion(`There is no column ${path.join('.')} to reckon with.`);
  return column;
}

function groupedBy(view: ViewSql, tables: Tables, { path, step }: FigureQuestion['by'][number]): Grouped {
  const column = askedColumn(view, tables, path);
  const value = view.askedPath(path, tables);
  if (step === undefined) {
    if (column.type === 'several choices' || kindOf(column) === 'none') throw new BadQuestion(`${path.join('.')} can't be grouped by.`);
    return { sql: value, column };
  }
  if (column.type !== 'date' && column.type !== 'date and time') throw new BadQuestion(`${path.join('.')} is no date and can't be grouped by ${step}.`);
  return { sql: view.dialect.dateStep(value, step), column: { ...column, type: 'text', collation: 'utf8mb4_general_ci' } };
}

/** A constant of the group's kind, compared so that an empty key finds itself. */
function keyIsOneOf(by: Grouped[], kept: FigureGroup[], dialect: Dialect): Sql {
  const is = (each: Grouped, value: Value) => {
    const kind = kindOf(each.column);
    if (value === null) return sql`${each.sql} IS NULL`;
    const as = kind === 'none' ? 'text' : kind;
    return sql`${dialect.same(dialect.column(each.sql, as, false), dialect.constant(String(value), as))}`;
  };
  const keys = kept.map((group) => sql`(${joined(by.map((each, i) => is(each, group.key![i]!)), and)})`);
  return keys.length ? joined(keys, or) : no;
}

interface MeasuredSql {
  value: Sql;
  leftOut: Sql;
  read(raw: unknown): Value;
}

const nothingLeftOut = sql`0`;

function measureSql(visit: Visit, view: ViewSql, tables: Tables, { what, path }: Measure): MeasuredSql {
  const asNumber = (raw: unknown) => Number(raw);
  if (what === 'count') return { value: sql`COUNT(*)`, leftOut: nothingLeftOut, read: asNumber };
  if (!path) throw new BadQuestion(`The ${what} needs a column.`);
  if (what === 'sum' || what === 'average') return amountSql(visit, view, tables, what, path);
  const column = askedColumn(view, tables, path);
  const value = view.askedPath(path, tables);
  if (what === 'distinct') return { value: sql`COUNT(DISTINCT ${value})`, leftOut: nothingLeftOut, read: asNumber };
  if (column.equalityOnly || ['none', 'choice', 'truth'].includes(kindOf(column))) throw new BadQuestion(`${path.join('.')} has no order, so there is no ${what}.`);
  return { value: what === 'minimum' ? sql`MIN(${value})` : sql`MAX(${value})`, leftOut: nothingLeftOut, read: (raw) => decode(column, raw) };
}

/** Of a column that the person sees at least masked: what is shown is reckoned, what is masked is counted. */
function amountSql(visit: Visit, view: ViewSql, tables: Tables, what: 'sum' | 'average', path: string[]): MeasuredSql {
  const found = resolvePath(visit.catalogue, tables.table, path);
  const cell = isPathProblem(found) || !isOpenWay(view, tables.table, path) ? null : view.cell(tables, found.steps, found.table, found.column.name);
  if (!cell) throw new BadQuestion(`There is no column ${path.join('.')} to reckon with.`);
  if (!['whole number', 'decimal', 'number'].includes(cell.column.type)) throw new BadQuestion(`${path.join('.')} is no number, so there is no ${what}.`);
  const places = (level: 'shown' | 'masked') => cell.cases.flatMap((each, i) => (each.level === level ? [i] : []));
  const inPlaces = (list: number[]) => (list.length === 0 ? no : cell.which ? sql`${cell.which} IN (${joined(list.map((i) => bound(i)), comma)})` : sql`TRUE`);
  // The cell itself is text as soon as some of it is masked; what is reckoned with is the value.
  const shown = places('shown').length ? view.askedPath(path, tables) : sql`CAST(NULL AS DECIMAL)`;
  return {
    value: what === 'sum' ? sql`SUM(${shown})` : sql`AVG(${shown})`,
    leftOut: sql`SUM(CASE WHEN ${inPlaces(places('masked'))} THEN 1 ELSE 0 END)`,
    read: (raw) => (raw === null || raw === undefined ? null : cell.column.type === 'number' ? Number(raw) : String(raw)),
  };
}

/** Whether every relation on the way is one that the person may ask along. */
function isOpenWay(view: ViewSql, table: Table, path: string[]): boolean {
  let at = findTable(view.askCatalogue(), table.name);
  for (const part of path.slice(0, -1)) {
    const relation = at?.relations.find((each) => each.name === part);
    at = relation && findTable(view.askCatalogue(), relation.table);
  }
  return at !== undefined;
}
