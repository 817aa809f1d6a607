import Big from 'big.js';
import type { Column } from './catalogue';
import { readKind } from './drawn';
import { splitChoices } from './split-choices';

/**
 * One cell's value. Whole numbers that fit are numbers and larger ones bigint; decimals, dates and times are text in
 * their exact form (`0.50`, `2026-11-24`, `2026-11-24 09:30:00`, times in UTC); several choices are a list.
 */
export type Value = string | number | bigint | boolean | string[] | null;

export type Row = Record<string, Value>;

/** The result of reading what a person typed: the value, or a sentence that says what is wrong and what to do. */
export type Parsed = { ok: true; value: Value } | { ok: false; problem: string };

const ok = (value: Value): Parsed => ({ ok: true, value });
const bad = (problem: string): Parsed => ({ ok: false, problem });

/**
 * Whether `text` is a day of the Gregorian calendar written as ISO 8601-1 `YYYY-MM-DD`, from year 1000 as MariaDB's
 * DATE holds it.
 */
export function isDate(text: string): boolean {
  if (text.length !== 10 || !/^[1-9]\d{3}-\d\d-\d\d$/.test(text)) return false;
  const [year, month, day] = [Number(text.slice(0, 4)), Number(text.slice(5, 7)), Number(text.slice(8))];
  const leap = year % 4 === 0 && (year % 100 !== 0 || year % 400 === 0);
  return month >= 1 && month <= 12 && day >= 1 && day <= (month === 2 && leap ? 29 : monthDays[month - 1]!);
}

/** Whether `text` is a UUID as RFC 9562, section 4, writes it, in any letter case. */
export function isUuid(text: string): boolean {
  return /^[\da-f]{8}-[\da-f]{4}-[\da-f]{4}-[\da-f]{4}-[\da-f]{12}$/i.test(text);
}

const monthDays = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];

/**
 * `2026-11-24T09:30` and `2026-11-24 09:30:00.5` become `2026-11-24 09:30:00[.5]`; null when it is no date and time.
 */
export function normaliseTimestamp(text: string): string | null {
  const parts = /^(\d{4}-\d\d-\d\d)(?:[T ]([01]\d|2[0-3]):([0-5]\d)(?::([0-5]\d)(\.\d{1,6})?)?)?$/.exec(text.trim());
  if (!parts || !isDate(parts[1]!)) return null;
  const fraction = (parts[5] ?? '').replace(/0+$/, '').replace(/^\.$/, '');
  return `${parts[1]} ${parts[2] ?? '00'}:${parts[3] ?? '00'}:${parts[4] ?? '00'}${fraction}`;
}

/** A whole number as number where that is exact, else bigint. */
export function wholeNumber(text: string): number | bigint {
  const exact = BigInt(text);
  return exact >= BigInt(Number.MIN_SAFE_INTEGER) && exact <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(exact) : exact;
}

/** The number of digits before and after the point of plain decimal text. */
export function digitsOf(text: string): { before: number; after: number } {
  const [before = '', after = ''] = text.replace('-', '').split('.');
  return { before: before.replace(/^0+/, '').length, after: after.length };
}

/**
 * Reads input (JSON or typed text) as a value for `column`, with the limits that the database sets.
 * Empty text is NULL where the column may be empty; text columns that may not be empty keep ''.
 */
export function parseValue(column: Column, input: unknown): Parsed {
  if (input === null || input === undefined || (input === '' && !isText(column))) {
    return column.nullable ? ok(null) : bad('This needs a value.');
  }
  if (input === '' && column.nullable) return ok(null);
  switch (column.type) {
    case 'text':
    case 'long text':
      return parseText(column, input);
    case 'whole number':
      return parseWhole(column, input);
    case 'decimal':
      return parseDecimal(column, input);
    case 'number': {
      const number = typeof input === 'number' ? input : Number(String(input).trim().replace(',', '.'));
      return Number.isFinite(number) ? ok(number) : bad('This is not a number. Write it like 53.41.');
    }
    case 'yes/no':
      if (input === true || input === 1 || input === '1' || input === 'true') return ok(true);
      if (input === false || input === 0 || input === '0' || input === 'false') return ok(false);
      return bad('Choose yes or no.');
    case 'date':
      return typeof input === 'string' && isDate(input.trim())
        ? ok(input.trim())
        : bad('This is not a date. Write it like 2026-11-24.');
    case 'date and time': {
      const time = typeof input === 'string' ? normaliseTimestamp(input) : null;
      return time ? ok(time) : bad('This is not a date and time. Write it like 2026-11-24 09:30.');
    }
    case 'time':
      return typeof input === 'string' && /^([01]\d|2[0-3]):[0-5]\d(:[0-5]\d)?$/.test(input)
        ? ok(input.length === 5 ? `${input}:00` : input)
        : bad('This is not a time. Write it like 09:30.');
    case 'one choice':
      return typeof input === 'string' && column.choices?.includes(input)
        ? ok(input)
        : bad(`Choose one of: ${column.choices?.join(', ')}.`);
    case 'several choices':
      return parseChoices(column, input);
    case 'other':
      return bad(`A value of the type ${column.nativeType} can't be changed here.`);
  }
}

function isText(column: Column): boolean {
  return column.type === 'text' || column.type === 'long text';
}

function parseText(column: Column, input: unknown): Parsed {
  if (typeof input !== 'string') return bad('This must be text.');
  if (column.read === 'uuid')
    return isUuid(input.trim())
      ? ok(input.trim().toLowerCase())
      : bad('This is not a UUID. Write it like 6f1b7a52-0c7e-4d0f-9a54-0d1e2f3a4b5c.');
  // A text has at most as many characters as it has UTF-16 units.
  if (column.maxLength !== undefined && input.length > column.maxLength) {
    const { length } = [...input];
    if (length > column.maxLength) return bad(`This has ${length} characters; ${column.maxLength} fit. Shorten it.`);
  }
  // A NUL or half a surrogate pair would be refused or altered by the database.
  if (input.includes('\0') || !input.isWellFormed())
    return bad("This holds a character that can't be kept. Remove it.");
  if (!column.kind || input === '') return ok(input);
  const read = readKind(column.kind, input);
  return 'text' in read ? ok(read.text) : bad(read.problem);
}

function parseWhole(column: Column, input: unknown): Parsed {
  const text = String(input).trim();
  if (!/^-?\d{1,20}$/.test(text)) return bad('This is not a whole number. Write it in digits, like 12.');
  const number = BigInt(text);
  if ((column.min && number < BigInt(column.min)) || (column.max && number > BigInt(column.max))) {
    return bad(`This must be between ${column.min} and ${column.max}.`);
  }
  return ok(wholeNumber(text));
}

function parseDecimal(column: Column, input: unknown): Parsed {
  const text = String(input).trim().replace(',', '.').replace(/^\+/, '');
  if (!/^-?\d{1,65}(\.\d{1,38})?$/.test(text)) return bad('This is not a number. Write it like 42.5.');
  const { before, after } = digitsOf(text);
  // A decimal without a scale keeps the digits that it was given.
  if (column.scale === undefined) return ok(text);
  const { scale } = column;
  if (after > scale)
    return bad(scale ? `At most ${scale} digits after the point fit.` : 'No digits after the point fit.');
  if (before > (column.precision ?? 65) - scale)
    return bad(`At most ${(column.precision ?? 65) - scale} digits before the point fit.`);
  return ok(new Big(text).toFixed(scale));
}

function parseChoices(column: Column, input: unknown): Parsed {
  const chosen = typeof input === 'string' ? splitChoices(input, column.choices ?? []) : input;
  if (!Array.isArray(chosen)) return bad(`Choose from: ${column.choices?.join(', ')}.`);
  const unknown = chosen.find((choice) => !column.choices?.includes(choice as string));
  if (unknown !== undefined) return bad(`"${String(unknown)}" is not among: ${column.choices?.join(', ')}.`);
  return ok((column.choices ?? []).filter((choice) => chosen.includes(choice)));
}

/**
 * Whether two values of one column are the same to the last byte, for finding what another person has changed
 * meanwhile.
 */
export function sameValue(a: Value, b: Value): boolean {
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((item, i) => item === b[i]);
  return (
    a === b || (typeof a === 'bigint' && String(a) === String(b)) || (typeof b === 'bigint' && String(a) === String(b))
  );
}
