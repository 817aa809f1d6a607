import type { Column } from '../table/catalogue';
import { digitsOf, normaliseTimestamp, wholeNumber } from '../table/value';
import type { ComparedAs } from './check';
import { bound, name, sql, type Sql } from './sql';
import type { IntervalUnit } from './tree';

/** What differs between the databases in the SQL of a condition. */
export interface Dialect {
  name: 'mariadb' | 'postgresql';
  /** A constant bound so that the database reads it as what it is compared as. */
  constant(text: string, as: ComparedAs): Sql;
  /** A column as a side of a comparison; `ordered` when more than sameness is asked. */
  column(column: Sql, as: ComparedAs, ordered: boolean): Sql;
  /** True, false or NULL: whether a column of several choices holds one of these (by their places, from 0). */
  holds(set: Sql, column: Column, places: number[]): Sql;
  moved(date: Sql, count: number, unit: IntervalUnit, as: 'date' | 'moment'): Sql;
  like(column: Sql, pattern: Sql): Sql;
}

const units: Record<IntervalUnit, Sql> = { MINUTE: sql`MINUTE`, HOUR: sql`HOUR`, DAY: sql`DAY`, WEEK: sql`WEEK`, MONTH: sql`MONTH`, YEAR: sql`YEAR` };

export const mariadb: Dialect = {
  name: 'mariadb',
  constant(text, as) {
    switch (as) {
      case 'text':
      case 'choice':
        return bound(text);
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
  // A set is kept as bits, the first choice in the lowest.
  holds: (set, _, places) => sql`((${set} & ${bound(places.reduce((bits, place) => bits | (1n << BigInt(place)), 0n))}) <> 0)`,
  moved: (date, count, unit) => sql`(${date} + INTERVAL ${bound(count)} ${units[unit]})`,
  like: (column, pattern) => sql`(${column} LIKE ${pattern})`,
};

const steps: Record<IntervalUnit, Sql> = { MINUTE: sql`mins`, HOUR: sql`hours`, DAY: sql`days`, WEEK: sql`weeks`, MONTH: sql`months`, YEAR: sql`years` };

export const postgresql: Dialect = {
  name: 'postgresql',
  constant(text, as) {
    switch (as) {
      case 'text':
      case 'choice':
        return sql`CAST(${bound(text)} AS TEXT)`;
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
  column: (column, as, ordered) => (as === 'text' && ordered ? sql`(${column} COLLATE ${name('C')})` : column),
  holds: (set, column, places) => sql`(${set} && CAST(${bound(`{${places.map((place) => JSON.stringify(column.choices![place])).join(',')}}`)} AS TEXT[]))`,
  moved(date, count, unit, as) {
    const moved = sql`(${date} + make_interval(${steps[unit]} => CAST(${bound(count)} AS INTEGER)))`;
    return as === 'date' ? sql`CAST(${moved} AS DATE)` : moved;
  },
  like: (column, pattern) => sql`(${column} LIKE CAST(${pattern} AS TEXT))`,
};

function isTrue(text: string): boolean {
  return text === 'true' || text === '1';
}

function fitsSigned64(number: bigint): boolean {
  return BigInt.asIntN(64, number) === number;
}

/** DECIMAL wide enough for the digits written: exact, and still usable for an index. The type's numbers are computed, not taken from input. */
function castDecimal(text: string): Sql {
  const { before, after } = digitsOf(text);
  const type: Sql = { text: `DECIMAL(${Math.max(before + after, 1)},${after})`, params: [] };
  return sql`CAST(${bound(text)} AS ${type})`;
}
