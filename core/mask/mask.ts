import { sql, type Sql } from '../sql/sql';
import type { Column } from '../table/catalogue';
import type { Value } from '../table/value';
import { age, month, year } from './date-masks';
import { round, step } from './number-masks';
import { standIn } from './stand-in';
import {
  veil,
  type AskedAs,
  type Mask,
  type MaskContext,
  type MaskOf,
  type MaskSqlContext,
  type MaskStyle,
  type MaskStyleName,
} from './style';
import { area, card, email, initials, keepBothEnds, keepFirst, keepLast, zipArea } from './text-masks';

export { maskSigns } from './style';
export type { AskedAs, Mask, MaskContext, MaskSqlContext, MaskStyleName, StandInKey } from './style';

const all: MaskStyle<MaskOf<'all'>> = {
  label: () => 'nothing shown',
  takes: 'any',
  rank: () => 1000,
  apply: (_value, mask) => veil(mask),
  sql: (_raw, mask, { dialect }) => dialect.text(veil(mask)),
  asked: () => null,
};

const styles: { [S in MaskStyleName]: MaskStyle<MaskOf<S>> } = {
  all,
  'keep last': keepLast,
  'keep first': keepFirst,
  'keep both ends': keepBothEnds,
  card,
  'e-mail': email,
  initials,
  year,
  month,
  age,
  area,
  'ZIP area': zipArea,
  step,
  round,
  'stand-in': standIn,
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

/**
 * The masked text of a value; null where the mask lets "empty" through. With `all` even that is veiled: it is a fact
 * too.
 */
export function applyMask(mask: Mask, value: Value, column: Column, context: MaskContext): string | null {
  if (mask.style === 'all') return veil(mask);
  return value === null ? null : styleOf(mask).apply(value, mask, context, column);
}

/** The same as `applyMask`, computed by the database, so that the value never leaves it. */
export function maskSql(mask: Mask, raw: Sql, column: Column, context: MaskSqlContext): Sql {
  const shown = styleOf(mask).sql(raw, mask, context, column);
  return mask.style === 'all' ? shown : sql`CASE WHEN ${raw} IS NULL THEN NULL ELSE ${shown} END`;
}

/** What a person may filter, sort, search and group by where a column is masked so; null when nothing. */
export function maskAsked(mask: Mask): AskedAs | null {
  return styleOf(mask).asked(mask);
}

/** The column as it is to a person who may ask only by what the mask shows. */
export function maskedColumn(column: Column, asked: AskedAs): Column {
  return {
    ...column,
    type: asked.type,
    nativeType: asked.type,
    choices: undefined,
    scale: asked.scale,
    maxLength: undefined,
    read: undefined,
    collation: asked.type === 'text' ? (column.collation ?? 'utf8mb4_general_ci') : undefined,
    equalityOnly: asked.equalityOnly,
  };
}
