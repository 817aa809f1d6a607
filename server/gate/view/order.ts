import Joi from 'joi';
import type { Dialect } from '../../../core/dialect/dialect';
import { kindOf } from '../../../core/condition/operand-kind';
import { and, joined, or, sql, type Sql } from '../../../core/sql/sql';
import type { Column } from '../../../core/table/catalogue';
import { BadQuestion } from './errors';

/** One term of an ORDER BY whose last terms are the key, so that every row has its own place. */
export interface OrderTerm {
  sql: Sql;
  column: Column;
  descending: boolean;
}

/** The place of a row in the order: the values of its terms. Holds nothing that the row's view doesn't show. */
export type Place = (string | number | null)[];

const placeSchema = Joi.array().items(Joi.string().max(4000).allow(''), Joi.number(), null).max(16);

export function writeCursor(place: unknown[]): string {
  const plain = place.map((value) => (value === null || typeof value === 'number' ? value : String(value)));
  return Buffer.from(JSON.stringify(plain)).toString('base64url');
}

/** Reads a cursor back; throws BadQuestion when it is not one of ours for this order. */
export function readCursor(cursor: string, terms: OrderTerm[]): Place {
  try {
    const { error, value } = placeSchema.validate(JSON.parse(Buffer.from(cursor, 'base64url').toString()), {
      convert: false,
    });
    if (
      !error &&
      (value as Place).length === terms.length &&
      terms.every((term, i) => isReadable(term, (value as Place)[i]!))
    )
      return value as Place;
  } catch {
    // Not JSON: answered below like any other broken cursor.
  }
  throw new BadQuestion('The place to go on from is not known. Start again from the first page.');
}

function isReadable(term: OrderTerm, value: string | number | null): boolean {
  if (value === null) return true;
  const kind = termKind(term);
  if (kind === 'whole') return /^-?\d{1,20}$/.test(String(value));
  if (kind === 'decimal') return /^-?\d{1,40}(\.\d{1,30})?$/.test(String(value));
  if (kind === 'double') return Number.isFinite(Number(value));
  return typeof value === 'string';
}

/** What a term is compared as; choices and yes/no sort by their number. */
function termKind(term: OrderTerm) {
  const kind = kindOf(term.column);
  return kind === 'choice' || kind === 'truth' ? 'whole' : kind;
}

/** Whether lists can be sorted by a column of this type. */
export function isSortable(column: Column): boolean {
  return kindOf(column) !== 'none' && !column.equalityOnly;
}

function valueSql(term: OrderTerm, value: string | number, dialect: Dialect): Sql {
  const kind = termKind(term);
  return dialect.constant(String(value), kind === 'none' ? 'text' : kind);
}

/** The rows behind a place. NULL stands before every value. */
export function behind(terms: OrderTerm[], place: Place, dialect: Dialect): Sql {
  const steps = terms.map((term, i) => {
    const equal = terms.slice(0, i).map((earlier, j) => sameAs(earlier, place[j]!, dialect));
    const later = isBehind(term, place[i]!, dialect);
    return equal.length ? sql`(${joined([...equal, later], and)})` : later;
  });
  return sql`(${joined(steps, or)})`;
}

function sameAs(term: OrderTerm, value: string | number | null, dialect: Dialect): Sql {
  return value === null ? sql`${term.sql} IS NULL` : sql`${term.sql} = ${valueSql(term, value, dialect)}`;
}

function isBehind(term: OrderTerm, value: string | number | null, dialect: Dialect): Sql {
  if (value === null) return term.descending ? sql`FALSE` : sql`${term.sql} IS NOT NULL`;
  if (!term.descending) return sql`${term.sql} > ${valueSql(term, value, dialect)}`;
  const lower = sql`${term.sql} < ${valueSql(term, value, dialect)}`;
  return term.column.nullable ? sql`(${lower} OR ${term.sql} IS NULL)` : lower;
}

export function orderBy(terms: OrderTerm[], dialect: Dialect): Sql {
  const nulls = (term: OrderTerm) => (term.column.nullable ? dialect.nullsFirst(term.descending) : sql``);
  return joined(
    terms.map((term) => sql`${term.sql}${term.descending ? sql` DESC` : sql``}${nulls(term)}`),
    sql`, `,
  );
}

export function reversed(terms: OrderTerm[]): OrderTerm[] {
  return terms.map((term) => ({ ...term, descending: !term.descending }));
}
