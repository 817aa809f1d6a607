import type { ComparedAs } from '../sql/compared-as';
import type { Sql, SqlValue } from '../sql/sql';
import type { IntervalUnit } from '../sql/interval-unit';
import type { Column } from '../table/catalogue';
import type { Value } from '../table/value';

/** Steps of the calendar that dates are grouped by. */
export const dateStepNames = ['day', 'week', 'month', 'quarter', 'year'] as const;

export type DateStep = (typeof dateStepNames)[number];

/** What differs between the databases, piece by piece. Every piece means the same in each. */
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

  /** A text or whole number of our own, typed. */
  text(value: string): Sql;
  number(value: number): Sql;
  /** A value of a record as the driver takes it. */
  value(value: Value): SqlValue;
  asText(value: Sql): Sql;
  /** An amount as decimal with 30 digits after the point, or with `scale`. */
  exact(amount: Sql): Sql;
  decimal(amount: Sql, scale: number): Sql;
  /**
   * Each match of a pattern replaced; patterns keep to what both databases and JavaScript read alike. `\1` is the first
   * group.
   */
  replaceAll(text: Sql, pattern: string, replacement: string): Sql;
  matches(text: Sql, pattern: string): Sql;
  /** What follows the last @; the whole text when there is none. */
  domainOf(address: Sql): Sql;
  yearOf(date: Sql): Sql;
  /** Full years from a date of birth to a day. */
  yearsTo(birth: Sql, day: string): Sql;
  dateStep(date: Sql, step: DateStep): Sql;
  /** HMAC-SHA-256 of a text's UTF-8 bytes as hexadecimal digits, from the two padded keys. */
  keyedHash(text: Sql, innerKey: string, outerKey: string): Sql;

  /**
   * A column as it is read: approximate numbers in double precision, since their shorter text would not compare as
   * stored; several choices as texts; what `read` says as the text that it says.
   */
  read(column: Sql, known: Column): Sql;
  /** A value that stands beside masked text in one column of the answer. */
  besideText(column: Sql, known: Column): Sql;
  /** What choices sort by: their order of declaration. */
  choiceOrder(choice: Sql, column: Column): Sql;
  /** Whether a text contains what people look for, whatever the case where the database can. */
  contains(text: Sql, pattern: string): Sql;
  /** Equal, or both NULL. */
  same(a: Sql, b: Sql): Sql;
  /** After a term of ORDER BY that may be NULL: NULL stands before every value. */
  nullsFirst(descending: boolean): Sql;
  /** At the end of a SELECT: keeps the row of `alias` for a change, or from being changed. */
  lock(how: 'change' | 'keep', alias: Sql): Sql;
  /** Joins in the order written, where that can be said. */
  joinInOrder: Sql;
  /** The list of columns and values of an INSERT that sets none. */
  insertNothing: Sql;
  /** A table of rows that travel as JSON arrays: the first item is the whole number `g`, the others as typed. */
  jsonRows(json: string, columns: { name: Sql; as: ComparedAs; unsigned: boolean }[], alias: Sql): Sql;
  /** The collation that makes a text of our own compare as a column of that collation does. */
  collated(text: Sql, collation: string): Sql;
  /** An e-mail address as members are told apart by it: trimmed, in lower case; '' for NULL. */
  emailKey(address: Sql): Sql;
}
