import { comma, joined, sql, type Sql, raw } from '../../../core/sql/sql';
import type { Column } from '../../../core/table/catalogue';
import { BadQuestion } from '../view/errors';

/** A text as a literal: definitions of tables take no parameters. */
export function quoted(text: string): Sql {
  if (text.includes('\0')) throw new BadQuestion("A choice or an initial value holds a character that can't be kept.");
  return raw(`'${text.replaceAll('\\', '\\\\').replaceAll("'", "''")}'`);
}

/**
 * The type of a new column in the product's own database, where the column's own description is enough to tell it. The
 * sizes are numbers of our own, checked before.
 */
export function plainType(column: Pick<Column, 'type' | 'maxLength' | 'precision' | 'scale' | 'choices'>): Sql {
  const text = (type: string): Sql => raw(type);
  switch (column.type) {
    case 'text':
      return text(`VARCHAR(${Number(column.maxLength ?? 255)})`);
    case 'whole number':
      return text('BIGINT');
    case 'decimal':
      return text(`DECIMAL(${Number(column.precision ?? 20)},${Number(column.scale ?? 2)})`);
    case 'one choice':
    case 'several choices':
      return sql`${text(column.type === 'one choice' ? 'ENUM' : 'SET')}
        (${joined((column.choices ?? []).map(quoted), comma)})`;
    case 'yes/no':
      return text('BOOLEAN');
    case 'date':
      return text('DATE');
    case 'date and time':
      return text('DATETIME(6)');
    default:
      return text('LONGTEXT');
  }
}
