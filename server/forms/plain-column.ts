import type { Column } from '../../core/table/catalogue';

/** Of a column only what its values are held against, and nothing of where they are. */
export function plainColumn({
  name,
  type,
  nullable,
  maxLength,
  precision,
  scale,
  min,
  max,
  choices,
  kind,
  collation,
  read,
}: Column): Column {
  const own = { maxLength, precision, scale, min, max, choices, kind, collation, read };
  return {
    name,
    type,
    nullable,
    nativeType: '',
    hasDefault: false,
    automatic: false,
    unique: false,
    ...(Object.fromEntries(Object.entries(own).filter(([, value]) => value !== undefined)) as Partial<Column>),
  };
}
