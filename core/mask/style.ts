import type { Sql } from '../sql/sql';
import type { Dialect } from '../dialect/dialect';
import type { Column, ColumnType } from '../table/catalogue';
import type { Value } from '../table/value';

/**
 * How a value is veiled.
 *
 * - `separators`: the signs between letters and digits stay, and with them the length.
 * - `step`: either a `size`, or `edges` in ascending order; both as decimal text.
 * - `round`: digits after the point; a negative number rounds before it.
 * - `sign`: stands for what is hidden; a dot when absent.
 */
export type Mask =
  | ({ style: 'all' } & Signed)
  | ({ style: 'keep last'; count: number; separators?: boolean } & Signed)
  | ({ style: 'keep first'; count: number; separators?: boolean } & Signed)
  | ({ style: 'keep both ends'; first: number; last: number; separators?: boolean } & Signed)
  | ({ style: 'card'; first: number; last: number } & Signed)
  | ({ style: 'e-mail'; show: 'first letter' | 'domain' } & Signed)
  | { style: 'initials' }
  | { style: 'year' }
  | { style: 'month' }
  | { style: 'age' }
  | ({ style: 'area'; count: number } & Signed)
  | { style: 'ZIP area'; small?: string[] }
  | { style: 'step'; size?: string; edges?: string[] }
  | { style: 'round'; digits: number }
  | { style: 'stand-in' };

export type MaskStyleName = Mask['style'];

export type MaskOf<S extends MaskStyleName> = Extract<Mask, { style: S }>;

/** What masks need beside the value. */
export interface MaskContext {
  /** `YYYY-MM-DD` in the portal's time zone, for ages. */
  today: string;
  /** The portal's secret for stand-ins; without it a stand-in shows nothing. */
  standIn: StandInKey | null;
}

/** What masks need to be said in SQL. */
export interface MaskSqlContext extends MaskContext {
  dialect: Dialect;
}

export interface StandInKey {
  /** At most 64 bytes. */
  key: Uint8Array;
  /** HMAC-SHA-256 (RFC 2104) of a text's UTF-8 bytes under the key, as hexadecimal digits. */
  hmac(text: string): string;
}

/** What a person may still ask by: the column as it is to them, and its SQL. */
export interface AskedAs {
  type: ColumnType;
  scale?: number;
  /** Only the same or not the same can be asked. */
  equalityOnly?: boolean;
  sql(raw: Sql, column: Column, context: MaskSqlContext): Sql;
}

export interface MaskStyle<M extends Mask> {
  label(mask: M): string;
  takes: 'any' | ColumnType[];
  /** Higher reveals less; of several masks on a cell the highest decides. */
  rank(mask: M): number;
  apply(value: Exclude<Value, null>, mask: M, context: MaskContext, column: Column): string;
  /** The same as `apply` for what is not NULL. */
  sql(raw: Sql, mask: M, context: MaskSqlContext, column: Column): Sql;
  /** Null when the mask shows nothing that could be asked by. */
  asked(mask: M): AskedAs | null;
}

/** Signs that can stand for what is hidden. */
export const maskSigns = ['•', '*', '#', 'x', '█'] as const;

interface Signed {
  sign?: (typeof maskSigns)[number];
}

export const signOf = ({ sign = '•' }: Signed): string => sign;

/** Fixed lengths: how long a hidden value is would be a fact about it. */
export const veil = (mask: Signed): string => signOf(mask).repeat(4);
export const veilOfPart = (mask: Signed): string => signOf(mask).repeat(6);

export const characters = (value: Value): string[] => Array.from(String(value));
