import { bound, sql, type Sql } from '../condition/sql';
import type { Column, ColumnType } from '../table/catalogue';
import type { Value } from '../table/value';

/** How a value is veiled. `keep last` shows the last `count` characters; `year` shows the year of a date. */
export type Mask = { style: 'all' } | { style: 'keep last'; count: number } | { style: 'year' };
export type MaskStyleName = Mask['style'];

/** Fixed lengths: how long a hidden value is would be a fact about it. */
export const veiled = '••••';
const veiledStart = '••••••';

interface MaskStyle<M extends Mask> {
  label(mask: M): string;
  takes: 'any' | ColumnType[];
  /** Higher reveals less; of several masks on a cell the highest decides. */
  rank(mask: M): number;
  apply(value: Value, mask: M): string | null;
  sql(column: Sql, mask: M): Sql;
  /** What a person may sort and filter a column masked so by: the year as a whole number, or nothing. */
  order: ((column: Sql) => Sql) | null;
}

const styles: { [S in MaskStyleName]: MaskStyle<Extract<Mask, { style: S }>> } = {
  all: {
    label: () => 'nothing shown',
    takes: 'any',
    rank: () => 1000,
    // Also for NULL: whether there is a value is a fact too.
    apply: () => veiled,
    sql: () => bound(veiled),
    order: null,
  },
  'keep last': {
    label: (mask) => `last ${mask.count} shown`,
    takes: ['text', 'long text', 'whole number'],
    rank: (mask) => 900 - mask.count,
    apply: (value, mask) => {
      if (value === null) return null;
      const characters = Array.from(String(value));
      return characters.length > mask.count ? veiledStart + characters.slice(-mask.count).join('') : veiledStart;
    },
    sql: (column, mask) => {
      const count = bound(mask.count);
      return sql`CASE WHEN ${column} IS NULL THEN NULL WHEN CHAR_LENGTH(${column}) > ${count} THEN CONCAT(${bound(veiledStart)}, RIGHT(${column}, ${count})) ELSE ${bound(veiledStart)} END`;
    },
    order: null,
  },
  year: {
    label: () => 'year shown',
    takes: ['date', 'date and time'],
    rank: () => 500,
    apply: (value) => (value === null ? null : String(value).slice(0, 4)),
    sql: (column) => sql`LPAD(YEAR(${column}), 4, '0')`,
    order: (column) => sql`YEAR(${column})`,
  },
};

function styleOf<M extends Mask>(mask: M): MaskStyle<M> {
  return styles[mask.style] as unknown as MaskStyle<M>;
}

export const maskStyleNames = Object.keys(styles) as MaskStyleName[];

/** In words, for tooltips and findings: "last 3 shown". */
export function maskLabel(mask: Mask): string {
  return styleOf(mask).label(mask);
}

/** Whether the style works on columns of this type. */
export function maskTakes(mask: Mask, column: Column): boolean {
  const { takes } = styleOf(mask);
  return takes === 'any' || takes.includes(column.type);
}

/** The mask's rank: a higher one reveals less. */
export function maskRank(mask: Mask): number {
  return styleOf(mask).rank(mask);
}

/** The masked text of a value; null where the mask lets "empty" through. */
export function applyMask(mask: Mask, value: Value): string | null {
  return styleOf(mask).apply(value, mask);
}

/** The same as `applyMask`, computed by the database, so that the value never leaves it. */
export function maskSql(mask: Mask, column: Sql): Sql {
  return styleOf(mask).sql(column, mask);
}

/** What can still be sorted and filtered by, as a whole number; null when the mask shows nothing orderly. */
export function maskOrderSql(mask: Mask, column: Sql): Sql | null {
  return styleOf(mask).order?.(column) ?? null;
}
