import { bound, sql, type Sql } from '../sql/sql';
import type { Dialect } from '../dialect/dialect';
import type { Value } from '../table/value';
import { characters, signOf, veil, veilOfPart, type MaskOf, type MaskStyle } from './style';

/** Masks that show a part of a text. */
type Ends = { first: number; last: number; separators?: boolean; sign?: MaskOf<'all'>['sign'] };

/** Signs that stand between the parts of numbers and codes. */
const separators = ' ./()+:-';
const notSeparator = /[^ ./()+:-]/gu;
const notSeparatorPattern = `[^${separators}]`;

function keepEnds(value: Value, ends: Ends): string {
  const { first, last, separators: kept } = ends;
  const signs = characters(value);
  // A text that would be shown whole is veiled whole.
  if (signs.length <= first + last) return veilOfPart(ends);
  const middle = signs.slice(first, signs.length - last).join('');
  return (
    signs.slice(0, first).join('') +
    (kept ? middle.replaceAll(notSeparator, signOf(ends)) : veilOfPart(ends)) +
    signs.slice(signs.length - last).join('')
  );
}

function keepEndsSql(raw: Sql, ends: Ends, dialect: Dialect): Sql {
  const { first, last, separators: kept } = ends;
  const column = dialect.asText(raw);
  const length = sql`CHAR_LENGTH(${column})`;
  const middle = sql`SUBSTRING(${column}, ${dialect.number(first + 1)}, ${length} - ${dialect.number(first + last)})`;
  const between = kept ? dialect.replaceAll(middle, notSeparatorPattern, signOf(ends)) : dialect.text(veilOfPart(ends));
  return sql`CASE WHEN ${length} > ${dialect.number(first + last)} THEN CONCAT(LEFT(${column},
    ${dialect.number(first)}), ${between}, RIGHT(${column}, ${dialect.number(last)}))
    ELSE ${dialect.text(veilOfPart(ends))} END`;
}

function endsStyle<S extends 'keep last' | 'keep first' | 'keep both ends'>(
  ends: (mask: MaskOf<S>) => Ends,
  label: (mask: MaskOf<S>) => string,
): MaskStyle<MaskOf<S>> {
  return {
    label,
    takes: ['text', 'long text', 'whole number'],
    rank: (mask) => 900 - 2 * (ends(mask).first + ends(mask).last) - (ends(mask).separators ? 1 : 0),
    apply: (value, mask) => keepEnds(value, ends(mask)),
    sql: (column, mask, { dialect }) => keepEndsSql(column, ends(mask), dialect),
    asked: () => null,
  };
}

export const keepLast = endsStyle<'keep last'>(
  (mask) => ({ ...mask, first: 0, last: mask.count }),
  (mask) => `last ${mask.count} shown`,
);

export const keepFirst = endsStyle<'keep first'>(
  (mask) => ({ ...mask, first: mask.count, last: 0 }),
  (mask) => `first ${mask.count} shown`,
);

export const keepBothEnds = endsStyle<'keep both ends'>(
  (mask) => mask,
  (mask) => `first ${mask.first} and last ${mask.last} shown`,
);

/**
 * At most the first six and the last four digits of a payment card number: PCI DSS v4.0.1, requirement 3.4.1. What has
 * not the 13 to 19 digits of such a number shows nothing.
 */
export const card: MaskStyle<MaskOf<'card'>> = {
  label: (mask) => `first ${mask.first} and last ${mask.last} digits shown`,
  takes: ['text', 'long text', 'whole number'],
  rank: (mask) => 860 - mask.first - mask.last,
  apply: (value, mask) => {
    const digits = String(value).replaceAll(/[^0-9]/g, '');
    return digits.length < 13 || digits.length > 19
      ? veilOfPart(mask)
      : digits.slice(0, mask.first) + veilOfPart(mask) + digits.slice(digits.length - mask.last);
  },
  sql: (column, mask, { dialect }) => {
    const digits = dialect.replaceAll(dialect.asText(column), '[^0-9]', '');
    const veiled = dialect.text(veilOfPart(mask));
    return sql`CASE WHEN CHAR_LENGTH(${digits}) BETWEEN 13
      AND 19 THEN CONCAT(LEFT(${digits}, ${dialect.number(mask.first)}), ${veiled}, RIGHT(${digits},
      ${dialect.number(mask.last)})) ELSE ${veiled} END`;
  },
  asked: () => null,
};

/** The domain of an e-mail address, and its first letter if wanted. What is no address shows nothing. */
export const email: MaskStyle<MaskOf<'e-mail'>> = {
  label: (mask) => (mask.show === 'domain' ? 'domain shown' : 'first letter and domain shown'),
  takes: ['text', 'long text'],
  rank: (mask) => (mask.show === 'domain' ? 945 : 940),
  apply: (value, mask) => {
    const text = String(value);
    const at = text.lastIndexOf('@');
    return at < 1
      ? veil(mask)
      : `${mask.show === 'domain' ? '' : characters(text)[0]!}${signOf(mask).repeat(3)}${text.slice(at)}`;
  },
  sql: (column, mask, { dialect }) => {
    const domain = dialect.domainOf(column);
    const first = mask.show === 'domain' ? dialect.text('') : sql`LEFT(${column}, 1)`;
    return sql`CASE WHEN CHAR_LENGTH(${column}) - CHAR_LENGTH(${domain}) > 1 THEN CONCAT(${first},
      ${dialect.text(`${signOf(mask).repeat(3)}@`)}, ${domain}) ELSE ${dialect.text(veil(mask))} END`;
  },
  asked: () => null,
};

/** The first letter of each word: "R. T." */
export const initials: MaskStyle<MaskOf<'initials'>> = {
  label: () => 'initials shown',
  takes: ['text', 'long text'],
  rank: () => 920,
  apply: (value) =>
    String(value)
      .replaceAll(/([^ \t\r\n])[^ \t\r\n]*[ \t\r\n]*/gu, '$1. ')
      .replaceAll(/^ +| +$/g, ''),
  sql: (column, _, { dialect }) =>
    sql`TRIM(${dialect.replaceAll(column, '([^ \\t\\r\\n])[^ \\t\\r\\n]*[ \\t\\r\\n]*', '\\1. ')})`,
  asked: () => null,
};

/** The first characters of a postcode, which a person may ask by. One that would be shown whole is veiled. */
export const area: MaskStyle<MaskOf<'area'>> = {
  label: (mask) => `first ${mask.count} of the postcode shown`,
  takes: ['text'],
  rank: (mask) => 880 - mask.count,
  apply: (value, mask) => {
    const signs = characters(value);
    return signs.length > mask.count ? signs.slice(0, mask.count).join('') : veil(mask);
  },
  sql: (column, mask, { dialect }) => areaSql(column, mask, dialect),
  asked: (mask) => ({ type: 'text', sql: (raw, _, { dialect }) => areaSql(raw, mask, dialect) }),
};

function areaSql(column: Sql, mask: MaskOf<'area'>, dialect: Dialect): Sql {
  const count = mask.count;
  return sql`CASE WHEN CHAR_LENGTH(${column}) > ${dialect.number(count)} THEN LEFT(${column}, ${dialect.number(count)})
    ELSE ${dialect.text(veil(mask))} END`;
}

/**
 * The three-digit areas where 20,000 people or fewer live, by the census of 2000, as the guidance of the US Department
 * of
 * Health and Human Services on 45 CFR 164.514(b) lists them (written here from memory). A newer list can be given.
 */
const smallZipAreas = [
  '036',
  '059',
  '063',
  '102',
  '203',
  '556',
  '692',
  '790',
  '821',
  '823',
  '830',
  '831',
  '878',
  '879',
  '884',
  '890',
  '893',
];

/** The first three digits of a US ZIP code, 000 for the small areas: 45 CFR 164.514(b)(2)(i)(B). */
export const zipArea: MaskStyle<MaskOf<'ZIP area'>> = {
  label: () => 'first three digits shown',
  takes: ['text'],
  rank: () => 878,
  apply: (value, mask) => {
    const three = String(value).slice(0, 3);
    return /^[0-9]{5}/.test(String(value)) && !(mask.small ?? smallZipAreas).includes(three) ? three : '000';
  },
  sql: (column, mask, { dialect }) => zipSql(column, mask, dialect),
  asked: (mask) => ({ type: 'text', sql: (raw, _, { dialect }) => zipSql(raw, mask, dialect) }),
};

function zipSql(column: Sql, mask: MaskOf<'ZIP area'>, dialect: Dialect): Sql {
  const small = (mask.small ?? smallZipAreas).map((each) => bound(each)).reduce((list, each) => sql`${list}, ${each}`);
  return sql`CASE WHEN ${dialect.matches(column, '^[0-9]{5}')} AND LEFT(${column}, 3) NOT IN (${small}) THEN
    LEFT(${column}, 3) ELSE ${dialect.text('000')} END`;
}
