import Big from 'big.js';
import { bound, sql, type Sql } from '../condition/sql';
import type { Value } from '../table/value';
import { digitsOf } from '../table/value';
import type { MaskOf, MaskStyle } from './style';

/** Masks of amounts. Everything is reckoned in exact decimals with 30 digits after the point, in memory as in the database. */

const digitsKept = 30;
const halfUp = 1;

function exact(value: Value): Big {
  return new Big(String(value)).round(digitsKept, halfUp);
}

const exactSql = (column: Sql): Sql => sql`CAST(${column} AS DECIMAL(65,30))`;
/** The type's number is the mask's own, not taken from input. */
const decimalType = (scale: number): Sql => ({ text: `DECIMAL(65,${scale})`, params: [] });
const number = (text: string): Sql => sql`CAST(${bound(text)} AS ${decimalType(digitsOf(text).after)})`;
const asDecimal = (amount: Sql, scale: number): Sql => sql`CAST(${amount} AS ${decimalType(scale)})`;
const asText = (amount: Sql, scale: number): Sql => sql`CAST(${asDecimal(amount, scale)} AS CHAR)`;

function lowerEdge(value: Value, size: string): Big {
  const amount = exact(value);
  const rest = amount.mod(size);
  return amount.minus(rest).minus(rest.lt(0) ? size : 0);
}

/** Towards zero first, then down where that went up. The sign of the rest is not asked: the database's may be that of a negative zero. */
function lowerEdgeSql(column: Sql, size: string): Sql {
  const amount = exactSql(column);
  const step = number(size);
  const cut = sql`(${amount} - MOD(${amount}, ${step}))`;
  return sql`(${cut} - CASE WHEN ${cut} > ${amount} THEN ${step} ELSE 0 END)`;
}

/** The place of an amount among the edges: 0 below the first. */
function placeSql(column: Sql, edges: string[]): Sql {
  const whens = edges.reduce((text, edge, i) => sql`${text} WHEN ${exactSql(column)} < ${number(edge)} THEN ${bound(i)}`, sql`CASE`);
  return sql`${whens} ELSE ${bound(edges.length)} END`;
}

const betweenEdges = (edges: string[], place: number): string =>
  place === 0 ? `<${edges[0]}` : place === edges.length ? `≥${edges[place - 1]}` : `${edges[place - 1]}–${edges[place]}`;

/** The step that an amount lies in, its lower edge included: 250–500. */
export const step: MaskStyle<MaskOf<'step'>> = {
  label: (mask) => (mask.size === undefined ? `one of ${(mask.edges ?? []).length + 1} steps shown` : `step of ${mask.size} shown`),
  takes: ['whole number', 'decimal', 'number'],
  rank: (mask) => 480 + (mask.size === undefined ? 19 - Math.min(19, (mask.edges ?? []).length) : Math.max(0, Math.min(19, Math.log10(Number(mask.size))))),
  apply: (value, mask) => {
    if (mask.size === undefined) {
      const edges = mask.edges ?? [];
      return edges.length === 0 ? '' : betweenEdges(edges, edges.filter((edge) => exact(value).gte(edge)).length);
    }
    const low = lowerEdge(value, mask.size);
    const scale = digitsOf(mask.size).after;
    return `${plain(low, scale)}–${plain(low.plus(mask.size), scale)}`;
  },
  sql: (column, mask) => {
    if (mask.size === undefined) {
      const edges = mask.edges ?? [];
      const whens = edges.reduce((text, edge, i) => sql`${text} WHEN ${exactSql(column)} < ${number(edge)} THEN ${bound(betweenEdges(edges, i))}`, sql`CASE`);
      return edges.length === 0 ? bound('') : sql`${whens} ELSE ${bound(betweenEdges(edges, edges.length))} END`;
    }
    const low = lowerEdgeSql(column, mask.size);
    const scale = digitsOf(mask.size).after;
    return sql`CONCAT(${asText(low, scale)}, ${bound('–')}, ${asText(sql`${low} + ${number(mask.size)}`, scale)})`;
  },
  asked: (mask) => (mask.size === undefined
    ? { type: 'whole number', sql: (column) => placeSql(column, mask.edges ?? []) }
    : { type: 'decimal', scale: digitsOf(mask.size).after, sql: (column) => asDecimal(lowerEdgeSql(column, mask.size!), digitsOf(mask.size!).after) }),
};

/** Rounded half away from zero. */
export const round: MaskStyle<MaskOf<'round'>> = {
  label: (mask) => (mask.digits > 0 ? `${mask.digits} decimals shown` : `rounded to ${10 ** -mask.digits}`),
  takes: ['whole number', 'decimal', 'number'],
  rank: (mask) => 400 - mask.digits,
  apply: (value, mask) => plain(exact(value).round(mask.digits, halfUp), Math.max(0, mask.digits)),
  sql: (column, mask) => asText(roundSql(column, mask), Math.max(0, mask.digits)),
  asked: (mask) => ({ type: 'decimal', scale: Math.max(0, mask.digits), sql: (column) => asDecimal(roundSql(column, mask), Math.max(0, mask.digits)) }),
};

const roundSql = (column: Sql, mask: MaskOf<'round'>): Sql => sql`ROUND(${exactSql(column)}, ${bound(mask.digits)})`;

/** Without the sign that a rounded -0.001 would keep. */
function plain(amount: Big, scale: number): string {
  return (amount.eq(0) ? new Big(0) : amount).toFixed(scale);
}
