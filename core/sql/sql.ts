declare const made: unique symbol;

/**
 * A piece of SQL: its text holds `?` only, the values travel beside it. Nothing but this folder makes one, and only the
 * gate and what it stands on may import it, so whoever else holds a source has nothing to ask it with.
 */
export interface Sql {
  readonly text: string;
  readonly params: readonly SqlValue[];
  readonly [made]: true;
}

export type SqlValue = string | number | bigint | null;

const sqlOf = (text: string, params: readonly SqlValue[]): Sql => ({ text, params }) as unknown as Sql;

/** Words of SQL that are in our own code, or made of numbers of our own; never what somebody sent. */
export const raw = (text: string): Sql => sqlOf(text, []);

/** The same statement with other values in its places. */
export const filled = (statement: Sql, params: readonly SqlValue[]): Sql => sqlOf(statement.text, params);

/** Joins pieces of SQL. Only other pieces may be put in, so that no value can end up in the text. */
export function sql(strings: TemplateStringsArray, ...pieces: Sql[]): Sql {
  let text = strings[0]!;
  const params: SqlValue[] = [];
  pieces.forEach((piece, i) => {
    text += piece.text + strings[i + 1]!;
    params.push(...piece.params);
  });
  return sqlOf(text, params);
}

/** A bound value. */
export function bound(value: SqlValue): Sql {
  return sqlOf('?', [value]);
}

/** A name of the catalogue, quoted as MariaDB does (backtick doubled). */
export function name(identifier: string): Sql {
  if (identifier === '' || identifier.includes('\0')) throw new Error('an identifier may not be empty or hold NUL');
  return sqlOf(`\`${identifier.replaceAll('`', '``')}\``, []);
}

export function joined(pieces: readonly Sql[], separator: Sql): Sql {
  const params: SqlValue[] = [];
  pieces.forEach((piece, i) => {
    if (i > 0) params.push(...separator.params);
    for (const param of piece.params) params.push(param);
  });
  return sqlOf(pieces.map((piece) => piece.text).join(separator.text), params);
}

export const comma = sql`, `;
export const and = sql` AND `;
export const or = sql` OR `;

/**
 * The same statement as PostgreSQL reads it: names in double quotes, parameters numbered. Exact because a statement's
 * text holds neither values nor quotes, only words, names in backticks, and `?`.
 */
export function forPostgres({ text, params }: Sql): { text: string; values: SqlValue[] } {
  let used = 0;
  const rendered = text.replaceAll(/`((?:[^`]|``)*)`|\?/g, (_, identifier: string | undefined) =>
    identifier === undefined ? `$${++used}` : `"${identifier.replaceAll('``', '`').replaceAll('"', '""')}"`,
  );
  return { text: rendered, values: [...params] };
}
