import type { ColumnType, Column } from '../../core/table/catalogue';

/** What the driver says of a column of an answer. */
export interface ColumnMeta {
  name(): string;
  type: string;
  columnLength: number;
  scale: number;
  flags: number;
  collation: { index: number };
  /** For types that travel as texts, such as `uuid` and `inet6`. */
  dataTypeName?: string;
}

/** The collation of bytes that are nobody's text. */
const binaryCollation = 63;
const carriesText = /CHAR|STRING|BLOB/;

const describedTypes: Record<string, ColumnType> = {
  TINY: 'whole number',
  SMALLINT: 'whole number',
  SHORT: 'whole number',
  MEDIUMINT: 'whole number',
  INT24: 'whole number',
  INT: 'whole number',
  LONG: 'whole number',
  BIGINT: 'whole number',
  LONGLONG: 'whole number',
  YEAR: 'whole number',
  DECIMAL: 'decimal',
  NEWDECIMAL: 'decimal',
  FLOAT: 'number',
  DOUBLE: 'number',
  DATE: 'date',
  NEWDATE: 'date',
  DATETIME: 'date and time',
  TIMESTAMP: 'date and time',
  TIME: 'time',
  VARCHAR: 'text',
  VAR_STRING: 'text',
  STRING: 'text',
  TINY_BLOB: 'text',
  BLOB: 'long text',
  MEDIUM_BLOB: 'long text',
  LONG_BLOB: 'long text',
  ENUM: 'text',
  SET: 'text',
  JSON: 'long text',
};

export function describedColumn(meta: ColumnMeta): Column {
  const isBytes = carriesText.test(meta.type) && meta.collation.index === binaryCollation && !meta.dataTypeName;
  const type =
    (meta.type === 'TINY' || meta.type === 'BIT') && meta.columnLength === 1
      ? 'yes/no'
      : isBytes
        ? 'other'
        : (describedTypes[meta.type] ?? 'other');
  const column: Column = {
    name: meta.name(),
    type,
    nativeType: meta.type.toLowerCase(),
    nullable: (meta.flags & 1) === 0,
    hasDefault: false,
    automatic: false,
    unique: false,
  };
  if (type === 'text' || type === 'long text') column.collation = 'utf8mb4_general_ci';
  if (meta.type === 'BIT') Object.assign(column, { read: 'bits', maxLength: meta.columnLength });
  else if (type === 'other') column.read = isBytes ? 'size' : meta.type === 'GEOMETRY' ? 'shape' : 'text';
  if (type === 'decimal') Object.assign(column, { precision: Math.min(65, meta.columnLength), scale: meta.scale });
  if (type === 'whole number')
    Object.assign(
      column,
      (meta.flags & 32) === 0
        ? { min: '-9223372036854775808', max: '9223372036854775807' }
        : { min: '0', max: '18446744073709551615' },
    );
  return column;
}
