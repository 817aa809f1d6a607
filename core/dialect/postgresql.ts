import { normaliseTimestamp, type Value } from '../table/value';
import type { ComparedAs } from '../sql/compared-as';
import { bound, name, sql, type Sql, raw } from '../sql/sql';
import type { IntervalUnit } from '../sql/interval-unit';
import type { DateStep, Dialect } from './dialect';
import { fitsSigned64, isTrue } from './mariadb';

const steps: Record<IntervalUnit, Sql> = {
  MINUTE: sql`mins`,
  HOUR: sql`hours`,
  DAY: sql`days`,
  WEEK: sql`weeks`,
  MONTH: sql`months`,
  YEAR: sql`years`,
};

export const postgresql: Dialect = {
  name: 'postgresql',
  constant(text, as) {
    switch (as) {
      case 'text':
      case 'choice':
        return sql`CAST(${bound(text)} AS TEXT)`;
      case 'uuid':
        return sql`CAST(${bound(text)} AS UUID)`;
      case 'whole':
        return fitsSigned64(BigInt(text)) ? sql`CAST(${bound(text)} AS BIGINT)` : sql`CAST(${bound(text)} AS NUMERIC)`;
      case 'decimal':
        return sql`CAST(${bound(text)} AS NUMERIC)`;
      case 'double':
        return sql`CAST(${bound(text)} AS DOUBLE PRECISION)`;
      case 'truth':
        return isTrue(text) ? sql`TRUE` : sql`FALSE`;
      case 'date':
        return sql`CAST(${bound(text)} AS DATE)`;
      case 'moment':
        return sql`CAST(${bound(normaliseTimestamp(text) ?? text)} AS TIMESTAMP)`;
    }
  },
  // The order of a database's own collation is not known in memory; that of C is.
  // Choices are compared by their text: an enumeration takes no text that isn't one of it.
  column: (column, as, ordered) =>
    as === 'choice'
      ? sql`CAST(${column} AS TEXT)`
      : as === 'text' && ordered
        ? sql`(${column} COLLATE ${name('C')})`
        : column,
  holds: (set, column, places) =>
    sql`(${set} && CAST(${bound(arrayText(places.map((place) => column.choices![place]!)))} AS TEXT[]))`,
  moved(date, count, unit, as) {
    const moved = sql`(${date} + make_interval(${steps[unit]} => CAST(${bound(count)} AS INTEGER)))`;
    return as === 'date' ? sql`CAST(${moved} AS DATE)` : moved;
  },
  like: (column, pattern) => sql`(${column} LIKE CAST(${pattern} AS TEXT))`,

  text,
  number: (value) => sql`CAST(${bound(value)} AS INTEGER)`,
  value: (value: Value) =>
    typeof value === 'boolean' ? String(value) : Array.isArray(value) ? arrayText(value) : value,
  asText: (value) => sql`CAST(${value} AS TEXT)`,
  exact: (amount) => sql`ROUND(CAST(${amount} AS NUMERIC), 30)`,
  decimal: (amount, scale) => sql`ROUND(CAST(${amount} AS NUMERIC), ${raw(String(scale))})`,
  replaceAll: (value, pattern, replacement) =>
    sql`regexp_replace(${value}, ${text(pattern)}, ${text(replacement)}, ${text('g')})`,
  matches: (value, pattern) => sql`${value} ~ ${text(pattern)}`,
  domainOf: (address) => sql`regexp_replace(${address}, ${text('^.*@')}, ${text('')})`,
  yearOf: (date) => sql`CAST(EXTRACT(YEAR FROM ${date}) AS INTEGER)`,
  yearsTo: (birth, day) => sql`CAST(EXTRACT(YEAR FROM age(CAST(${bound(day)} AS DATE), ${birth})) AS INTEGER)`,
  dateStep: (date, step) => sql`to_char(${date}, ${text(formats[step])})`,
  keyedHash: (value, innerKey, outerKey) => {
    const inner = sql`sha256(decode(${text(innerKey)}, ${text('hex')}) || convert_to(${value}, ${text('UTF8')}))`;
    return sql`encode(sha256(decode(${text(outerKey)}, ${text('hex')}) || ${inner}), ${text('hex')})`;
  },

  read(column, known) {
    switch (known.read) {
      case undefined:
        return known.nativeType === 'real'
          ? sql`CAST(${column} AS DOUBLE PRECISION)`
          : known.type === 'several choices'
            ? sql`CAST(${column} AS TEXT[])`
            : column;
      case 'uuid':
        return column;
      case 'text':
      case 'bits':
      case 'shape':
        return sql`CAST(${column} AS TEXT)`;
      case 'items':
        return sql`array_to_string(${column}, ${text(', ')}, ${text('–')})`;
      case 'address':
        return sql`abbrev(${column})`;
      case 'size':
        return sql`(CAST(octet_length(${column}) AS TEXT) || CASE octet_length(${column}) WHEN 1 THEN ${text(' byte')}
          ELSE ${text(' bytes')} END)`;
    }
  },
  besideText: (column, known) =>
    known.type === 'several choices' ? sql`array_to_string(${column}, ${text(',')})` : sql`CAST(${column} AS TEXT)`,
  choiceOrder: (choice, column) =>
    sql`array_position(CAST(${bound(arrayText(column.choices ?? []))} AS TEXT[]), CAST(${choice} AS TEXT))`,
  contains: (value, pattern) => sql`CAST(${value} AS TEXT) ILIKE ${text(pattern)}`,
  same: (a, b) => sql`${a} IS NOT DISTINCT FROM ${b}`,
  nullsFirst: (descending) => (descending ? sql` NULLS LAST` : sql` NULLS FIRST`),
  lock: (how, alias) => (how === 'change' ? sql` FOR UPDATE OF ${alias}` : sql` FOR SHARE OF ${alias}`),
  joinInOrder: sql`JOIN`,
  insertNothing: sql`DEFAULT VALUES`,
  jsonRows: (json, columns, alias) => {
    const item = (place: number): Sql => sql`(e ->> ${raw(String(place))})`;
    const typed = columns.map((column, i) => sql`, CAST(${item(i + 1)} AS ${jsonType(column.as)}) AS ${column.name}`);
    return sql`(SELECT CAST(${item(0)} AS INTEGER) AS
      ${name('g')}${typed.reduce((list, each) => sql`${list}${each}`, sql``)}
      FROM json_array_elements(CAST(${bound(json)} AS JSON)) e) ${alias}`;
  },
  collated: (value) => value,
  emailKey: (address) => sql`lower(trim(COALESCE(${address}, ${text('')})))`,
};

function text(value: string): Sql {
  return sql`CAST(${bound(value)} AS TEXT)`;
}

/** Weeks are those of ISO 8601-1, so that 2026-01-01 lies in 2026-W01. */
const formats: Record<DateStep, string> = {
  day: 'YYYY-MM-DD',
  week: 'IYYY-"W"IW',
  month: 'YYYY-MM',
  quarter: 'YYYY-"Q"Q',
  year: 'YYYY',
};

/** An array as PostgreSQL reads it from text. */
function arrayText(items: readonly string[]): string {
  return `{${items.map((item) => JSON.stringify(item)).join(',')}}`;
}

function jsonType(as: ComparedAs): Sql {
  switch (as) {
    case 'whole':
    case 'decimal':
      return sql`NUMERIC`;
    case 'double':
      return sql`DOUBLE PRECISION`;
    case 'truth':
      return sql`BOOLEAN`;
    case 'date':
      return sql`DATE`;
    case 'moment':
      return sql`TIMESTAMP`;
    case 'text':
    case 'choice':
      return sql`TEXT`;
    case 'uuid':
      return sql`UUID`;
  }
}
