import { parseSql } from '../sql/parse-sql';
import type { DrawnColumn } from '../../core/table/drawn';
import type { ForeignAction, Script, ScriptTable } from '../../core/table/script';
import { FileProblem } from './file-problem';
import { readRows, textOf } from './script-rows';
import { type ScriptDialect, list, node, type Node, tableOf, plainName, nameOf, unquoted } from './script-node';

const longest = 5_000_000;

/** What a dump sets, locks and switches around its rows, and what hurts nothing when it isn't done. */
const passedOver = new RegExp(
  `^(${[
    'SET(?: (?:NAMES|CHARACTER SET|SESSION|GLOBAL))?',
    'LOCK TABLES|UNLOCK TABLES|START TRANSACTION|BEGIN|COMMIT|USE|DROP TABLE IF EXISTS',
    String.raw`SELECT\s+PG_CATALOG\.SET_CONFIG|ALTER TABLE \S+ (?:DISABLE|ENABLE) KEYS`,
  ]
    .join('|')
    .replaceAll(' ', String.raw`\s+`)})\\b`,
  'i',
);

/**
 * Reads CREATE TABLE and INSERT … VALUES, and passes over the lines that a dump has around them; anything else is
 * refused with its line.
 */
export function readScript(text: string, dialect: ScriptDialect): Script {
  if (text.length > longest) throw new FileProblem('A script may have 5 MB. Bring the rows as CSV.');
  const script: Script = { tables: [], rows: [], parentsLater: false, remarks: [] };
  const passed = new Set<string>();
  let zeroIsKept = false;
  for (const { line, text: source } of statementsOf(text, dialect)) {
    // What stands in /*! … */ is a statement to a database of a certain age.
    const plain = source.replace(/^\/\*!\d*\s*/, '').trim();
    const known = passedOver.exec(plain);
    if (known) {
      // Only where it is set: rows may hold such words.
      const sets = /^SET\b/i.test(plain);
      if (sets && /FOREIGN_KEY_CHECKS\s*=\s*(0|OFF)/i.test(plain)) script.parentsLater = true;
      if (sets && /NO_AUTO_VALUE_ON_ZERO/i.test(plain)) zeroIsKept = true;
      passed.add(
        known[1]!
          .replaceAll(/\s+/g, ' ')
          .replace(/^(ALTER TABLE) .*/i, '$1 … KEYS')
          .trim()
          .toUpperCase(),
      );
      continue;
    }
    if (source.startsWith('/*!'))
      throw new FileProblem(
        `Line ${line}: ${plain.split(/\s+/, 2).join(' ').toUpperCase()} is not taken. A script may hold CREATE ` +
          'TABLE and INSERT … VALUES.',
      );
    const [statement] = parsed(source, line, dialect);
    if (statement === undefined) continue;
    if (statement.temporary)
      throw new FileProblem(`Line ${line}: a temporary table is not taken. Leave out TEMPORARY.`);
    if (/ignore/i.test(String(statement.prefix)))
      throw new FileProblem(
        `Line ${line}: INSERT IGNORE is not taken, for it would leave rows out without a word. Leave out IGNORE.`,
      );
    if (
      statement.type === 'create' &&
      statement.keyword === 'table' &&
      !statement.query_expr &&
      list(statement.create_definitions).length > 0
    )
      script.tables.push(readTable(statement, line, script.remarks));
    else if (statement.type === 'insert' && node(statement.values).type === 'values' && !statement.on_duplicate_update)
      script.rows.push(readRows(statement, line, dialect, script.tables, zeroIsKept));
    else if (statement.type === 'insert')
      throw new FileProblem(
        `Line ${line}: ` +
          (statement.on_duplicate_update
            ? '“ON DUPLICATE KEY UPDATE” is not taken, for what comes of it hangs on what is there. Leave it out.'
            : 'INSERT of a “SELECT” is not taken. Write the rows as VALUES.'),
      );
    else if (statement.type === 'create' && statement.keyword === 'table')
      throw new FileProblem(`Line ${line}: only CREATE TABLE with its columns is taken.`);
    else
      throw new FileProblem(
        `Line ${line}: ` +
          `${[statement.type ?? 'this', statement.keyword ?? ''].join(' ').trim().toUpperCase()} ` +
          'is not taken. A script may hold CREATE TABLE and INSERT … VALUES.',
      );
  }
  if (script.tables.length === 0) throw new FileProblem('The script makes no table.');
  if (passed.size > 0) script.remarks.push(`Passed over, as a dump's own lines: ${[...passed].join(', ')}.`);
  return script;
}

/**
 * Each statement with the line on which it begins. Quoted texts, names and comments are passed over, but for those that
 * hold a statement.
 */
function statementsOf(text: string, dialect: ScriptDialect): { line: number; text: string }[] {
  const quote =
    dialect === 'MariaDB'
      ? /'(?:[^'\\]|\\[\s\S]|'')*'|"(?:[^"\\]|\\[\s\S]|"")*"|`(?:[^`]|``)*`/
      : /'(?:[^']|'')*'|"(?:[^"]|"")*"/;
  const piece = new RegExp(`${quote.source}|--[^\\n]*|/\\*[\\s\\S]*?\\*/|\\n|;|[^\\s]`, 'g');
  const found: { line: number; text: string }[] = [];
  let line = 1;
  let begun = false;
  let from = 0;
  for (const match of text.matchAll(piece)) {
    const [part] = match;
    if (part === ';') begun = false;
    else if (part !== '\n' && !part.startsWith('--') && (!part.startsWith('/*') || part.startsWith('/*!')) && !begun) {
      begun = true;
      from = match.index;
      found.push({ line, text: '' });
    }
    if (begun) found.at(-1)!.text = text.slice(from, match.index + part.length);
    line += part.split('\n').length - 1;
  }
  return found;
}

function parsed(text: string, line: number, dialect: ScriptDialect): Node[] {
  try {
    return list(parseSql(text, dialect === 'PostgreSQL' ? 'postgresql' : 'mariadb')).filter(
      (each) => each.type !== undefined,
    );
  } catch (error) {
    const { location } = error as { location?: { start: { line: number; column: number; offset: number } } };
    if (!location)
      throw new FileProblem(
        `Line ${line}: this can't be read as ${dialect} has it. A script may hold CREATE TABLE with its ` +
          'columns, and INSERT … VALUES.',
      );
    const { line: below, column, offset } = location.start;
    // The whole word, also where the parser stopped within it.
    const before = /\w*$/.exec(text.slice(0, offset))![0];
    const word = before + (/^(?:\w+|\S)/.exec(text.slice(offset))?.[0] ?? '');
    throw new FileProblem(
      `Line ${line + below - 1}, column ${column - before.length}: ${word === '' ? 'the end' : `“${word}”`} is ` +
        `not understood there as ${dialect} has it.`,
    );
  }
}

const foreignActions: readonly string[] = ['CASCADE', 'SET NULL', 'RESTRICT', 'NO ACTION'] satisfies ForeignAction[];

function actionsOf(reference: Node, line: number): { onDelete?: ForeignAction; onUpdate?: ForeignAction } {
  const found: { onDelete?: ForeignAction; onUpdate?: ForeignAction } = {};
  for (const each of list(reference.on_action)) {
    const action = String(node(each.value).value).toUpperCase();
    if (!foreignActions.includes(action))
      throw new FileProblem(`Line ${line}: ${String(each.type).toUpperCase()} ${action} is not taken.`);
    found[each.type === 'on delete' ? 'onDelete' : 'onUpdate'] = action as ForeignAction;
  }
  return found;
}

function readTable(statement: Node, line: number, remarks: string[]): ScriptTable {
  const name = tableOf(statement.table, line);
  const columns: DrawnColumn[] = [];
  const extras: Pick<ScriptTable, 'notes' | 'ends' | 'indexes'> = { notes: {}, ends: {}, indexes: [] };
  const lead = (column: DrawnColumn, reference: Node) => {
    Object.assign(column, { type: 'relation', to: tableOf(reference.table, line) });
    extras.ends[column.name] = {
      column: plainName(nameOf(list(reference.definition)[0]) || 'id', line),
      ...actionsOf(reference, line),
    };
  };
  let key: string | undefined;
  let automatic = false;
  for (const part of list(statement.create_definitions)) {
    if (part.resource !== 'column') continue;
    const { dataType } = node(part.definition);
    const column = readColumn(part, name, line, remarks);
    columns.push(column);
    if (part.comment) extras.notes[column.name] = textOf(node(node(part.comment).value).value);
    if (part.primary_key) key = column.name;
    if (
      part.auto_increment ||
      /SERIAL/i.test(String(dataType)) ||
      part.generated_by_default ||
      (part.generated && /identity/i.test(JSON.stringify(part.generated)))
    ) {
      automatic = true;
      key ??= column.name;
    }
    const reference = node(part.reference_definition);
    if (reference.table) lead(column, reference);
  }
  const order = columns.map((column) => column.name);
  for (const part of list(statement.create_definitions)) {
    if (part.resource === 'index') {
      const named = list(part.definition).map((each) => plainName(nameOf(each), line));
      if (
        /^(key|index)$/i.test(String(part.keyword)) &&
        list(part.definition).every((each) => each.type === 'column_ref') &&
        named.every((each) => order.includes(each))
      )
        extras.indexes.push({ unique: false, columns: named });
      else remarks.push(`An index of ${name} over ${named.join(', ')} is left out.`);
    }
    if (part.resource !== 'constraint') continue;
    if (/^check$/i.test(String(part.constraint_type))) {
      remarks.push(leftOut(`A check of ${name}`));
      continue;
    }
    const named = list(part.definition).map((each) => plainName(nameOf(each), line));
    const of = columns.find((column) => column.name === named[0]);
    const kind = String(part.constraint_type).toLowerCase();
    if (kind.startsWith('unique') && named.length > 1 && named.every((each) => order.includes(each)))
      extras.indexes.push({ unique: true, columns: named });
    else if (!of || named.length !== 1) {
      if (kind === 'primary key')
        throw new FileProblem(`Line ${line}: the key of ${name} has ${named.length} columns; one can be taken.`);
      remarks.push(`A ${kind} of ${name} over ${named.length} columns is left out.`);
    } else if (kind === 'primary key') key = of.name;
    else if (kind.startsWith('unique')) of.unique = true;
    else if (kind === 'foreign key') lead(of, node(part.reference_definition));
    else remarks.push(`A ${kind} of ${name} is left out.`);
  }
  for (const option of list(statement.table_options)) {
    if (option.keyword === 'auto_increment') {
      const next = String(option.value);
      if (!/^\d{1,19}$/.test(next) || BigInt(next) > 9_223_372_036_854_775_807n)
        throw new FileProblem(`Line ${line}: ${name} can't go on with the number ${next}.`);
      Object.assign(extras, { next });
    }
    if (option.keyword === 'comment')
      Object.assign(extras, { note: textOf(String(option.value).replace(/^'([\s\S]*)'$/, '$1')) });
  }
  const inIndex = new Set([
    key,
    ...columns.filter((column) => column.unique).map((column) => column.name),
    ...extras.indexes.flatMap((index) => index.columns),
  ]);
  for (const column of columns) {
    if (column.type !== 'long text' || !inIndex.has(column.name)) continue;
    // An index takes no text without an end.
    Object.assign(column, { type: 'text', maxLength: 255 });
    remarks.push(`${name}.${column.name} has an index, so it becomes a text of 255 characters.`);
  }
  const isNumber = columns.find((column) => column.name === key)?.type === 'whole number';
  if (automatic && isNumber)
    return {
      name,
      key: key!,
      columns: columns.filter((column) => column.name !== key),
      stamps: false,
      order,
      ...extras,
    };
  if (key === undefined && columns.some((column) => column.name === 'id')) key = 'id';
  if (key === undefined) remarks.push(`${name} has no key: each record gets a number, id.`);
  const drawn = columns.map((column) => (column.name === key ? { ...column, required: true, unique: false } : column));
  return { name, key: key ?? 'id', columns: drawn, stamps: false, order, ...extras };
}

/** What no table made here holds; the same can be said as a rule of the portal. */
function leftOut(what: string): string {
  return `${what} is left out: nothing here would hold values against it.`;
}

function readColumn(part: Node, table: string, line: number, remarks: string[]): DrawnColumn {
  const name = plainName(nameOf(node(part.column).column), line);
  if (part.generated && !/identity/i.test(JSON.stringify(part.generated)))
    throw new FileProblem(
      `Line ${line}: ${table}.${name} is computed by the database, which can't be made here. Leave it out, or ` +
        'make a saved query that computes it.',
    );
  const preset = node(node(part.default_val).value);
  if ((preset.type === 'function' || preset.type === 'cast') && initialOf(part) === null)
    remarks.push(`The initial value of ${table}.${name} is computed; it is left out.`);
  if (/"on update"/i.test(JSON.stringify(preset)))
    remarks.push(`${table}.${name} isn't set again by the database when its record changes.`);
  if (part.check) remarks.push(leftOut(`The check of ${table}.${name}`));
  const { dataType, length, scale, expr } = node(part.definition) as {
    dataType?: string;
    length?: number;
    scale?: number;
    expr?: Node;
  };
  const base = {
    name,
    required: node(part.nullable).type === 'not null',
    unique: Boolean(part.unique),
    initial: initialOf(part),
  };
  const type = String(dataType).toUpperCase();
  if ((/^(TINYINT|BIT)$/.test(type) && length === 1) || type.startsWith('BOOL'))
    return {
      ...base,
      type: 'yes/no',
      initial: base.initial === null ? null : /^(1|true)$/i.test(base.initial) ? 'true' : 'false',
    };
  if (/INT|^(SMALL|BIG)?SERIAL|^YEAR$/.test(type))
    return { ...base, type: 'whole number', ...(/SERIAL/.test(type) ? { initial: null, required: true } : {}) };
  if (
    /^(DECIMAL|NUMERIC|DEC|FIXED)$/.test(type) &&
    ((length ?? 20) > 65 || (scale ?? 0) > 38 || (scale ?? 0) > (length ?? 20))
  )
    throw new FileProblem(
      `Line ${line}: ${table}.${name} has ${length} digits, ${scale ?? 0} of them after the point. At most 65 ` +
        'fit, and 38 after the point.',
    );
  if (/^(DECIMAL|NUMERIC|DEC|FIXED)$/.test(type))
    return { ...base, type: 'decimal', precision: length ?? 20, scale: scale ?? (length === undefined ? 6 : 0) };
  if (/^(DOUBLE|FLOAT|REAL)/.test(type)) {
    remarks.push(`${table}.${name} is ${type}, which rounds; it becomes a decimal with 10 digits after the point.`);
    return { ...base, type: 'decimal', precision: 30, scale: 10 };
  }
  if (/CHAR|^UUID$/.test(type))
    return (length ?? 36) > 4000
      ? { ...base, type: 'long text', initial: null }
      : { ...base, type: 'text', maxLength: type === 'UUID' ? 36 : (length ?? 255) };
  if (/TEXT$|^JSONB?$|CLOB/.test(type)) return { ...base, type: 'long text', initial: null };
  if (type === 'DATE') return { ...base, type: 'date', initial: base.initial === 'now' ? 'today' : base.initial };
  if (/^(DATETIME|TIMESTAMP)/.test(type)) return { ...base, type: 'date and time' };
  if (type === 'ENUM' || type === 'SET') {
    const choices = list(expr?.value).map((each) => unquoted(String(each.value)));
    // As for a column that is drawn: a comma would divide a choice where several are kept together.
    const wrong =
      type === 'SET'
        ? choices.length > 64
          ? 'more than 64 choices'
          : choices.some((each) => each.includes(',') || each === '')
            ? 'an empty choice, or one with a comma'
            : null
        : null;
    const fault =
      wrong ?? (new Set(choices.map((each) => each.toLowerCase())).size < choices.length ? 'a choice twice' : null);
    if (fault !== null) throw new FileProblem(`Line ${line}: ${table}.${name} has ${fault}.`);
    return { ...base, type: type === 'ENUM' ? 'one choice' : 'several choices', choices };
  }
  throw new FileProblem(`Line ${line}: a column of the type ${type} (${table}.${name}) can't be made here.`);
}

function initialOf(part: Node): string | null {
  const value = node(node(part.default_val).value);
  const text = JSON.stringify(value);
  if (value.type === 'function' || value.type === 'cast')
    return /current_timestamp|now|current_date|localtime/i.test(text) ? 'now' : null;
  return value.type === undefined || value.type === 'null' ? null : unquoted(String(value.value));
}
