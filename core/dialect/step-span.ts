import type { DateStep } from './dialect';

/** The days of a step of the calendar: from the first until the one after the last, in the form of RFC 3339. */
interface Span {
  from: string;
  until: string;
}

const day = (moment: number): string => new Date(moment).toISOString().slice(0, 10);
const dayLong = 86_400_000;

/**
 * What `2024`, `2024-Q1`, `2024-03`, `2024-W05` (ISO 8601 weeks) or `2024-03-01` stands for; null where it is none of
 * the step's forms.
 */
export function stepSpan(step: DateStep, text: string): Span | null {
  const parts = /^(\d{4})(?:-(?:Q([1-4])|W(\d\d)|(\d\d)(?:-(\d\d))?))?$/.exec(text);
  if (!parts) return null;
  const [year, quarter, week, month, date] = parts.slice(1).map((part) => (part === undefined ? null : Number(part)));
  const months = (first: number, count: number): Span => ({
    from: day(Date.UTC(year!, first, 1)),
    until: day(Date.UTC(year!, first + count, 1)),
  });
  switch (step) {
    case 'year':
      return quarter === null && week === null && month === null ? months(0, 12) : null;
    case 'quarter':
      return quarter == null ? null : months((quarter - 1) * 3, 3);
    case 'month':
      return month == null || date != null ? null : months(month - 1, 1);
    case 'week': {
      if (week == null) return null;
      // The week with the year's fourth of January is its first.
      const fourth = Date.UTC(year!, 0, 4);
      const monday = fourth - ((new Date(fourth).getUTCDay() + 6) % 7) * dayLong + (week - 1) * 7 * dayLong;
      return { from: day(monday), until: day(monday + 7 * dayLong) };
    }
    case 'day': {
      if (month == null || date == null) return null;
      const at = Date.UTC(year!, month - 1, date);
      return { from: day(at), until: day(at + dayLong) };
    }
  }
}
