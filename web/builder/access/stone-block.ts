import type { Role } from '../../../core/definition/definition';
import type { Level } from '../../ui/Stones';
import type { GridRow } from './grid-rows';
import type { Stone } from './set-level';

/** A cell by its line and the place of its role; -1 is the line's own name. */
export interface Spot {
  row: number;
  column: number;
}

/** The cells from one corner to the other, both included. */
export interface Block {
  top: number;
  bottom: number;
  left: number;
  right: number;
}

/** What the grid's lines and columns are. */
interface Lines {
  rows: GridRow[];
  roles: Role[];
}

export function keyOf(row: GridRow): string {
  return row.kind === 'table' ? row.table.name : `${row.table.name}\n${row.column.name}`;
}

export function blockOf(at: Spot, anchor: Spot | null): Block {
  const from = anchor ?? at;
  return {
    top: Math.min(at.row, from.row),
    bottom: Math.max(at.row, from.row),
    left: Math.min(at.column, from.column),
    right: Math.max(at.column, from.column),
  };
}

/** Stones of a block: those of its columns' lines. */
export function stonesIn({ rows, roles }: Lines, area: Block): Stone[] {
  return rows
    .slice(area.top, area.bottom + 1)
    .flatMap((row) =>
      row.kind === 'column'
        ? roles
            .slice(Math.max(area.left, 0), area.right + 1)
            .map((role) => ({ table: row.table, column: row.column.name, role: role.id }))
        : [],
    );
}

/** Stones of a block; where it holds tables alone, those of all their columns. */
export function stonesToLay(lines: Lines, area: Block): Stone[] {
  const stones = stonesIn(lines, area);
  if (stones.length > 0) return stones;
  return lines.rows
    .slice(area.top, area.bottom + 1)
    .flatMap((row) =>
      lines.roles
        .slice(Math.max(area.left, 0), area.right + 1)
        .flatMap((role) =>
          row.table.columns.map((column) => ({ table: row.table, column: column.name, role: role.id })),
        ),
    );
}

/** A single copied stone fills the block; more than one are laid from its corner on. */
export function pasted(lines: Lines, what: Level[][], area: Block): (Stone & { level: Level })[] {
  const one = what.length === 1 && what[0]!.length === 1 ? what[0]![0]! : null;
  if (one) return stonesIn(lines, area).map((stone) => ({ ...stone, level: one }));
  let line = -1;
  return lines.rows.slice(area.top).flatMap((row) => {
    if (row.kind !== 'column' || line + 1 >= what.length) return [];
    line++;
    return what[line]!.flatMap((level, i) => {
      const role = lines.roles[area.left + i];
      return role ? [{ table: row.table, column: row.column.name, role: role.id, level }] : [];
    });
  });
}
