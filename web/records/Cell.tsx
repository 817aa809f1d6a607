import type { ColumnType } from '../../core/table/catalogue';
import type { ColumnKind } from '../../core/table/column-kind';
import { plainText } from '../../core/table/plain-text';
import type { Value } from '../../core/table/value';
import { labelOf } from './options';
import { Mark } from '../ui/Mark';
import { hint } from '../ui/hint';

/**
 * A value of a record as people read it, in their own locale. The numbers of what `identifies` are written as they are.
 */
export function cellText(type: ColumnType, value: Value | undefined, identifies = false): string {
  if (value === null || value === undefined) return '';
  // What was typed and is on its way stands as it was typed, also where it will be refused.
  if (isNumeric(type) && typeof value === 'string' && !/^-?\d+(\.\d+)?$/.test(value)) return value;
  switch (type) {
    case 'yes/no':
      return value ? 'Yes' : 'No';
    case 'date':
      return dateText(String(value));
    case 'date and time':
      return `${dateText(String(value).slice(0, 10))}, ${String(value).slice(11, 16)}`;
    case 'whole number':
      return identifies ? String(value) : whole.format(value as number | bigint);
    case 'number':
      return numberText(Number(value));
    case 'decimal':
      return decimalText(String(value));
    case 'several choices':
      return Array.isArray(value) ? value.join(', ') : String(value);
    default:
      return String(value);
  }
}

const dates = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' });

function dateText(text: string): string {
  const date = new Date(`${text}T00:00:00Z`);
  return Number.isNaN(date.getTime()) ? text : dates.format(date);
}

/** Numbers of four digits, which may be years, stay together. */
const whole = new Intl.NumberFormat(undefined, { useGrouping: 'min2' });
const approximate = new Intl.NumberFormat(undefined, { useGrouping: 'min2', maximumFractionDigits: 17 });

/** All its digits; very large and very small ones as powers of ten. */
function numberText(number: number): string {
  const size = Math.abs(number);
  return size === 0 || (size >= 1e-6 && size < 1e15)
    ? approximate.format(String(number) as Intl.StringNumericLiteral)
    : String(number);
}

/** By the number of digits after the point: each is slow to make. */
const decimals = new Map<number, Intl.NumberFormat>();

/** With the locale's separators and exactly the digits that are stored. */
function decimalText(text: string): string {
  const digits = text.split('.')[1]?.length ?? 0;
  let format = decimals.get(digits);
  if (!format) {
    format = new Intl.NumberFormat(undefined, { minimumFractionDigits: digits, maximumFractionDigits: digits });
    decimals.set(digits, format);
  }
  // Given as text, Intl.NumberFormat keeps every digit (ECMA-402, 11th edition, Intl mathematical values).
  return format.format(text as Intl.StringNumericLiteral);
}

export function isNumeric(type: ColumnType): boolean {
  return type === 'whole number' || type === 'decimal' || type === 'number';
}

/** Whether a column's values are amounts, which stand at the right so that their digits stand below each other. */
export function isAmount(column: { type: ColumnType; veiled: boolean; relation?: unknown; labels?: unknown }): boolean {
  return isNumeric(column.type) && !column.veiled && !column.relation && !column.labels;
}

/** What builders noted of a column that shows in its cells. */
export interface CellNotes {
  currency?: string;
  colours?: Record<string, number>;
  identifies?: boolean;
  labels?: Record<string, string>;
  kind?: ColumnKind;
  label?: string;
}

/** One cell; a masked value carries the veil and says so to screen readers. */
export function Cell({
  type,
  value,
  masked,
  notes,
  plain = false,
}: {
  type: ColumnType;
  value: Value | undefined;
  masked: boolean;
  notes?: CellNotes;
  /** Within a link or a button: nothing to press inside. */
  plain?: boolean;
}) {
  if (masked) return <Veiled text={value === null || value === undefined ? '' : String(value)} />;
  const text = labelled(value, notes) ?? cellText(type, value, notes?.identifies);
  if (text === '')
    return (
      <span className="text-soft" aria-label="empty">
        –
      </span>
    );
  const stored = plainText(value);
  const colour = notes?.colours && Object.hasOwn(notes.colours, stored) ? notes.colours[stored] : undefined;
  if (colour !== undefined) return <Mark colour={colour}>{text}</Mark>;
  const address = plain ? null : addressIn(notes?.kind, text);
  if (notes?.kind === 'picture' && !plain && address !== null)
    return (
      // Another picture is another part: the one before would stand there until it has come.
      <img
        key={address}
        src={address}
        alt={notes?.label ?? ''}
        loading="lazy"
        referrerPolicy="no-referrer"
        className="picture"
      />
    );
  if (address !== null)
    return (
      <a href={address} {...(address.startsWith('http') ? { target: '_blank', rel: 'noreferrer' } : {})}>
        {text}
      </a>
    );
  if (type === 'date' || type === 'date and time') return <Moment text={text} />;
  return <>{notes?.currency ? `${text} ${notes.currency}` : text}</>;
}

/** A day stays on one line; its time may go below. */
function Moment({ text }: { text: string }) {
  const time = /, \d\d:\d\d$/.exec(text)?.index ?? text.length;
  return (
    <>
      <span className="whitespace-nowrap">{text.slice(0, time + 1)}</span>
      {text.slice(time + 1)}
    </>
  );
}

/** What a value is called that stands for another, or for each of several. */
function labelled(value: Value | undefined, notes: CellNotes | undefined): string | null {
  if (!notes?.labels || value === null || value === undefined) return null;
  return Array.isArray(value)
    ? value.map((each) => labelOf(notes.labels, each) ?? each).join(', ')
    : labelOf(notes.labels, String(value));
}

/** Where a picture is found by its address; null where the text is none. */
export const pictureAddress = (text: string): string | null => addressIn('picture', text);

/** Where a text leads that is an address by its kind; null for every other, and for what only claims to be one. */
function addressIn(kind: ColumnKind | undefined, text: string): string | null {
  if (kind === 'e-mail') return `mailto:${encodeURIComponent(text).replaceAll('%40', '@')}`;
  if (kind === 'phone') return `tel:${text.replaceAll(/[^+\d]/g, '')}`;
  if (kind !== 'web address' && kind !== 'picture') return null;
  const address = URL.canParse(text) ? new URL(text) : null;
  return address && (address.protocol === 'https:' || address.protocol === 'http:') ? address.href : null;
}

/** In the place of a value whose source can't be reached. */
export function NotNow() {
  return (
    <em
      className="text-soft"
      {...hint("The place that holds this can't be reached. Try again in a few minutes.", true)}
    >
      not available now
    </em>
  );
}

function Veiled({ text }: { text: string }) {
  return (
    <span className="text-ochre border-b border-dotted border-ochre whitespace-nowrap" {...hint('Partly hidden')}>
      <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden className="mr-1 -mt-0.5 inline">
        <circle cx="6" cy="6" r="5" fill="none" stroke="currentColor" />
        <path d="M6 1a5 5 0 0 0 0 10z" fill="currentColor" />
      </svg>
      {text}
      <span className="sr-only"> (partly hidden)</span>
    </span>
  );
}
