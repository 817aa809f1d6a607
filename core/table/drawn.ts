import type { Column } from './catalogue';
import { type ColumnKind, columnKinds } from './column-kind';

/**
 * What a column that people draw can hold. Stored as the database's nearest type; the finer meaning is noted in the
 * definition.
 */
export const drawnTypes = [
  'text',
  'long text',
  'whole number',
  'decimal',
  'money',
  'yes/no',
  'date',
  'date and time',
  'one choice',
  'several choices',
  'e-mail',
  'phone',
  'web address',
  'picture',
  'file',
  'relation',
] as const;

export type DrawnType = (typeof drawnTypes)[number];

/** A column as a builder draws it. */
export interface DrawnColumn {
  name: string;
  type: DrawnType;
  required: boolean;
  unique: boolean;
  /** In the form that the column's values are typed in; null for none. */
  initial: string | null;
  maxLength?: number;
  /** Digits in all and after the point, for decimals. */
  precision?: number;
  scale?: number;
  /** In the order in which they sort. */
  choices?: string[];
  /** ISO 4217. */
  currency?: string;
  /** The table whose records a relation leads to. */
  to?: string;
}

/**
 * Ids that the database makes: numbers one after another, 32 random digits that nobody guesses, or a short form of a
 * column's text for the address (`harrow-end`).
 */
export type DrawnIds = { kind: 'number' | 'random' } | { kind: 'short'; of: string };

export interface DrawnTable {
  name: string;
  columns: DrawnColumn[];
  /**
   * The column that is the key: one of those drawn, or else an id that the database gives each record. `id` when
   * absent.
   */
  key?: string;
  /** What the database gives each record as its id; a number when absent. */
  ids?: DrawnIds;
  /** Whether the database notes when a record was made and last changed. */
  stamps: boolean;
}

export const stampColumns = { made: 'made_at', changed: 'changed_at' } as const;

/** The finer meaning of a drawn type; undefined where it has none. */
export function kindOfDrawn(type: DrawnType): ColumnKind | undefined {
  return (columnKinds as readonly string[]).includes(type) ? (type as ColumnKind) : undefined;
}

/** The column that a drawn one becomes, for reading its values. */
export function drawnColumn(drawn: DrawnColumn): Column {
  const base = {
    name: drawn.name,
    nativeType: drawn.type,
    nullable: !drawn.required,
    hasDefault: drawn.initial !== null,
    automatic: false,
    unique: drawn.unique,
  };
  switch (drawn.type) {
    case 'text':
      return { ...base, type: 'text', maxLength: drawn.maxLength ?? 255 };
    case 'e-mail':
      return { ...base, type: 'text', kind: 'e-mail', maxLength: 254 };
    case 'phone':
      return { ...base, type: 'text', kind: 'phone', maxLength: 20 };
    case 'web address':
    case 'picture':
      return { ...base, type: 'text', kind: drawn.type, maxLength: 2000 };
    case 'file':
      return { ...base, type: 'text', kind: 'file', maxLength: 32 };
    case 'whole number':
    case 'relation':
      return { ...base, type: 'whole number', min: '-9223372036854775808', max: '9223372036854775807' };
    case 'decimal':
      return { ...base, type: 'decimal', precision: drawn.precision ?? 20, scale: drawn.scale ?? 2 };
    case 'money':
      return { ...base, type: 'decimal', kind: 'money', precision: 18, scale: 2 };
    case 'one choice':
    case 'several choices':
      return { ...base, type: drawn.type, choices: drawn.choices ?? [] };
    default:
      return { ...base, type: drawn.type };
  }
}

// The HTML standard's valid e-mail address, which is what browsers take.
const domainLabel = '[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?';
const email = new RegExp(`^[a-zA-Z0-9.!#$%&'*+/=?^_\`{|}~-]+@${domainLabel}(?:\\.${domainLabel})*$`);

/** Reads text as what its column is for; gives the text as it is kept, or what is wrong. */
export function readKind(kind: ColumnKind, text: string): { text: string } | { problem: string } {
  switch (kind) {
    case 'e-mail': {
      const address = text.trim();
      return email.test(address)
        ? { text: address }
        : { problem: 'This is not an e-mail address. Write it like ada@example.org.' };
    }
    case 'phone': {
      // ITU-T E.164: a plus, the country's digits and the number, 15 digits at most.
      const number = text.replaceAll(/[\s().\-/]/g, '').replace(/^00/, '+');
      return /^\+[1-9]\d{6,14}$/.test(number)
        ? { text: number }
        : { problem: 'This is not a phone number with its country. Write it like +44 20 7946 0958.' };
    }
    case 'web address':
    case 'picture':
      return /^https?:\/\/[^\s/?#]+\.?[^\s]*$/i.test(text.trim()) && URL.canParse(text.trim())
        ? { text: text.trim() }
        : { problem: 'This is not a web address. Write it like https://example.org.' };
    case 'file':
      return /^[0-9a-f]{32}$/.test(text) ? { text } : { problem: 'Choose a file and send it.' };
    case 'money':
      return { text };
  }
}
