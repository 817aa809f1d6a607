import { comma, joined, name, sql, type Sql } from '../../../core/sql/sql';
import { printPath } from '../../../core/definition/path';
import { isPathProblem, resolvePath, type Catalogue } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import type { RawRow } from '../../sources/source';
import { csvLineSql } from './csv-line';
import { decode } from './decode';
import type { Tables } from './tables';
import type { CellSql, ViewSql } from './view-sql';
import type { ViewRecord } from './view-record';

/** The cells that a statement selects, and how to read them from its rows. */
export class Cells {
  private readonly cells: { path: string; cell: CellSql; at: number; whichAt: number }[] = [];
  readonly selected: Sql[] = [];

  /** Paths of which the person sees nothing anywhere are left out. */
  constructor(paths: string[][], catalogue: Catalogue, tables: Tables, view: ViewSql) {
    for (const path of paths) {
      const found = resolvePath(catalogue, tables.table, path);
      if (isPathProblem(found)) continue;
      const cell = view.cell(tables, found.steps, found.table, found.column.name);
      if (!cell) continue;
      const at = this.selected.push(cell.value) - 1;
      const whichAt = cell.which ? this.selected.push(cell.which) - 1 : -1;
      this.cells.push({ path: printPath(path), cell, at, whichAt });
    }
  }

  /** The paths of the cells, in order. */
  get paths(): string[] {
    return this.cells.map(({ path }) => path);
  }

  /** All cells of a record as one line of CSV, as the database writes it; null where it can't be left to it. */
  csvLine(view: ViewSql, guard: boolean): Sql | null {
    const open = this.cells.every(({ cell }) => cell.which === null && cell.cases[0]!.level !== 'masked');
    return open
      ? csvLineSql(
          view.dialect,
          this.cells.map(({ cell }) => cell),
          guard,
        )
      : null;
  }

  /** As `read`, in the order of the paths: undefined where the cell is hidden, and the places of the masked ones. */
  readInOrder(row: RawRow, from: number): { cells: (Value | undefined)[]; masked: number[] } {
    let masked = unmasked;
    const cells = this.cells.map(({ cell, at, whichAt }, i): Value | undefined => {
      const which = whichAt < 0 ? 0 : row[from + whichAt];
      const openness = which === null ? undefined : cell.cases[Number(which)];
      if (!openness) return undefined;
      const raw = row[from + at];
      if (openness.level !== 'masked') return decode(cell.column, raw);
      if (masked === unmasked) masked = [];
      masked.push(i);
      return raw === null ? null : String(raw);
    });
    return { cells, masked };
  }

  /** Reads the cells of one row; `from` is where in the row they start. */
  read(row: RawRow, from: number): Pick<ViewRecord, 'values' | 'masked'> {
    const values: Record<string, Value> = {};
    const masked: string[] = [];
    for (const { path, cell, at, whichAt } of this.cells) {
      const which = whichAt < 0 ? 0 : row[from + whichAt];
      const openness = which === null ? undefined : cell.cases[Number(which)];
      if (!openness) continue;
      const raw = row[from + at];
      if (openness.level === 'masked') {
        masked.push(path);
        values[path] = raw === null ? null : String(raw);
      } else {
        values[path] = decode(cell.column, raw);
      }
    }
    return { values, masked };
  }
}

const unmasked: number[] = [];

export const nothing = sql`NULL`;

/**
 * The list of a SELECT. Each piece gets a short name: without one its name is its whole text, which drivers cut or
 * stumble over.
 */
export function selectList(pieces: readonly Sql[]): Sql {
  return joined(
    (pieces.length ? pieces : [nothing]).map((piece, i) => sql`${piece} AS ${name(`c${i}`)}`),
    comma,
  );
}
