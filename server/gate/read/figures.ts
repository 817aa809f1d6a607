import { viewSql, no, ViewSql } from '../view/view-sql';
import type { TableVisit } from '../view/table-visit';
import { mergedGroups } from '../../../core/access/smallest-group';
import Big from 'big.js';
import type { FigureMeasure } from '../../../core/definition/figure-measures';
import { comma, bound, joined, name, sql, type Sql, raw } from '../../../core/sql/sql';
import type { Condition } from '../../../core/condition/tree';
import { findTable, isPathProblem, resolvePath, type Column, type Table } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import { kindOf } from '../../../core/condition/operand-kind';
import type { RawRow, Runner, Source } from '../../sources/source';
import { selectList } from '../view/cells';
import type { DateStep } from '../../../core/dialect/dialect';
import { decode } from '../view/decode';
import { BadQuestion } from '../view/errors';
import { openTable } from '../view/open-table';
import { resolveAsked, ResolvedQuestion } from './question';
import { Tables } from '../view/tables';
import type { Visit } from '../view/visit';

export { figureMeasures as measures } from '../../../core/definition/figure-measures';

export interface Measure {
  what: FigureMeasure;
  /** Of which column; not for `count`. */
  path?: string[];
}

export interface FigureQuestion {
  measures: Measure[];
  /** At most two; a date can be grouped by a step of the calendar. */
  by: { path: string[]; step?: DateStep }[];
  where: Condition[];
  /** What people look for in these columns, as they do in a list. */
  search?: { text: string; columns: string[][] };
  /** Groups of fewer records are merged; see mergedGroups. */
  smallestGroup?: number;
}

interface FigureGroup {
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
export async function figures(
  source: Source,
  visit: Visit,
  tableName: string,
  question: FigureQuestion,
): Promise<FigureAnswer> {
  const view = viewSql(visit);
  const table = openTable(visit, view, tableName);
  if (question.by.length > 2) throw new BadQuestion('A figure can be grouped by two columns at most.');
  const smallest = question.smallestGroup ?? 0;
  const answer = async (runner: Runner): Promise<FigureAnswer> => {
    const read = await readGroups({ runner, visit, view, table }, question, smallest > 0);
    const { groups } = read;
    if (groups.length > mostGroups)
      throw new BadQuestion(`This makes more than ${mostGroups} groups. Group by something coarser.`);
    const merged = mergedGroups(
      groups.map((group) => group.count),
      smallest,
    );
    if (merged === null) return { groups: [], tooFew: true };
    const kept = groups.filter((_, i) => !merged.has(i)).map(({ key, values, leftOut }) => ({ key, values, leftOut }));
    return { groups: merged.size === 0 ? kept : [...kept, await read.others(merged)], tooFew: false };
  };
  // Where groups are put together, all statements must see the same records, or the others could give a group away.
  return smallest > 0 ? source.transaction(answer) : answer(source);
}

interface CountedGroup extends FigureGroup {
  count: number;
  /** As the database gave it, for putting groups together. */
  row: RawRow;
}

/**
 * The groups, read once. `others` puts some of them together: out of what each came to where that is enough; what can't
 * be (how many are different) is asked of the database by how many records the groups have, and by their places in
 * order.
 */
async function readGroups(
  at: TableVisit,
  question: FigureQuestion,
  merging: boolean,
): Promise<{ groups: CountedGroup[]; others(merged: ReadonlySet<number>): Promise<FigureGroup> }> {
  const { runner, visit, view, table } = at;
  const tables = new Tables(visit.catalogue, table);
  const by = question.by.map((each) => groupedBy(view, tables, each));
  const measured = question.measures.map((measure) => measureSql(visit, view, tables, measure));
  const where = new ResolvedQuestion(at, {
    columns: question.search?.columns ?? [],
    where: question.where,
    search: question.search?.text ?? '',
  }).where(tables);
  const parts = measured.map((each) => [each.value, each.leftOut, ...(merging ? each.toMerge : [])]);
  const selected = [sql`COUNT(*)`, ...by.map((each) => each.sql), ...parts.flat()];
  // By their place in the list: an expression with parameters is not the same when it is written twice.
  const places = joined(
    by.map((_, i): Sql => raw(String(i + 2))),
    comma,
  );
  const order = joined(
    by.map((_, i): Sql => sql`${raw(String(i + 2))}${view.dialect.nullsFirst(false)}`),
    comma,
  );
  const groupBy = by.length ? sql` GROUP BY ${places} ORDER BY ${order}` : sql``;
  const rows = await runner.rows(
    sql`SELECT ${selectList(selected)} FROM ${tables.sql()} WHERE ${where}${groupBy} LIMIT ${bound(mostGroups + 1)}`,
  );
  const starts = parts.reduce<number[]>((places, part) => [...places, places.at(-1)! + part.length], [1 + by.length]);
  const partsOf = (row: RawRow, i: number) => row.slice(starts[i], starts[i + 1]);
  const groups = rows.map((row): CountedGroup => ({
    row,
    count: Number(row[0]),
    key: by.map((each, i) => decode(each.column, row[1 + i])),
    values: measured.map((each, i) => each.read(partsOf(row, i)[0])),
    leftOut: measured.map((_, i) => Number(partsOf(row, i)[1] ?? 0)),
  }));
  /** Of the records in the groups at these places, how many values are different. */
  const different = async (merged: ReadonlySet<number>, value: Sql) => {
    const keys = by.map((each, i) => sql`${each.sql} AS ${name(`k${i}`)}`);
    const ordered = joined(
      by.map((_, i) => sql`${name(`k${i}`)}${view.dialect.nullsFirst(false)}`),
      comma,
    );
    const [row] = await runner.rows(
      sql`SELECT COUNT(DISTINCT v) AS c0 FROM (SELECT v, DENSE_RANK() OVER (ORDER BY ${ordered}) AS place
        FROM (SELECT ${joined([...keys, sql`${value} AS v`], comma)} FROM ${tables.sql()} WHERE ${where}) q) placed
        WHERE place IN (${joined(
          [...merged].map((place) => raw(String(place + 1))),
          comma,
        )})`,
    );
    return Number(row?.[0] ?? 0);
  };
  return {
    groups,
    others: async (merged) => {
      const together = [...merged].map((place) => groups[place]!);
      const values = await Promise.all(
        measured.map(async (each, i) =>
          each.merge === 'different'
            ? different(merged, each.raw!)
            : each.merge(
                together.map((group) => partsOf(group.row, i)),
                runner,
              ),
        ),
      );
      return {
        key: null,
        values,
        leftOut: measured.map((_, i) => together.reduce((sum, group) => sum + group.leftOut[i]!, 0)),
      };
    },
  };
}

interface Grouped {
  sql: Sql;
  column: Column;
}

function askedColumn(view: ViewSql, tables: Tables, path: string[]): Column {
  const column = resolveAsked(view, tables.table, path);
  if (!column) throw new BadQuestion(`There is no column ${path.join('.')} to reckon with.`);
  return column;
}

function groupedBy(view: ViewSql, tables: Tables, { path, step }: FigureQuestion['by'][number]): Grouped {
  const column = askedColumn(view, tables, path);
  const value = view.askedPath(path, tables);
  if (step === undefined) {
    if (column.type === 'several choices' || kindOf(column) === 'none')
      throw new BadQuestion(`${path.join('.')} can't be grouped by.`);
    return { sql: value, column };
  }
  if (column.type !== 'date' && column.type !== 'date and time')
    throw new BadQuestion(`${path.join('.')} is no date and can't be grouped by ${step}.`);
  return {
    sql: view.dialect.dateStep(value, step),
    column: { ...column, type: 'text', collation: 'utf8mb4_general_ci' },
  };
}

interface MeasuredSql {
  value: Sql;
  leftOut: Sql;
  read(raw: unknown): Value;
  /**
   * What is needed of each group beside its value to put groups together; comes after the value and what was left out.
   */
  toMerge: Sql[];
  /** The value of groups put together, out of their parts; `different` where that can only be told by the records. */
  merge: 'different' | ((groups: unknown[][], runner: Runner) => Value | Promise<Value>);
  /** What is counted, where it can only be told by the records. */
  raw?: Sql;
}

const nothingLeftOut = sql`0`;

function measureSql(visit: Visit, view: ViewSql, tables: Tables, { what, path }: Measure): MeasuredSql {
  const asNumber = (raw: unknown) => Number(raw);
  if (what === 'count')
    return {
      value: sql`COUNT(*)`,
      leftOut: nothingLeftOut,
      read: asNumber,
      toMerge: [],
      merge: (groups) => groups.reduce((sum, [count]) => sum + Number(count), 0),
    };
  if (!path) throw new BadQuestion(`The ${what} needs a column.`);
  if (what === 'sum' || what === 'average') return amountSql(visit, view, tables, what, path);
  const column = askedColumn(view, tables, path);
  const value = view.askedPath(path, tables);
  if (what === 'distinct')
    return {
      value: sql`COUNT(DISTINCT ${value})`,
      leftOut: nothingLeftOut,
      read: asNumber,
      toMerge: [],
      merge: 'different',
      raw: value,
    };
  if (column.equalityOnly || ['none', 'choice', 'truth'].includes(kindOf(column)))
    throw new BadQuestion(`${path.join('.')} has no order, so there is no ${what}.`);
  const end = what === 'minimum' ? sql`MIN(${value})` : sql`MAX(${value})`;
  return {
    value: end,
    leftOut: nothingLeftOut,
    read: (raw) => decode(column, raw),
    // Which of two ends comes first is the database's to say: it knows the collation.
    toMerge: [what === 'minimum' ? sql`RANK() OVER (ORDER BY ${end})` : sql`RANK() OVER (ORDER BY ${end} DESC)`],
    merge: (groups) =>
      decode(
        column,
        groups.filter(([raw]) => raw !== null).toSorted((a, b) => Number(a[2]) - Number(b[2]))[0]?.[0] ?? null,
      ),
  };
}

/** Of a column that the person sees at least masked: what is shown is reckoned, what is masked is counted. */
function amountSql(visit: Visit, view: ViewSql, tables: Tables, what: 'sum' | 'average', path: string[]): MeasuredSql {
  const found = resolvePath(visit.catalogue, tables.table, path);
  const cell =
    isPathProblem(found) || !isOpenWay(view, tables.table, path)
      ? null
      : view.cell(tables, found.steps, found.table, found.column.name);
  if (!cell) throw new BadQuestion(`There is no column ${path.join('.')} to reckon with.`);
  if (!['whole number', 'decimal', 'number'].includes(cell.column.type))
    throw new BadQuestion(`${path.join('.')} is no number, so there is no ${what}.`);
  const places = (level: 'shown' | 'masked') => cell.cases.flatMap((each, i) => (each.level === level ? [i] : []));
  const inPlaces = (list: number[]) =>
    list.length === 0
      ? no
      : cell.which
        ? sql`${cell.which} IN (${joined(
            list.map((i) => bound(i)),
            comma,
          )})`
        : sql`TRUE`;
  // The cell itself is text as soon as some of it is masked; what is reckoned with is the value.
  const shown = places('shown').length ? view.askedPath(path, tables) : sql`CAST(NULL AS DECIMAL)`;
  const isNear = cell.column.type === 'number';
  const read = (raw: unknown) => (raw === null || raw === undefined ? null : isNear ? Number(raw) : String(raw));
  const sumOf = (groups: unknown[][], at: number): Value => {
    const sums = groups.map((parts) => parts[at]).filter((raw) => raw !== null && raw !== undefined);
    if (sums.length === 0) return null;
    return isNear
      ? sums.reduce<number>((sum, raw) => sum + Number(raw), 0)
      : sums
          .reduce<Big>((sum, raw) => sum.plus(String(raw)), new Big(0))
          .toFixed(Math.max(...sums.map((raw) => String(raw).split('.')[1]?.length ?? 0)));
  };
  return {
    value: what === 'sum' ? sql`SUM(${shown})` : sql`AVG(${shown})`,
    leftOut: sql`SUM(CASE WHEN ${inPlaces(places('masked'))} THEN 1 ELSE 0 END)`,
    read,
    toMerge: what === 'sum' ? [] : [sql`SUM(${shown})`, sql`COUNT(${shown})`],
    merge:
      what === 'sum'
        ? (groups) => sumOf(groups, 0)
        : async (groups, runner) => {
            const sum = sumOf(groups, 2);
            const count = groups.reduce((all, parts) => all + Number(parts[3]), 0);
            if (sum === null || count === 0) return null;
            if (typeof sum === 'number') return sum / count;
            // Divided by the database, as its average is.
            const scale = String(sum).split('.')[1]?.length ?? 0;
            const [row] = await runner.rows(
              sql`SELECT CAST(${bound(String(sum))} AS DECIMAL(65, ${raw(String(scale))})) /
                ${raw(String(count))} AS c0`,
            );
            return read(row?.[0]);
          },
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
