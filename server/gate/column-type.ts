import type { Sql } from '../../core/condition/sql';
import type { Column } from '../../core/table/catalogue';

/** The type of a new column in the product's own database, where the column's own description is enough to tell it. The sizes are numbers of our own, checked before. */
export function plainType(column: Pick<Column, 'type' | 'maxLength' | 'precision' | 'scale'>): Sql {
  const text = (type: string): Sql => ({ text: type, params: [] });
  switch (column.type) {
    case 'text':
      return text(`VARCHAR(${Number(column.maxLength ?? 255)})`);
    case 'whole number':
      return text('BIGINT');
    case 'decimal':
      return text(`DECIMAL(${Number(column.precision ?? 20)},${Number(column.scale ?? 2)})`);
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
