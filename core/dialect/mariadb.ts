import { digitsOf, normaliseTimestamp, wholeNumber, type Value } from '../table/value';
import type { ComparedAs } from '../sql/compared-as';
import { bound, joined, name, or, sql, type Sql, raw } from '../sql/sql';
import type { IntervalUnit } from '../sql/interval-unit';
import type { DateStep, Dialect } from './dialect';

const units: Record<IntervalUnit, Sql> = {
  MINUTE: sql`MINUTE`,
  HOUR: sql`HOUR`,
  DAY: sql`DAY`,
  WEEK: sql`WEEK`,
  MONTH: sql`MONTH`,
  YEAR: sql`YEAR`,
};

export const mariadb: Dialect = {
  name: 'mariadb',
  constant(text, as) {
    switch (as) {
      case 'text':
      case 'choice':
        return bound(text);
      case 'uuid':
        return sql`CAST(${bound(text)} AS UUID)`;
      case 'whole':
        return fitsSigned64(BigInt(text)) ? bound(wholeNumber(text)) : castDecimal(text);
      case 'decimal':
        return castDecimal(text);
      case 'double':
        return bound(Number(text));
      case 'truth':
        return isTrue(text) ? sql`TRUE` : sql`FALSE`;
      case 'date':
        return sql`CAST(${bound(text)} AS DATE)`;
      case 'moment':
        return sql`CAST(${bound(normaliseTimestamp(text) ?? text)} AS DATETIME(6))`;
    }
  },
  // A yes/no column may hold any small number: everything but 0 is yes.
  column: (column, as) => (as === 'truth' ? sql`(${column} <> 0)` : column),
  // By the choices' texts, not the set's bits: the set may be the result of an expression, which is text.
  holds: (set, column, places) =>
    sql`(${joined(
      places.map((place) => sql`FIND_IN_SET(${bound(column.choices![place]!)}, ${set}) > 0`),
      or,
    )})`,
  moved: (date, count, unit) => sql`(${date} + INTERVAL ${bound(count)} ${units[unit]})`,
  like: (column, pattern) => sql`(${column} LIKE ${pattern})`,

  text: (value) => bound(value),
  number: (value) => bound(value),
  value: (value: Value) =>
    typeof value === 'boolean' ? Number(value) : Array.isArray(value) ? value.join(',') : value,
  asText: (value) => sql`CAST(${value} AS CHAR)`,
  exact: (amount) => sql`CAST(${amount} AS DECIMAL(65,30))`,
  decimal: (amount, scale) => sql`CAST(${amount} AS ${plain(`DECIMAL(65,${scale})`)})`,
  replaceAll: (text, pattern, replacement) => sql`REGEXP_REPLACE(${text}, ${bound(pattern)}, ${bound(replacement)})`,
  matches: (text, pattern) => sql`${text} REGEXP ${bound(pattern)}`,
  domainOf: (address) => sql`SUBSTRING_INDEX(${address}, ${bound('@')}, -1)`,
  yearOf: (date) => sql`YEAR(${date})`,
  yearsTo: (birth, day) => sql`TIMESTAMPDIFF(YEAR, ${birth}, CAST(${bound(day)} AS DATE))`,
  dateStep: (date, step) =>
    step === 'quarter'
      ? sql`CONCAT(${formatted(date, '%Y')}, ${bound('-Q')}, QUARTER(${date}))`
      : formatted(date, formats[step]),
  keyedHash: (text, innerKey, outerKey) => {
    const inner = sql`UNHEX(SHA2(CONCAT(UNHEX(${bound(innerKey)}), CONVERT(${text} USING utf8mb4)), 256))`;
    return sql`SHA2(CONCAT(UNHEX(${bound(outerKey)}), ${inner}), 256)`;
  },

  read(column, known) {
    switch (known.read) {
      case undefined:
        return known.nativeType.startsWith('float') ? sql`CAST(${column} AS DOUBLE)` : column;
      case 'uuid':
        return column;
      case 'text':
      case 'items':
      case 'address':
        return sql`CAST(${column} AS CHAR)`;
      case 'bits':
        return known.type === 'yes/no'
          ? sql`(${column} + 0)`
          : sql`LPAD(BIN(${column} + 0), ${bound(known.maxLength ?? 64)}, ${bound('0')})`;
      case 'shape':
        return sql`ST_AsText(${column})`;
      case 'size':
        return sql`CONCAT(OCTET_LENGTH(${column}), CASE OCTET_LENGTH(${column}) WHEN 1 THEN ${bound(' byte')}
          ELSE ${bound(' bytes')} END)`;
    }
  },
  // Beside text the database would read every text as a UUID.
  besideText: (column, known) => (known.read === 'uuid' ? sql`CAST(${column} AS CHAR)` : column),
  choiceOrder: (choice) => sql`(${choice} + 0)`,
  contains: (text, pattern) => sql`${text} LIKE ${bound(pattern)}`,
  same: (a, b) => sql`${a} <=> ${b}`,
  nullsFirst: () => sql``,
  lock: (how) => (how === 'change' ? sql` FOR UPDATE` : sql` LOCK IN SHARE MODE`),
  joinInOrder: sql`STRAIGHT_JOIN`,
  insertNothing: sql`() VALUES ()`,
  jsonRows: (json, columns, alias) => {
    const typed = columns.map(
      (column, i) => sql`, ${column.name} ${jsonType(column.as, column.unsigned)} PATH ${jsonPath(i + 1)}`,
    );
    return sql`JSON_TABLE(${bound(json)}, ${everyRow} COLUMNS (${name('g')} INT PATH
      ${jsonPath(0)}${typed.reduce((list, each) => sql`${list}${each}`, sql``)})) ${alias}`;
  },
  collated: (text, collation) => sql`(${text} COLLATE ${name(collation.replace('utf8mb3', 'utf8mb4'))})`,
  emailKey: (address) =>
    sql`LOWER(TRIM(CONVERT(COALESCE(${address}, ${bound('')}) USING utf8mb4))) COLLATE utf8mb4_bin`,
};

/** Text of our own making, with no value of anyone in it. */
const plain = (text: string): Sql => raw(text);

const formatted = (date: Sql, pattern: string): Sql => sql`DATE_FORMAT(${date}, ${bound(pattern)})`;

/** Weeks are those of ISO 8601-1, so that 2026-01-01 lies in 2026-W01. */
const formats: Record<Exclude<DateStep, 'quarter'>, string> = {
  day: '%Y-%m-%d',
  week: '%x-W%v',
  month: '%Y-%m',
  year: '%Y',
};

/** JSON_TABLE takes no parameters for its paths. */
const everyRow = plain("'$[*]'");
const jsonPath = (place: number): Sql => plain(`'$[${place}]'`);

function jsonType(as: ComparedAs, unsigned: boolean): Sql {
  switch (as) {
    case 'whole':
      return unsigned ? sql`BIGINT UNSIGNED` : sql`BIGINT`;
    case 'decimal':
      return sql`DECIMAL(65,30)`;
    case 'double':
      return sql`DOUBLE`;
    case 'truth':
      return sql`TINYINT`;
    case 'date':
      return sql`DATE`;
    case 'moment':
      return sql`DATETIME(6)`;
    case 'text':
    case 'choice':
    case 'uuid':
      return sql`LONGTEXT`;
  }
}

export function isTrue(text: string): boolean {
  return text === 'true' || text === '1';
}

export function fitsSigned64(number: bigint): boolean {
  return BigInt.asIntN(64, number) === number;
}

/**
 * DECIMAL wide enough for the digits written: exact, and still usable for an index. The type's numbers are computed,
 * not taken from input.
 */
function castDecimal(text: string): Sql {
  const { before, after } = digitsOf(text);
  const type: Sql = raw(`DECIMAL(${Math.max(before + after, 1)},${after})`);
  return sql`CAST(${bound(text)} AS ${type})`;
}
