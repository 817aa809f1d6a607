import type { DayOrder } from '../../core/table/typed-day';

const numeric = new Intl.DateTimeFormat(undefined, {
  day: '2-digit',
  month: '2-digit',
  year: 'numeric',
  timeZone: 'UTC',
});
const letters: Record<string, string> = { day: 'd', month: 'm', year: 'y' };

/** In which order this person's language writes a day. */
export const dayOrder = ((): DayOrder => {
  const order = numeric
    .formatToParts(0)
    .flatMap(({ type }) => letters[type] ?? [])
    .join('');
  return order === 'dmy' || order === 'mdy' ? order : 'ymd';
})();

/** A day or a moment as this person would type it; what is neither stays as it is. */
export function ownDay(text: string): string {
  const parts = /^(\d{4}-\d\d-\d\d)(?:[ T](\d\d:\d\d)(:\d\d(?:\.\d+)?)?)?$/.exec(text);
  const date = new Date(`${parts?.[1]}T00:00:00Z`);
  if (!parts || Number.isNaN(date.getTime())) return text;
  const seconds = parts[3] === ':00' ? '' : (parts[3] ?? '');
  return `${numeric.format(date)}${parts[2] ? ` ${parts[2]}${seconds}` : ''}`;
}

/** How a day is typed, for someone who wonders. */
export const dayExample = ownDay('2026-11-24');
