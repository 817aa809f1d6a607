import { parseCondition } from '../condition/parse';
import { printOperand } from '../condition/print';

/**
 * Reads a column path from its text form, the same as in conditions: `well.code`, `"odd name".code`. Null when it is
 * none.
 */
export function readPath(text: string): string[] | null {
  // Plain paths are nearly all there are, and lists read many.
  if (
    /^[A-Za-z_]\w*(\.[A-Za-z_]\w*)*$/.test(text) &&
    !/\b(and|or|not|in|between|like|is|null|true|false|exists|where|interval)\b/i.test(text)
  ) {
    return text.split('.');
  }
  try {
    const { condition } = parseCondition(`${text} IS NULL`);
    return condition.kind === 'null' && condition.left.kind === 'column' ? condition.left.path : null;
  } catch {
    return null;
  }
}

export function printPath(path: string[]): string {
  return printOperand({ kind: 'column', path });
}
