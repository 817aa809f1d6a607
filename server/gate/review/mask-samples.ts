import { viewSql } from '../view/view-sql';
import { bound, name, sql } from '../../../core/sql/sql';
import { maskSql, maskTakes, type Mask } from '../../../core/mask/mask';
import { findColumn, findTable } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import type { Runner } from '../../sources/source';
import { decode } from '../view/decode';
import { NotFound } from '../view/errors';
import { Tables } from '../view/tables';
import type { Visit } from '../view/visit';

/** A value, and what a mask leaves of it. */
export interface MaskSample {
  value: Value;
  masked: string | null;
}

/**
 * A mask on the first different values of a column, done by the database as for members. For builders: the values are
 * there too, where the ceiling lets them be read.
 */
export async function maskSamples(
  runner: Runner,
  visit: Visit,
  tableName: string,
  columnName: string,
  mask: Mask,
  size = 5,
): Promise<MaskSample[]> {
  const view = viewSql(visit);
  const table = findTable(visit.catalogue, tableName);
  const column = table && findColumn(table, columnName);
  if (!table || !column || !view.cell(new Tables(visit.catalogue, table), [], table, columnName))
    throw new NotFound('column');
  const fitting: Mask = maskTakes(mask, column) ? mask : { style: 'all' };
  const tables = new Tables(visit.catalogue, table);
  const raw = tables.column([], column);
  const inView = view.rows(tables);
  const rows = await runner.rows(
    sql`SELECT ${raw} AS c0, MIN(${maskSql(fitting, raw, column, view.maskContext)}) AS c1 FROM ${tables.sql()}
      WHERE ${tables.root}.${name(column.name)} IS NOT NULL AND ${inView} GROUP BY 1 LIMIT ${bound(size)}`,
  );
  return rows.map((row) => ({ value: decode(column, row[0]), masked: row[1] === null ? null : String(row[1]) }));
}
