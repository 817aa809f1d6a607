import { expect, it } from 'vitest';
import { dateStepNames } from './dialect';
import { stepSpan } from './step-span';

it('gives the days of every step, without a gap and without a day twice, weeks as ISO 8601 counts them', () => {
  // Year and week by the rule of ISO 8601: a week belongs to the year of its Thursday.
  const weekOf = (date: Date): string => {
    const thursday = new Date(date);
    thursday.setUTCDate(date.getUTCDate() + 4 - (date.getUTCDay() || 7));
    const first = Date.UTC(thursday.getUTCFullYear(), 0, 1);
    const week = Math.floor((thursday.getTime() - first) / 604_800_000) + 1;
    return `${thursday.getUTCFullYear()}-W${String(week).padStart(2, '0')}`;
  };
  for (let at = Date.UTC(2019, 11, 20); at < Date.UTC(2027, 0, 20); at += 86_400_000) {
    const date = new Date(at);
    const day = date.toISOString().slice(0, 10);
    const names = {
      day,
      week: weekOf(date),
      month: day.slice(0, 7),
      quarter: `${day.slice(0, 4)}-Q${Math.floor(date.getUTCMonth() / 3) + 1}`,
      year: day.slice(0, 4),
    };
    for (const step of dateStepNames) {
      const span = stepSpan(step, names[step])!;
      expect(span.from <= day && day < span.until, `${step} of ${day}`).toBe(true);
    }
  }
  expect(stepSpan('week', '2020-W53')).toEqual({ from: '2020-12-28', until: '2021-01-04' });
  expect(dateStepNames.map((step) => stepSpan(step, 'elsewhere'))).toEqual([null, null, null, null, null]);
});
