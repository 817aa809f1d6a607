import { bound, sql, type Sql } from '../../core/condition/sql';

/** Steps of the calendar that dates are grouped by; weeks are those of ISO 8601-1, so that 2026-01-01 lies in 2026-W01. */
export const dateStepNames = ['day', 'week', 'month', 'quarter', 'year'] as const;
export type DateStep = (typeof dateStepNames)[number];

const formatted = (date: Sql, pattern: string): Sql => sql`DATE_FORMAT(${date}, ${bound(pattern)})`;

/** The step that a date lies in, as text that sorts in time: 2026-11-23, 2026-W48, 2026-11, 2026-Q4, 2026. */
export const dateSteps: Record<DateStep, (date: Sql) => Sql> = {
  day: (date) => formatted(date, '%Y-%m-%d'),
  week: (date) => formatted(date, '%x-W%v'),
  month: (date) => formatted(date, '%Y-%m'),
  quarter: (date) => sql`CONCAT(${formatted(date, '%Y')}, ${bound('-Q')}, QUARTER(${date}))`,
  year: (date) => formatted(date, '%Y'),
};
