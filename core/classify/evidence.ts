import { isIban, passesLuhn } from '../mask/recognise';
import type { DataClass } from '../definition/definition';
import type { Column } from '../table/catalogue';
import { isDate, type Value } from '../table/value';

/** What the values of a column suggest of its data class, and what speaks for it. */
export interface ClassSuggestion {
  column: string;
  dataClass: DataClass;
  /** What the values are: "e-mail addresses". */
  what: string;
  found: number;
  of: number;
}

interface Kind {
  dataClass: DataClass;
  what: string;
  /** Words in the column's name without which values alone are not enough. */
  named?: RegExp;
  test(value: string): boolean;
}

/** In the order of their certainty: a check digit says more than a shape, a shape more than a name. */
const kinds: Kind[] = [
  { dataClass: 'financial', what: 'account numbers (IBAN, check digits right)', test: isIban },
  {
    dataClass: 'financial',
    what: 'card numbers (check digit right)',
    test: (value) => /^[\d -]{13,23}$/.test(value) && value.replaceAll(/[ -]/g, '').length >= 13 && passesLuhn(value),
  },
  { dataClass: 'contact', what: 'e-mail addresses', test: (value) => /^[^@\s]+@[^@\s]+\.[^@\s]+$/.test(value) },
  // ITU-T E.164: at most fifteen digits, with a plus and the country; and numbers as they are written within one.
  {
    dataClass: 'contact',
    what: 'phone numbers',
    named: /phone|tel|mobile|fax|cell/i,
    test: (value) => /^\+?[\d ()/.-]{6,22}$/.test(value) && value.replaceAll(/\D/g, '').length <= 15,
  },
  {
    dataClass: 'identity',
    what: 'dates that people could be born on',
    named: /birth|born|dob/i,
    test: (value) => isDate(value.slice(0, 10)) && value >= '1900',
  },
  {
    dataClass: 'identity',
    what: 'numbers of a person',
    named: /tax|passport|social|national|licen[cs]e|insurance/i,
    test: (value) => /\d/.test(value),
  },
  {
    dataClass: 'location',
    what: 'coordinates',
    named: /lat|lon|lng|coord/i,
    test: (value) => /^-?\d{1,3}(\.\d+)?$/.test(value) && Math.abs(Number(value)) <= 180,
  },
  {
    dataClass: 'contact',
    what: 'addresses',
    named: /address|street/i,
    test: (value) => /\p{L}/u.test(value) && /\d/.test(value),
  },
  {
    dataClass: 'location',
    what: 'postcodes',
    named: /post.?code|zip|plz/i,
    test: (value) => /^[\p{L}\d -]{3,10}$/u.test(value) && /\d/.test(value),
  },
];

/** Whether a column's name says that it holds something of one person, as a phone number or a postcode. */
export function isPersonalName(name: string): boolean {
  return kinds.some((kind) => kind.named?.test(name));
}

/** So large a share of the values must fit. */
const enough = 0.9;

/** Suggests a data class for a column from a sample of its values; null when nothing speaks for one. */
export function suggestClass(column: Column, values: readonly Value[]): ClassSuggestion | null {
  const filled = values.filter((value) => value !== null && value !== '' && !Array.isArray(value)).map(String);
  if (filled.length === 0 || column.type === 'yes/no' || column.type === 'one choice') return null;
  for (const { dataClass, what, named, test } of kinds) {
    if (named && !named.test(column.name)) continue;
    const found = filled.filter(test).length;
    if (found >= enough * filled.length) return { column: column.name, dataClass, what, found, of: filled.length };
  }
  return null;
}
