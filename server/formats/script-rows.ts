import type { ScriptTable, Script, ScriptCell } from '../../core/table/script';
import { counted } from '../../core/text/counted';
import { FileProblem } from './file-problem';
import { unquoted, type Node, type ScriptDialect, tableOf, list, plainName, nameOf, node } from './script-node';

const escapes: Record<string, string> = { n: '\n', r: '\r', t: '\t', 0: '\0', b: '\b', Z: '\u001a' };

/** A quoted text of MariaDB, its escapes read. */
export function textOf(value: unknown): string {
  return unquoted(String(value)).replaceAll(/\\([\s\S])/g, (_, sign: string) => escapes[sign] ?? sign);
}

export function readRows(
  statement: Node,
  line: number,
  dialect: ScriptDialect,
  tables: ScriptTable[],
  zeroIsKept: boolean,
): Script['rows'][number] {
  const table = tableOf(statement.table, line);
  const known = tables.find((each) => each.name === table);
  if (!known) throw new FileProblem(`Line ${line}: rows go into ${table}, which the script hasn't made before.`);
  const columns = statement.columns
    ? list(statement.columns).map((each) => plainName(nameOf(each), line))
    : known.order;
  const missing = columns.find((column) => !known.order.includes(column));
  if (missing !== undefined) throw new FileProblem(`Line ${line}: ${table} has no column ${missing}.`);
  const numbered = known.columns.some((column) => column.name === known.key) ? -1 : columns.indexOf(known.key);
  const values = list(node(statement.values).values).map((row, i) => {
    const cells = list(row.value);
    if (cells.length !== columns.length)
      throw new FileProblem(
        `Line ${line}: row ${i + 1} has ${counted(cells.length, 'value')} for ${counted(columns.length, 'column')}.`,
      );
    return cells.map((cell, c): ScriptCell => {
      switch (cell.type) {
        case 'null':
          return null;
        case 'column_ref':
        case 'default':
          if (nameOf(cell).toUpperCase() === 'DEFAULT') return undefined;
          throw new FileProblem(`Line ${line}: row ${i + 1} holds something other than plain values.`);
        case 'number':
        case 'bigint':
        case 'bool':
          if (zeroIsKept && c === numbered && Number(cell.value) === 0)
            throw new FileProblem(
              `Line ${line}: row ${i + 1} has the number 0 as its key, which can't be kept here. Give it another.`,
            );
          return String(cell.value);
        case 'single_quote_string':
        case 'string':
        case 'double_quote_string': {
          return dialect === 'MariaDB' ? textOf(cell.value) : unquoted(String(cell.value));
        }
        default:
          throw new FileProblem(`Line ${line}: row ${i + 1} holds something other than plain values.`);
      }
    });
  });
  return { table, line, columns, values };
}
