import { sql, type Sql } from '../sql/sql';
import type { MaskOf, MaskSqlContext, MaskStyle } from './style';

/**
 * Masks of dates. All elements of a date but the year, and all ages over 89, are named in 45 CFR 164.514(b)(2)(i)(C).
 */
export const year: MaskStyle<MaskOf<'year'>> = {
  label: () => 'year shown',
  takes: ['date', 'date and time'],
  rank: () => 500,
  apply: (value) => String(value).slice(0, 4),
  sql: (column, _, { dialect }) => dialect.dateStep(column, 'year'),
  asked: () => ({ type: 'whole number', sql: (column, _, { dialect }) => dialect.yearOf(column) }),
};

export const month: MaskStyle<MaskOf<'month'>> = {
  label: () => 'month shown',
  takes: ['date', 'date and time'],
  rank: () => 450,
  apply: (value) => String(value).slice(0, 7),
  sql: (column, _, { dialect }) => dialect.dateStep(column, 'month'),
  asked: () => ({ type: 'text', sql: (column, _, { dialect }) => dialect.dateStep(column, 'month') }),
};

/** The last age that is told; from here on all are one category. */
const oldest = 90;

const ageSql = (column: Sql, { today, dialect }: MaskSqlContext): Sql =>
  sql`LEAST(GREATEST(${dialect.yearsTo(column, today)}, 0), ${dialect.number(oldest)})`;

/** The age today in full years; ninety and over are one: 45 CFR 164.514(b)(2)(i)(C). */
export const age: MaskStyle<MaskOf<'age'>> = {
  label: () => 'age shown, 90 and over as one',
  takes: ['date'],
  rank: () => 510,
  apply: (value, _, { today }) => {
    const birth = String(value);
    const years = Number(today.slice(0, 4)) - Number(birth.slice(0, 4)) - (today.slice(5) < birth.slice(5) ? 1 : 0);
    return years >= oldest ? `${oldest}+` : String(Math.max(years, 0));
  },
  sql: (column, _, context) =>
    sql`CASE WHEN ${ageSql(column, context)} >= ${context.dialect.number(oldest)} THEN
      ${context.dialect.text(`${oldest}+`)} ELSE ${context.dialect.asText(ageSql(column, context))} END`,
  asked: () => ({ type: 'whole number', sql: (column, _, context) => ageSql(column, context) }),
};
