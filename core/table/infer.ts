import { digitsOf, isDate, normaliseTimestamp } from './value';
import type { Column } from './catalogue';

/** Types that a column of a file can become. */
export const fileTypes = ['text', 'long text', 'whole number', 'decimal', 'yes/no', 'date', 'date and time'] as const;
export type FileType = (typeof fileTypes)[number];

/** What a column of a file holds, as far as its values tell, and what a person should look at. */
export interface InferredColumn {
  header: string;
  /** A name for the database made of the header, one of its own in the file. */
  name: string;
  type: FileType;
  nullable: boolean;
  maxLength?: number;
  precision?: number;
  scale?: number;
  samples: string[];
  doubts: string[];
}

const lengths = [20, 40, 80, 160, 255];
const whole = /^-?(0|[1-9]\d{0,17})$/;
const decimal = /^-?(0|[1-9]\d{0,19})\.\d{1,10}$/;

/** Infers a type for each column from all of its values; empty values are none. Nothing that could be read two ways is decided: it stays text, with a doubt. */
export function inferColumns(headers: readonly string[], rows: readonly (readonly string[])[]): InferredColumn[] {
  const taken = new Set<string>();
  return headers.map((header, i) => {
    const values = rows.map((row) => row[i]!).filter((value) => value !== '');
    return { header, name: columnName(header, i, taken), ...inferType(values), nullable: values.length < rows.length, samples: [...new Set(values)].slice(0, 3) };
  });
}

function inferType(values: string[]): Pick<InferredColumn, 'type' | 'maxLength' | 'precision' | 'scale' | 'doubts'> {
  const every = (test: (value: string) => boolean) => values.length > 0 && values.every(test);
  if (every((value) => whole.test(value))) return { type: 'whole number', doubts: [] };
  if (every((value) => whole.test(value) || decimal.test(value))) {
    const digits = values.map(digitsOf);
    const scale = Math.max(...digits.map((each) => each.after));
    return { type: 'decimal', scale, precision: Math.min(65, Math.max(...digits.map((each) => each.before)) + scale + 4), doubts: [] };
  }
  if (every((value) => /^(true|false|yes|no)$/i.test(value))) return { type: 'yes/no', doubts: [] };
  if (every(isDate)) return { type: 'date', doubts: [] };
  if (every((value) => normaliseTimestamp(value) !== null)) return { type: 'date and time', doubts: [] };

  const longest = Math.max(0, ...values.map((value) => [...value].length));
  const maxLength = lengths.find((length) => length >= longest);
  const doubts: string[] = [];
  if (values.length === 0) doubts.push('This column is empty.');
  if (every((value) => /^-?\d+$/.test(value))) doubts.push(values.some((value) => /^-?0\d/.test(value)) ? 'Some numbers begin with 0, which a number would lose; kept as text.' : 'These numbers are too long to be kept as numbers; kept as text.');
  else if (every((value) => /^-?[\d.,' ]*\d$/.test(value))) doubts.push('These look like numbers with commas or spaces, which can be read in more than one way; kept as text.');
  else if (every((value) => /^\d{1,4}[./-]\d{1,2}[./-]\d{1,4}\b/.test(value))) doubts.push('These look like dates, and 3/4 may be a day in March or in April; kept as text.');
  return maxLength === undefined ? { type: 'long text', doubts } : { type: 'text', maxLength, doubts };
}

/** `Well code (new)` becomes `well_code_new`; the same name twice gets a number. */
function columnName(header: string, place: number, taken: Set<string>): string {
  const plain = header.normalize('NFKD').replaceAll(/\p{M}/gu, '').toLowerCase().replaceAll(/[^a-z0-9]+/g, '_').replaceAll(/^_+|_+$/g, '').slice(0, 56);
  const base = plain === '' ? `column_${place + 1}` : /^\d/.test(plain) ? `c_${plain}` : plain;
  let name = base;
  for (let i = 2; taken.has(name); i++) name = `${base}_${i}`;
  taken.add(name);
  return name;
}

/** The column that a planned one becomes, for reading its values. */
export function plannedColumn({ name, type, nullable, maxLength, precision, scale }: Pick<InferredColumn, 'name' | 'type' | 'nullable' | 'maxLength' | 'precision' | 'scale'>): Column {
  const sizes = type === 'text' ? { maxLength: maxLength ?? 255 } : type === 'decimal' ? { precision: precision ?? 20, scale: scale ?? 2 } : type === 'whole number' ? { min: '-9223372036854775808', max: '9223372036854775807' } : {};
  return { name, type, nativeType: type, nullable, hasDefault: false, automatic: false, unique: false, ...sizes };
}
