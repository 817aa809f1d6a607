import { viewSql, ViewSql } from '../view/view-sql';
import { visibleColumns } from '../../../core/access/view';
import { and, bound, joined, name, or, sql } from '../../../core/sql/sql';
import { findColumn, findTable } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import type { Runner } from '../../sources/source';
import { Cells, nothing, selectList } from '../view/cells';
import type { ViewRecord } from '../view/view-record';
import { decode } from '../view/decode';
import { NotFound } from '../view/errors';
import { recordId } from '../view/record-id';
import { Tables } from '../view/tables';
import type { Visit } from '../view/visit';

type Seen = Pick<ViewRecord, 'values' | 'masked'>;

/** A record that at least one of two persons sees, as each gets it. */
interface PairedRecord {
  id: string | null;
  /** Null for whom it is not in view. */
  seen: [Seen | null, Seen | null];
  /** Columns whose cells are not the same for the two, where both see the record. */
  differing: string[];
}

export interface SideBySide {
  columns: string[];
  /** How many rows each sees, and how many both. */
  counts: { first: number; second: number; both: number };
  records: PairedRecord[];
}

/**
 * One table as two persons get it: the rows that either sees, in the order of the key, with the cells of both views.
 * `only` narrows to the rows that just one of them has. For builders.
 */
export async function sideBySide(
  runner: Runner,
  visits: readonly [Visit, Visit],
  tableName: string,
  only: boolean,
  size: number,
): Promise<SideBySide> {
  const [one, other] = visits;
  const table = findTable(one.catalogue, tableName);
  if (!table) throw new NotFound('table');
  const views = [viewSql(one), viewSql(other)] as const;
  const count = async (wanted: (tables: Tables) => ReturnType<ViewSql['rows']>) => {
    const tables = new Tables(one.catalogue, table);
    const where = wanted(tables);
    return Number((await runner.rows(sql`SELECT COUNT(*) AS c0 FROM ${tables.sql()} WHERE ${where}`))[0]?.[0] ?? 0);
  };
  const seen = new Set(views.flatMap((view) => visibleColumns(view.view(table))));
  const columns = table.columns.map((column) => column.name).filter((column) => seen.has(column));

  const tables = new Tables(one.catalogue, table);
  const cells = views.map(
    (view) =>
      new Cells(
        columns.map((column) => [column]),
        one.catalogue,
        tables,
        view,
      ),
  ) as [Cells, Cells];
  const inView = views.map((view) => sql`((${view.rows(tables)}) IS TRUE)`) as [
    ReturnType<ViewSql['rows']>,
    ReturnType<ViewSql['rows']>,
  ];
  const key = table.key.map((column) => findColumn(table, column)!);
  const selected = [
    ...key.map((column) => tables.column([], column)),
    ...inView,
    ...cells.flatMap((each) => each.selected),
  ];
  const where = only ? sql`(${inView[0]} <> ${inView[1]})` : sql`(${joined(inView, or)})`;
  const order =
    key.length === 0
      ? sql``
      : sql` ORDER BY ${joined(
          key.map((column) => sql`${tables.root}.${name(column.name)}`),
          sql`, `,
        )}`;
  const [rows, first, second, both] = await Promise.all([
    runner.rows(
      sql`SELECT ${selectList(selected.length ? selected : [nothing])} FROM ${tables.sql()} WHERE ${where}${order}
        LIMIT ${bound(size)}`,
    ),
    count((of) => views[0].rows(of)),
    count((of) => views[1].rows(of)),
    count((of) =>
      joined(
        views.map((view) => sql`(${view.rows(of)})`),
        and,
      ),
    ),
  ]);
  const from = key.length + 2;
  const records = rows.map((row): PairedRecord => {
    const isIn = [0, 1].map((i) => isTrue(row[key.length + i]));
    const pair = [
      isIn[0] ? cells[0].read(row, from) : null,
      isIn[1] ? cells[1].read(row, from + cells[0].selected.length) : null,
    ] as PairedRecord['seen'];
    return {
      id: key.length ? recordId(key.map((column, i) => decode(column, row[i]))) : null,
      seen: pair,
      differing:
        pair[0] && pair[1] ? columns.filter((column) => cellOf(pair[0]!, column) !== cellOf(pair[1]!, column)) : [],
    };
  });
  return { columns, counts: { first, second, both }, records };
}

function isTrue(raw: unknown): boolean {
  return raw === true || raw === 't' || raw === 'true' || Number(raw) === 1;
}

function cellOf({ values, masked }: Seen, column: string): string {
  const value: Value | undefined = values[column];
  return value === undefined
    ? 'hidden'
    : JSON.stringify([masked.includes(column), typeof value === 'bigint' ? String(value) : value]);
}
