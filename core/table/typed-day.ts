import { isDate, normaliseTimestamp } from './value';

/** The order in which a person writes day, month and year. */
export type DayOrder = 'dmy' | 'mdy' | 'ymd';

/**
 * A day as ISO 8601-1 writes it, from text written so or in the person's own order with `.`, `/`, `-` or spaces
 * between: `24.11.2026`. The year has its four digits. Null when it is no day.
 */
export function readDay(text: string, order: DayOrder): string | null {
  const plain = text.trim();
  if (isDate(plain)) return plain;
  const parts = plain.match(/^(\d{1,4})(?:\s*[./-]\s*|\s+)(\d{1,2})(?:\s*[./-]\s*|\s+)(\d{1,4})\.?$/);
  if (!parts) return null;
  const said = Object.fromEntries([...order].map((part, i) => [part, parts[i + 1]!]));
  if (said.y!.length !== 4) return null;
  const iso = `${said.y}-${said.m!.padStart(2, '0')}-${said.d!.padStart(2, '0')}`;
  return isDate(iso) ? iso : null;
}

/** The same with a time after it: `24.11.2026 09:30` becomes `2026-11-24 09:30:00`; without one it is midnight. */
export function readMoment(text: string, order: DayOrder): string | null {
  const iso = normaliseTimestamp(text);
  if (iso !== null) return iso;
  const parts = /^(.*?)(?:,?\s+(\d{1,2}:\d\d(?::\d\d)?))?$/.exec(text.trim());
  const day = parts && readDay(parts[1]!, order);
  return day ? normaliseTimestamp(`${day} ${(parts[2] ?? '00:00').padStart(5, '0')}`) : null;
}
