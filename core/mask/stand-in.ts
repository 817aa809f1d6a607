import { bound, sql, type Sql } from '../sql/sql';
import type { Dialect } from '../dialect/dialect';
import type { Column } from '../table/catalogue';
import { veil, type MaskOf, type MaskSqlContext, type MaskStyle } from './style';

/**
 * Digits of the hash that are shown: 40 bits, so that among a million values a clash is unlikely but none can be
 * reckoned back.
 */
const shown = 10;
const block = 64;

/**
 * A keyed hash shown short: the same value gives the same stand-in within one portal. HMAC of RFC 2104 section 2 with
 * SHA-256; the database computes H((K ⊕ opad) || H((K ⊕ ipad) || text)) from the two padded keys.
 */
export const standIn: MaskStyle<MaskOf<'stand-in'>> = {
  label: () => 'stand-in shown',
  takes: ['text', 'long text', 'whole number', 'decimal', 'date', 'date and time', 'one choice'],
  rank: () => 960,
  apply: (value, _, { standIn: key }) => (key ? `#${key.hmac(String(value)).slice(0, shown)}` : veil({})),
  sql: (raw, _, context, column) => standInSql(raw, column, context),
  asked: () => ({ type: 'text', equalityOnly: true, sql: standInSql }),
};

function standInSql(raw: Sql, column: Column, { standIn: key, dialect }: MaskSqlContext): Sql {
  if (!key) return dialect.text(veil({}));
  const hash = dialect.keyedHash(textSql(raw, column, dialect), padded(key.key, 0x36), padded(key.key, 0x5c));
  return sql`CONCAT(${dialect.text('#')}, LEFT(${hash}, ${dialect.number(shown)}))`;
}

/** The text that the value has in memory: moments without zeros at the end of their fraction. */
function textSql(raw: Sql, column: Column, dialect: Dialect): Sql {
  const text = dialect.asText(raw);
  if (dialect.name !== 'mariadb' || column.type !== 'date and time' || !column.nativeType.includes('(')) return text;
  return sql`TRIM(TRAILING ${bound('.')} FROM TRIM(TRAILING ${bound('0')} FROM ${text}))`;
}

/** The key with each byte XORed by the pad, filled up to the hash's block, as hexadecimal digits. */
function padded(key: Uint8Array, pad: number): string {
  if (key.length > block) throw new Error(`a key for stand-ins may have ${block} bytes at most`);
  return Array.from({ length: block }, (_, i) => ((key[i] ?? 0) ^ pad).toString(16).padStart(2, '0')).join('');
}
