import sqlParser from 'node-sql-parser';
import type { DrawnColumn, DrawnTable } from '../../core/table/drawn';
import { FileProblem } from './file-problem';

export type ScriptDialect = 'MariaDB' | 'PostgreSQL';

/** What a script would make: tables in their order, and the rows that go into each, as text in the order of the columns named. */
export interface Script {
  tables: DrawnTable[];
  rows: { table: string; line: number; columns: string[]; values: string[][] }[];
  remarks: string[];
}

/** The parts of the parser's tree that are read here. */
interface Node {
  type?: string;
  [part: string]: unknown;
}
const node = (value: unknown): Node => (value ?? {}) as Node;
const list = (value: unknown): Node[] => (Array.isArray(value) ? (value as Node[]) : value === null || value === undefined ? [] : [value as Node]);

const parser = new sqlParser.Parser();
const longest = 5_000_000;

/** Reads CREATE TABLE and INSERT … VALUES; anything else is refused with its line. */
export function readScript(text: string, dialect: ScriptDialect): Script {
  if (text.length > longest) throw new FileProblem('A script may have 5 MB. Bring the rows as CSV.');
  const script: Script = { tables: [], rows: [], remarks: [] };
  const lines = statementsOf(text, dialect).map((statement) => statement.line);
  for (const [i, statement] of parsed(text, dialect).entries()) {
    const line = lines[i] ?? 1;
    if (statement.type === 'create' && statement.keyword === 'table' && !statement.query_expr && list(statement.create_definitions).length > 0) script.tables.push(readTable(statement, line, script.remarks));
    else if (statement.type === 'insert' && node(statement.values).type === 'values') script.rows.push(readRows(statement, line, dialect, script.tables));
    else if (statement.type === 'create' && statement.keyword === 'table') throw new FileProblem(`Line ${line}: only CREATE TABLE with its columns is taken.`);
    else throw new FileProblem(`Line ${line}: ${String(statement.type ?? 'this').toUpperCase()}${typeof statement.keyword === 'string' ? ` ${statement.keyword.toUpperCase()}` : ''} is not taken. A script may hold CREATE TABLE and INSERT … VALUES.`);
  }
  if (script.tables.length === 0) throw new FileProblem('The script makes no table.');
  return script;
}

/** Each statement with the line on which it begins: the parser doesn't say it of all. Quoted texts, names and comments are passed over. */
function statementsOf(text: string, dialect: ScriptDialect): { line: number; text: string }[] {
  const quote = dialect === 'MariaDB' ? /'(?:[^'\\]|\\[\s\S]|'')*'|"(?:[^"\\]|\\[\s\S]|"")*"|`(?:[^`]|``)*`/ : /'(?:[^']|'')*'|"(?:[^"]|"")*"/;
  const piece = new RegExp(`${quote.source}|--[^\\n]*|/\\*[\\s\\S]*?\\*/|\\n|;|[^\\s]`, 'g');
  const found: { line: number; text: string }[] = [];
  let line = 1;
  let begun = false;
  let from = 0;
  for (const match of text.matchAll(piece)) {
    const [part] = match;
    if (part === ';') begun = false;
    else if (part !== '\n' && !part.startsWith('--') && !part.startsWith('/*') && !begun) {
      begun = true;
      from = match.index;
      found.push({ line, text: '' });
    }
    if (begun) found.at(-1)!.text = text.slice(from, match.index + part.length);
    line += part.split('\n').length - 1;
  }
  return found;
}

function parsed(text: string, dialect: ScriptDialect): Node[] {
  try {
    return list(parser.astify(text, { database: dialect === 'PostgreSQL' ? 'Postgresql' : 'MariaDB' }) as unknown).filter((each) => each.type !== undefined);
  } catch (error) {
    const { location, message } = error as { location?: { start: { line: number; column: number } }; message: string };
    const found = /but (.{1,20}) found/.exec(message)?.[1] ?? 'this';
    throw new FileProblem(location ? `Line ${location.start.line}, column ${location.start.column}: ${found} is not understood there as ${dialect} has it.` : `Line ${culprit(text, dialect)}: this can't be read as ${dialect} has it. A script may hold CREATE TABLE with its columns, and INSERT … VALUES.`);
  }
}

/** The line of the first statement that can't be read by itself. */
function culprit(text: string, dialect: ScriptDialect): number {
  const wrong = statementsOf(text, dialect).find((statement) => {
    try {
      parser.astify(statement.text, { database: dialect === 'PostgreSQL' ? 'Postgresql' : 'MariaDB' });
      return false;
    } catch {
      return true;
    }
  });
  return wrong?.line ?? 1;
}

function plainName(name: string, line: number): string {
  const plain = name.toLowerCase();
  if (!/^[a-z][a-z0-9_]{0,55}$/.test(plain)) throw new FileProblem(`Line ${line}: ${name} is no name for here. Names are lower-case letters, digits and _.`);
  return plain;
}

/** PostgreSQL's parts are expressions, MariaDB's plain texts. */
function nameOf(value: unknown): string {
  if (typeof value === 'string') return value;
  const { column, expr, value: text } = node(value);
  return column !== undefined ? nameOf(column) : expr !== undefined ? nameOf(expr) : String(text ?? '');
}

function readTable(statement: Node, line: number, remarks: string[]): DrawnTable {
  const name = plainName(String(list(statement.table)[0]?.table ?? ''), line);
  const columns: DrawnColumn[] = [];
  let key: string | undefined;
  let automatic = false;
  for (const part of list(statement.create_definitions)) {
    if (part.resource !== 'column') continue;
    const { dataType } = node(part.definition);
    const column = readColumn(part, name, line, remarks);
    columns.push(column);
    if (part.primary_key) key = column.name;
    if (part.auto_increment || /SERIAL/i.test(String(dataType)) || (part.generated && /identity/i.test(JSON.stringify(part.generated)))) {
      automatic = true;
      key ??= column.name;
    }
    const reference = node(part.reference_definition);
    if (reference.table) Object.assign(column, { type: 'relation', to: plainName(String(list(reference.table)[0]?.table ?? ''), line) });
  }
  for (const part of list(statement.create_definitions)) {
    if (part.resource !== 'constraint') continue;
    const named = list(part.definition).map((each) => plainName(nameOf(each), line));
    const of = columns.find((column) => column.name === named[0]);
    const kind = String(part.constraint_type).toLowerCase();
    if (!of || named.length !== 1) {
      if (kind === 'primary key') throw new FileProblem(`Line ${line}: the key of ${name} has ${named.length} columns; one can be taken.`);
      remarks.push(`A ${kind} of ${name} over ${named.length} columns is left out.`);
    } else if (kind === 'primary key') key = of.name;
    else if (kind.startsWith('unique')) of.unique = true;
    else if (kind === 'foreign key') Object.assign(of, { type: 'relation', to: plainName(String(list(node(part.reference_definition).table)[0]?.table ?? ''), line) });
    else remarks.push(`A ${kind} of ${name} is left out.`);
  }
  const isNumber = columns.find((column) => column.name === key)?.type === 'whole number';
  if (automatic && isNumber) return { name, key, columns: columns.filter((column) => column.name !== key), stamps: false };
  if (key === undefined && columns.some((column) => column.name === 'id')) key = 'id';
  const drawn = columns.map((column) => (column.name === key ? { ...column, required: true, unique: false } : column));
  return { name, ...(key === undefined ? {} : { key }), columns: drawn, stamps: false };
}

function readColumn(part: Node, table: string, line: number, remarks: string[]): DrawnColumn {
  const name = plainName(nameOf(node(part.column).column), line);
  const { dataType, length, scale, expr } = node(part.definition) as { dataType?: string; length?: number; scale?: number; expr?: Node };
  const base = { name, required: node(part.nullable).type === 'not null', unique: Boolean(part.unique), initial: initialOf(part) };
  const type = String(dataType).toUpperCase();
  if ((/^(TINYINT|BIT)$/.test(type) && length === 1) || type.startsWith('BOOL')) return { ...base, type: 'yes/no', initial: base.initial === null ? null : /^(1|true)$/i.test(base.initial) ? 'true' : 'false' };
  if (/INT|^(SMALL|BIG)?SERIAL|^YEAR$/.test(type)) return { ...base, type: 'whole number', ...(/SERIAL/.test(type) ? { initial: null, required: true } : {}) };
  if (/^(DECIMAL|NUMERIC|DEC|FIXED)$/.test(type) && ((length ?? 20) > 65 || (scale ?? 0) > 38 || (scale ?? 0) > (length ?? 20))) throw new FileProblem(`Line ${line}: ${table}.${name} has ${length} digits, ${scale ?? 0} of them after the point. At most 65 fit, and 38 after the point.`);
  if (/^(DECIMAL|NUMERIC|DEC|FIXED)$/.test(type)) return { ...base, type: 'decimal', precision: length ?? 20, scale: scale ?? (length === undefined ? 6 : 0) };
  if (/^(DOUBLE|FLOAT|REAL)/.test(type)) {
    remarks.push(`${table}.${name} is ${type}, which rounds; it becomes a decimal with 10 digits after the point.`);
    return { ...base, type: 'decimal', precision: 30, scale: 10 };
  }
  if (/CHAR|^UUID$/.test(type)) return (length ?? 36) > 4000 ? { ...base, type: 'long text', initial: null } : { ...base, type: 'text', maxLength: type === 'UUID' ? 36 : (length ?? 255) };
  if (/TEXT$|^JSONB?$|CLOB/.test(type)) return { ...base, type: 'long text', initial: null };
  if (type === 'DATE') return { ...base, type: 'date', initial: base.initial === 'now' ? 'today' : base.initial };
  if (/^(DATETIME|TIMESTAMP)/.test(type)) return { ...base, type: 'date and time' };
  if (type === 'ENUM' || type === 'SET') return { ...base, type: type === 'ENUM' ? 'one choice' : 'several choices', choices: list(expr?.value).map((each) => unquoted(String(each.value))) };
  throw new FileProblem(`Line ${line}: a column of the type ${type} (${table}.${name}) can't be made here.`);
}

function initialOf(part: Node): string | null {
  const value = node(node(part.default_val).value);
  const text = JSON.stringify(value);
  if (value.type === 'function' || value.type === 'cast') return /current_timestamp|now|current_date|localtime/i.test(text) ? 'now' : null;
  return value.type === undefined || value.type === 'null' ? null : unquoted(String(value.value));
}

/** A quote within a text is written twice. */
function unquoted(text: string): string {
  return text.replaceAll("''", "'");
}

const escapes: Record<string, string> = { n: '\n', r: '\r', t: '\t', 0: '\0', b: '\b', Z: '\u001a' };

function readRows(statement: Node, line: number, dialect: ScriptDialect, tables: DrawnTable[]): Script['rows'][number] {
  const table = plainName(String(list(statement.table)[0]?.table ?? ''), line);
  const known = tables.find((each) => each.name === table);
  if (!known) throw new FileProblem(`Line ${line}: rows go into ${table}, which the script hasn't made before.`);
  const all = [...(known.key !== undefined && !known.columns.some((column) => column.name === known.key) ? [known.key] : []), ...known.columns.map((column) => column.name)];
  const columns = statement.columns ? list(statement.columns).map((each) => plainName(nameOf(each), line)) : all;
  const values = list(node(statement.values).values).map((row, i) => {
    const cells = list(row.value);
    if (cells.length !== columns.length) throw new FileProblem(`Line ${line}: row ${i + 1} has ${cells.length} values for ${columns.length} columns.`);
    return cells.map((cell) => {
      switch (cell.type) {
        case 'null':
          return '';
        case 'number':
        case 'bigint':
        case 'bool':
          return String(cell.value);
        case 'single_quote_string':
        case 'string':
        case 'double_quote_string': {
          const text = unquoted(String(cell.value));
          return dialect === 'MariaDB' ? text.replaceAll(/\\([\s\S])/g, (_, sign: string) => escapes[sign] ?? sign) : text;
        }
        default:
          throw new FileProblem(`Line ${line}: row ${i + 1} holds something other than plain values.`);
      }
    });
  });
  return { table, line, columns, values };
}
