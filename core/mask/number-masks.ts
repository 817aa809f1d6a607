import Big from 'big.js';
import { sql, type Sql } from '../sql/sql';
import type { Dialect } from '../dialect/dialect';
import { digitsOf, type Value } from '../table/value';
import type { MaskOf, MaskStyle } from './style';

/**
 * Masks of amounts. Everything is reckoned in exact decimals with 30 digits after the point, in memory as in the
 * database.
 */
const digitsKept = 30;
const halfUp = 1;

function exact(value: Value): Big {
  return new Big(String(value)).round(digitsKept, halfUp);
}

const number = (text: string, dialect: Dialect): Sql => dialect.constant(text, 'decimal');
const asText = (amount: Sql, scale: number, dialect: Dialect): Sql => dialect.asText(dialect.decimal(amount, scale));

function lowerEdge(value: Value, size: string): Big {
  const amount = exact(value);
  const rest = amount.mod(size);
  return amount.minus(rest).minus(rest.lt(0) ? size : 0);
}

/**
 * Towards zero first, then down where that went up. The sign of the rest is not asked: the database's may be that of a
 * negative zero.
 */
function lowerEdgeSql(column: Sql, size: string, dialect: Dialect): Sql {
  const amount = dialect.exact(column);
  const step = number(size, dialect);
  const cut = sql`(${amount} - MOD(${amount}, ${step}))`;
  return sql`(${cut} - CASE WHEN ${cut} > ${amount} THEN ${step} ELSE 0 END)`;
}

/** The place of an amount among the edges: 0 below the first. */
function placeSql(column: Sql, edges: string[], dialect: Dialect): Sql {
  const whens = edges.reduce(
    (text, edge, i) => sql`${text} WHEN ${dialect.exact(column)} < ${number(edge, dialect)} THEN ${dialect.number(i)}`,
    sql`CASE`,
  );
  return sql`${whens} ELSE ${dialect.number(edges.length)} END`;
}

const betweenEdges = (edges: string[], place: number): string =>
  place === 0
    ? `<${edges[0]}`
    : place === edges.length
      ? `≥${edges[place - 1]}`
      : `${edges[place - 1]}–${edges[place]}`;

/** The step that an amount lies in, its lower edge included: 250–500. */
export const step: MaskStyle<MaskOf<'step'>> = {
  label: (mask) =>
    mask.size === undefined ? `one of ${(mask.edges ?? []).length + 1} steps shown` : `step of ${mask.size} shown`,
  takes: ['whole number', 'decimal', 'number'],
  rank: (mask) =>
    480 +
    (mask.size === undefined
      ? 19 - Math.min(19, (mask.edges ?? []).length)
      : Math.max(0, Math.min(19, Math.log10(Number(mask.size))))),
  apply: (value, mask) => {
    if (mask.size === undefined) {
      const edges = mask.edges ?? [];
      return edges.length === 0 ? '' : betweenEdges(edges, edges.filter((edge) => exact(value).gte(edge)).length);
    }
    const low = lowerEdge(value, mask.size);
    const scale = digitsOf(mask.size).after;
    return `${plain(low, scale)}–${plain(low.plus(mask.size), scale)}`;
  },
  sql: (column, mask, { dialect }) => {
    if (mask.size === undefined) {
      const edges = mask.edges ?? [];
      const whens = edges.reduce(
        (text, edge, i) =>
          sql`${text} WHEN ${dialect.exact(column)} < ${number(edge, dialect)} THEN
            ${dialect.text(betweenEdges(edges, i))}`,
        sql`CASE`,
      );
      return edges.length === 0
        ? dialect.text('')
        : sql`${whens} ELSE ${dialect.text(betweenEdges(edges, edges.length))} END`;
    }
    const low = lowerEdgeSql(column, mask.size, dialect);
    const scale = digitsOf(mask.size).after;
    return sql`CONCAT(${asText(low, scale, dialect)}, ${dialect.text('–')},
      ${asText(sql`${low} + ${number(mask.size, dialect)}`, scale, dialect)})`;
  },
  asked: (mask) =>
    mask.size === undefined
      ? { type: 'whole number', sql: (column, _, { dialect }) => placeSql(column, mask.edges ?? [], dialect) }
      : {
          type: 'decimal',
          scale: digitsOf(mask.size).after,
          sql: (column, _, { dialect }) =>
            dialect.decimal(lowerEdgeSql(column, mask.size!, dialect), digitsOf(mask.size!).after),
        },
};

/** Rounded half away from zero. */
export const round: MaskStyle<MaskOf<'round'>> = {
  label: (mask) => (mask.digits > 0 ? `${mask.digits} decimals shown` : `rounded to ${10 ** -mask.digits}`),
  takes: ['whole number', 'decimal', 'number'],
  rank: (mask) => 400 - mask.digits,
  apply: (value, mask) => plain(exact(value).round(mask.digits, halfUp), Math.max(0, mask.digits)),
  sql: (column, mask, { dialect }) => asText(roundSql(column, mask, dialect), Math.max(0, mask.digits), dialect),
  asked: (mask) => ({
    type: 'decimal',
    scale: Math.max(0, mask.digits),
    sql: (column, _, { dialect }) => dialect.decimal(roundSql(column, mask, dialect), Math.max(0, mask.digits)),
  }),
};

const roundSql = (column: Sql, mask: MaskOf<'round'>, dialect: Dialect): Sql =>
  sql`ROUND(${dialect.exact(column)}, ${dialect.number(mask.digits)})`;

/** Without the sign that a rounded -0.001 would keep. */
function plain(amount: Big, scale: number): string {
  return (amount.eq(0) ? new Big(0) : amount).toFixed(scale);
}
