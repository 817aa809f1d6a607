import type { ColumnType } from '../table/catalogue';
import type { Operand } from './tree';

/** A constant of a condition from the text that stands for it beside a column of this type. */
export function constantOf(type: ColumnType | undefined, text: string): Operand {
  if (type === 'yes/no' && (text === 'true' || text === 'false')) return { kind: 'boolean', value: text === 'true' };
  const plain = text.trim().replace(',', '.');
  const isNumber = type === 'whole number' || type === 'decimal' || type === 'number';
  if (isNumber && /^-?\d{1,20}(\.\d{1,10})?$/.test(plain)) return { kind: 'number', digits: plain };
  return { kind: 'text', text };
}

/** The text that stands for a constant; null for what is none. */
export function constantText(operand: Operand): string | null {
  switch (operand.kind) {
    case 'text':
      return operand.text;
    case 'number':
      return operand.digits;
    case 'boolean':
      return String(operand.value);
    default:
      return null;
  }
}
