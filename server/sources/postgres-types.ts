import type { Column, ColumnType } from '../../core/table/catalogue';

/** By their names in pg_type, domains followed to what they are made of. */
const known: Record<string, ColumnType> = {
  text: 'long text',
  varchar: 'text',
  bpchar: 'text',
  uuid: 'text',
  inet: 'text',
  cidr: 'text',
  macaddr: 'text',
  macaddr8: 'text',
  int2: 'whole number',
  int4: 'whole number',
  int8: 'whole number',
  numeric: 'decimal',
  float4: 'number',
  float8: 'number',
  bool: 'yes/no',
  date: 'date',
  timestamp: 'date and time',
  timestamptz: 'date and time',
  time: 'time',
};
/** Longest texts of what has no length of its own, as PostgreSQL writes them. */
const longest: Record<string, number> = { uuid: 36, inet: 43, cidr: 43, macaddr: 17, macaddr8: 23 };
const bits: Record<string, bigint> = { int2: 16n, int4: 32n, int8: 64n };

/** What a type of PostgreSQL is here: a base type by its name; `isArray` when its values are lists. */
export function postgresType(
  name: string,
  isArray = false,
): Pick<Column, 'type' | 'read' | 'equalityOnly' | 'min' | 'max' | 'maxLength'> {
  if (isArray) return { type: 'other', read: 'items' };
  const type = known[name];
  if (name === 'bytea') return { type: 'other', read: 'size' };
  if (!type) return { type: 'other', read: 'text' };
  const width = bits[name];
  if (width) return { type, min: String(-(1n << (width - 1n))), max: String((1n << (width - 1n)) - 1n) };
  if (name === 'bpchar') return { type, read: 'text' };
  // The texts of addresses and UUIDs have no order that means anything.
  if (longest[name])
    return {
      type,
      read: name === 'uuid' ? 'uuid' : name === 'inet' ? 'address' : 'text',
      equalityOnly: true,
      maxLength: longest[name],
    };
  return { type };
}
