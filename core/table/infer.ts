import { dateNotations, fromNotation, numberNotations, type Notation } from './notation';
import { drawnColumn, readKind } from './drawn';
import { isDate, normaliseTimestamp } from './value';
import type { Column } from './catalogue';

/** Types that a column of a file can become. */
export const fileTypes = [
  'text',
  'long text',
  'whole number',
  'decimal',
  'yes/no',
  'date',
  'date and time',
  'one choice',
  'e-mail',
  'phone',
  'web address',
] as const;

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
  /** The notation that its values are in, as a person said; our own when absent. */
  notation?: Notation;
  /** Notations that every value could be in. A person must say which; nothing is decided. */
  ask: Notation[];
  samples: string[];
  doubts: string[];
  /** Finer types than `type` that every value fits too. */
  could: FileType[];
  /** The few values that stand in it again and again, in the order in which they came; for one choice. */
  choices?: string[];
}

/**
 * Sizes of text columns where a row is too wide for roomy ones. None is smaller: what has 255 bytes or less can't be
 * stored outside of the row.
 */
const lengths = [80, 160, 255];

/**
 * Characters of all text columns together: MariaDB's rows hold 65,535 bytes (its documentation, InnoDB row formats),
 * four to a character.
 */
const mostCharacters = 15_000;
const whole = /^-?(0|[1-9]\d{0,17})$/;
const decimal = /^-?(0|[1-9]\d{0,19})\.(\d{1,10})$/;
const digitsOnly = /^-?\d+$/;
const dateLike = /^\d{1,4}[./-]\d{1,2}[./-]\d{1,4}\b/;
const numberLike = /^-?[\d.,' ]*\d$/;
const yesNo = /^(true|false|yes|no)$/i;
const kinds = ['e-mail', 'phone', 'web address'] as const;

/** A column of choices has a few values, each short, and each some times over. */
const mostChoices = 24;
const longestChoice = 60;
const timesOver = 4;

/** Gathers what is known of one column, value by value, in little memory. */
class Evidence {
  private filled = 0;
  private empty = 0;
  /** In characters. */
  longest = 0;
  private before = 0;
  private after = 0;
  private zeros = false;
  private threes = true;
  private readonly samples = new Set<string>();
  /** What every value so far could be. */
  private readonly could = { whole: true, decimal: true, yesNo: true, date: true, moment: true, digits: true };
  /** Looks like dates or numbers at the first glance, whatever they turn out to be. */
  private readonly looks = { dates: true, numbers: true };
  private open: Notation[] = [...dateNotations, ...numberNotations];
  /** Some value is not in our own notation. */
  private strange = false;
  private finer: (typeof kinds)[number][] = [...kinds];
  /** By how the database compares them, roughly: capitals and accents aside. */
  private few: Map<string, string> | null = new Map();

  add(value: string, typed = false): void {
    if (value === '') {
      this.empty++;
      return;
    }
    this.filled++;
    if (this.samples.size < 3) this.samples.add(value);
    // A text with no character outside of the basic plane is as long as it says.
    if (value.length > this.longest) this.longest = Math.max(this.longest, [...value].length);
    const { could } = this;
    if (could.whole || could.decimal || could.digits) this.number(value, typed);
    if (could.yesNo && !yesNo.test(value)) could.yesNo = false;
    if (could.moment && !isDate(value)) {
      could.date = false;
      if (normaliseTimestamp(value) === null) could.moment = false;
    }
    if (this.looks.dates && !dateLike.test(value)) this.looks.dates = false;
    if (this.looks.numbers && !numberLike.test(value)) this.looks.numbers = false;
    if (this.finer.length > 0)
      this.finer = this.finer.filter(
        (kind) => 'text' in readKind(kind, value) && (kind !== 'e-mail' || value.includes('.')),
      );
    this.count(value);
    // What is in our own notation can't be meant otherwise.
    if (this.open.length === 0 || typed || isDate(value) || normaliseTimestamp(value) !== null) return;
    this.strange = true;
    this.open = value.length > 40 ? [] : this.open.filter((notation) => fromNotation(notation, value) !== null);
  }

  private count(value: string): void {
    if (!this.few) return;
    const key = value.normalize('NFKD').replaceAll(/\p{M}/gu, '').toLowerCase();
    const known = this.few.get(key);
    if (
      known === undefined &&
      this.few.size < mostChoices &&
      value.length <= longestChoice &&
      value === value.trim() &&
      !value.includes(',')
    )
      this.few.set(key, value);
    else if (known !== value) this.few = null;
  }

  private number(value: string, typed: boolean): void {
    const { could } = this;
    const isWhole = whole.test(value);
    const parts = isWhole ? null : decimal.exec(value);
    if (!isWhole) could.whole = false;
    if (!isWhole && !parts) could.decimal = false;
    if (could.digits && !digitsOnly.test(value)) could.digits = false;
    if (could.digits && /^-?0\d/.test(value)) this.zeros = true;
    if (!could.decimal) return;
    const sign = value.startsWith('-') ? 1 : 0;
    this.before = Math.max(this.before, parts ? parts[1]!.length : value.length - sign);
    this.after = Math.max(this.after, parts ? parts[2]!.length : 0);
    if (typed || !parts || parts[2]!.length !== 3 || parts[1]!.length > 3) this.threes = false;
  }

  result(): Omit<InferredColumn, 'header' | 'name'> {
    const found = { ask: [], ...this.type(), nullable: this.empty > 0, samples: [...this.samples] };
    if (this.filled === 0 || (found.type !== 'text' && found.type !== 'long text')) return { ...found, could: [] };
    const choices = this.few && this.filled >= timesOver * this.few.size ? [...this.few.values()] : undefined;
    const could: FileType[] = [...this.finer, ...(choices ? ['one choice' as const] : [])];
    // An address is told by its form and kept as it is; a phone number would be written anew, and choices close a list:
    // those are offered.
    const sure = this.finer.find((kind) => kind !== 'phone');
    return {
      ...found,
      could,
      ...(choices ? { choices } : {}),
      ...(sure ? { type: sure, maxLength: undefined, ask: [] } : {}),
    };
  }

  private type(): Pick<InferredColumn, 'type' | 'maxLength' | 'precision' | 'scale' | 'doubts'> & { ask?: Notation[] } {
    const { could } = this;
    const some = this.filled > 0;
    if (some && could.whole) return { type: 'whole number', doubts: [] };
    if (some && could.decimal) {
      const sizes = { scale: this.after, precision: Math.min(65, this.before + this.after + 4) };
      if (!this.threes) return { type: 'decimal', ...sizes, doubts: [] };
      return {
        type: 'decimal',
        ...sizes,
        ask: this.open,
        doubts: [
          'Every number has exactly three digits after its point, which could also be a point between ' +
            'thousands. Say which it is.',
        ],
      };
    }
    if (some && could.yesNo) return { type: 'yes/no', doubts: [] };
    if (some && could.date) return { type: 'date', doubts: [] };
    if (some && could.moment) return { type: 'date and time', doubts: [] };

    // Room for what comes later: at least 255, or twice the longest.
    const maxLength = this.longest <= 255 ? Math.max(255, 2 * this.longest) : undefined;
    const doubts: string[] = [];
    let ask: Notation[] = [];
    if (!some) doubts.push('This column is empty.');
    else if (could.digits)
      doubts.push(
        this.zeros
          ? 'Some numbers begin with 0, which a number would lose; kept as text.'
          : 'These numbers are too long to be kept as numbers; kept as text.',
      );
    else if (this.strange && this.open.length > 0) {
      ask = this.open;
      doubts.push(
        dateNotations.includes(ask[0]!)
          ? 'These look like ' +
              `dates${ask.length > 1 ? ', and 3/4 may be a day in March or in April' : ' in another notation'}; ` +
              'kept as text until you choose a date and say how they are written.'
          : 'These look like numbers in another notation; kept as text until you choose a number and say how ' +
              'they are written.',
      );
    } else if (this.looks.dates)
      doubts.push(
        'These look like dates, but not all of them are days of the calendar, written in one way; kept as text.',
      );
    else if (this.looks.numbers)
      doubts.push('These look like numbers, but they are not all written in one way; kept as text.');
    const sized = maxLength === undefined ? { type: 'long text' as const } : { type: 'text' as const, maxLength };
    return { ...sized, ask, doubts };
  }
}

/** What the columns of a file hold, gathered row by row. */
export class FileEvidence {
  private readonly columns: Evidence[];
  rows = 0;

  constructor(private readonly headers: readonly string[]) {
    this.columns = headers.map(() => new Evidence());
  }

  /** `typed` as in the rows of a file. */
  add(row: readonly string[], typed?: readonly boolean[]): void {
    this.rows++;
    for (let i = 0; i < this.columns.length; i++) this.columns[i]!.add(row[i] ?? '', typed?.[i]);
  }

  /**
   * A type for each column that fits all of its values. Nothing that could be read two ways is decided: it stays text,
   * with a doubt.
   */
  result(): InferredColumn[] {
    const taken = new Set<string>();
    const found = this.headers.map((header, i) => ({
      header,
      name: columnName(header, i, taken),
      ...this.columns[i]!.result(),
    }));
    const width = (column: InferredColumn) =>
      column.type === 'long text' ? 0 : (plannedColumn(column).maxLength ?? 0);
    if (found.reduce((sum, column) => sum + width(column), 0) <= mostCharacters) return found;
    let left = mostCharacters;
    return found.map((column, i): InferredColumn => {
      const roomy = width(column);
      if (roomy === 0) return column;
      const tight = column.type === 'text' ? lengths.find((length) => length >= this.columns[i]!.longest)! : roomy;
      left -= tight;
      return left < 0
        ? { ...column, type: 'long text', maxLength: undefined }
        : column.type === 'text'
          ? { ...column, maxLength: tight }
          : column;
    });
  }
}

/** As FileEvidence, of rows that are all there. */
export function inferColumns(headers: readonly string[], rows: readonly (readonly string[])[]): InferredColumn[] {
  const evidence = new FileEvidence(headers);
  for (const row of rows) evidence.add(row);
  return evidence.result();
}

/** `Well code (new)` becomes `well_code_new`; the same name twice gets a number. */
function columnName(header: string, place: number, taken: Set<string>): string {
  const plain = header
    .normalize('NFKD')
    .replaceAll(/\p{M}/gu, '')
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '_')
    .replaceAll(/^_+|_+$/g, '')
    .slice(0, 56);
  const base = plain === '' ? `column_${place + 1}` : /^\d/.test(plain) ? `c_${plain}` : plain;
  let name = base;
  for (let i = 2; taken.has(name); i++) name = `${base}_${i}`;
  taken.add(name);
  return name;
}

/** The column that a planned one becomes, for reading its values. */
export function plannedColumn({
  name,
  type,
  nullable,
  maxLength,
  precision,
  scale,
  choices,
}: Pick<InferredColumn, 'name' | 'type' | 'nullable' | 'maxLength' | 'precision' | 'scale' | 'choices'>): Column {
  return {
    ...drawnColumn({
      name,
      type,
      required: !nullable,
      unique: false,
      initial: null,
      maxLength,
      precision,
      scale,
      choices,
    }),
    nativeType: type,
  };
}
