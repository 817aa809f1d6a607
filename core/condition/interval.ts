import type { IntervalUnit } from '../sql/interval-unit';

/**
 * Moves a date (`YYYY-MM-DD`) or moment (`YYYY-MM-DD HH:MM:SS[.f]`) by whole units, as SQL does: a month later than 31
 * January is the last of February. Null when the result leaves the years 1 to 9999, as MariaDB's is.
 */
export function moveBy(text: string, count: number, unit: IntervalUnit): string | null {
  const [year, month, day, hour = 0, minute = 0, second = 0] = text.slice(0, 19).split(/[- :]/).map(Number) as [
    number,
    number,
    number,
    number?,
    number?,
    number?,
  ];
  const months = unit === 'YEAR' ? count * 12 : unit === 'MONTH' ? count : 0;
  const from = year * 12 + (month - 1) + months;
  const [toYear, toMonth] = [Math.floor(from / 12), ((from % 12) + 12) % 12];
  const lastDay = daysIn(toYear, toMonth);
  const moved = new Date(0);
  moved.setUTCFullYear(
    toYear,
    toMonth,
    Math.min(day, lastDay) + (unit === 'DAY' ? count : unit === 'WEEK' ? 7 * count : 0),
  );
  moved.setUTCHours(hour + (unit === 'HOUR' ? count : 0), minute + (unit === 'MINUTE' ? count : 0), second);
  if (Number.isNaN(moved.getTime()) || moved.getUTCFullYear() < 1 || moved.getUTCFullYear() > 9999) return null;
  const iso = moved.toISOString();
  return text.length === 10 ? iso.slice(0, 10) : `${iso.slice(0, 10)} ${iso.slice(11, 19)}${text.slice(19)}`;
}

function daysIn(year: number, month: number): number {
  const last = new Date(0);
  last.setUTCFullYear(year, month + 1, 0);
  return last.getUTCDate();
}
