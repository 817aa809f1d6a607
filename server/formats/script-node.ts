import { FileProblem } from './file-problem';

export type ScriptDialect = 'MariaDB' | 'PostgreSQL';

/** The parts of the parser's tree that are read here. */
export interface Node {
  type?: string;
  [part: string]: unknown;
}

export const node = (value: unknown): Node => (value ?? {}) as Node;

export const list = (value: unknown): Node[] =>
  Array.isArray(value) ? (value as Node[]) : value === null || value === undefined ? [] : [value as Node];

export function plainName(name: string, line: number): string {
  const plain = name.toLowerCase();
  if (!/^[a-z][a-z0-9_]{0,55}$/.test(plain))
    throw new FileProblem(`Line ${line}: ${name} is no name for here. Names are lower-case letters, digits and _.`);
  return plain;
}

/** The one table that is named; in a schema of its own it is refused, but for PostgreSQL's usual one. */
export function tableOf(named: unknown, line: number): string {
  const { db, schema, table } = list(named)[0] ?? {};
  const within = String(schema ?? db ?? '').toLowerCase();
  if (within !== '' && within !== 'public')
    throw new FileProblem(
      `Line ${line}: ${within}.${String(table)} names a schema of its own. All that a script makes is made in ` +
        `this portal's; leave ${within} out.`,
    );
  return plainName(String(table ?? ''), line);
}

/** PostgreSQL's parts are expressions, MariaDB's plain texts. */
export function nameOf(value: unknown): string {
  if (typeof value === 'string') return value;
  const { column, expr, value: text } = node(value);
  return column !== undefined ? nameOf(column) : expr !== undefined ? nameOf(expr) : String(text ?? '');
}

/** A quote within a text is written twice. */
export function unquoted(text: string): string {
  return text.replaceAll("''", "'");
}
