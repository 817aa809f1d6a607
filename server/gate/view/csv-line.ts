import type { Dialect } from '../../../core/dialect/dialect';
import { raw, bound, joined, sql, type Sql } from '../../../core/sql/sql';
import { formulaSigns, needsQuotes, plainNumber } from '../../../core/text/csv-cell';
import type { Column } from '../../../core/table/catalogue';

/** A cell that is shown whole to whoever asks, in every record. */
interface OpenCell {
  value: Sql;
  column: Column;
}

/** How a column's text in the database is the text of its cell: as it is, as a truth, or as it may need a guard. */
type Kind = 'plain' | 'truth' | 'text';

/**
 * A line of CSV (RFC 4180, without its end) that MariaDB puts together, the same to the sign as `csvLine` of the cells
 * as they are decoded: what is done once there is not done a million times here. Null where it would not be the same.
 */
export function csvLineSql(dialect: Dialect, cells: readonly OpenCell[], guard: boolean): Sql | null {
  // One cell alone may be an empty line, which has a writing of its own.
  if (dialect.name !== 'mariadb' || cells.length < 2) return null;
  const parts: Sql[] = [];
  for (const { value, column } of cells) {
    const kind = kindOf(column);
    if (!kind) return null;
    if (parts.length > 0) parts.push(bound(','));
    if (kind === 'text') parts.push(textCell(dialect, asUtf8(dialect, value, column), guard));
    else parts.push(orEmpty(kind === 'truth' ? truthCell(value) : value));
  }
  return concat(parts);
}

function kindOf({ type, nativeType, read, choices }: Column): Kind | null {
  // Zeros before a number, and trailing blanks, are the database's and not the value's.
  if (read !== undefined || /zerofill|^year|^char/.test(nativeType)) return null;
  switch (type) {
    case 'whole number':
    case 'decimal':
    case 'date':
      return 'plain';
    case 'date and time':
      // A fraction's zeros are left out.
      return /^(datetime|timestamp)$/.test(nativeType) ? 'plain' : null;
    case 'yes/no':
      return 'truth';
    case 'one choice':
      return choices?.every(isItself) ? 'plain' : 'text';
    case 'text':
    case 'long text':
      return 'text';
    default:
      return null;
  }
}

const quotes = new RegExp(needsQuotes);
const isItself = (text: string): boolean => !quotes.test(text) && !formulaSigns.some((sign) => text.startsWith(sign));

/**
 * So many signs MariaDB doubles the quotes of; the time it takes grows with the square of them (a tenth of a million:
 * 1.7 s, measured).
 */
const mostDoubled = 500;

/**
 * Written so that what a pattern can't be held against is taken for the worst. NULL, and with it the line, where the
 * database would take too long over it.
 */
function textCell(dialect: Dialect, text: Sql, guard: boolean): Sql {
  const begins = sql`ORD(${text}) IN (${formulaStarts})`;
  const guarded = guard
    ? sql`CASE WHEN NOT (${begins}) OR ${dialect.matches(text, numberAlone)} THEN ${text}
      ELSE ${concat([bound("'"), text])} END`
    : text;
  const doubled = sql`REPLACE(${guarded}, ${bound('"')}, ${bound('""')})`;
  const within = sql`CASE WHEN INSTR(${text}, ${bound('"')}) = ${bound(0)} THEN ${guarded}
    WHEN CHAR_LENGTH(${text}) <= ${bound(mostDoubled)} THEN ${doubled} END`;
  const isBare = sql`NOT (${dialect.matches(text, needsQuotes)})`;
  return sql`CASE WHEN ${text} IS NULL THEN ${bound('')} WHEN ${isBare} THEN ${guarded}
    ELSE ${concat([bound('"'), within, bound('"')])} END`;
}

/** The numbers that MariaDB gives such signs: their bytes in UTF-8. */
const formulaStarts = raw(formulaSigns.map((sign) => Number(`0x${Buffer.from(sign).toString('hex')}`)).join(', '));

/** Whatever a database's own settings say of patterns: of several lines no one alone makes a number. */
const numberAlone = `(?-m)${plainNumber}`;

const asUtf8 = (dialect: Dialect, value: Sql, { collation }: Column): Sql =>
  collation?.startsWith('utf8') ? value : dialect.asText(value);

const truthCell = (value: Sql): Sql =>
  sql`CASE WHEN ${value} <> ${raw('0')} THEN ${bound('true')} WHEN ${value} = ${raw('0')} THEN ${bound('false')} END`;

const orEmpty = (text: Sql): Sql => sql`COALESCE(${text}, ${bound('')})`;

const concat = (parts: readonly Sql[]): Sql => sql`CONCAT(${joined(parts, sql`, `)})`;
