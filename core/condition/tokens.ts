import { Problem } from '../refusals/problem';

/** Splits the text form of a condition into tokens with their places. */

export type Token =
  | { kind: 'word'; text: string; at: number; end: number }
  | { kind: 'name'; text: string; at: number; end: number }
  | { kind: 'text'; text: string; at: number; end: number }
  | { kind: 'number'; text: string; at: number; end: number }
  | { kind: 'fact'; text: string; at: number; end: number }
  | { kind: 'sign'; text: string; at: number; end: number }
  | { kind: 'end'; text: ''; at: number; end: number };

/** A fault in the text of a condition, with its place counted from 1, as editors do. */
export class ConditionError extends Problem {
  readonly line: number;
  readonly column: number;
  constructor(
    readonly reason: string,
    source: string,
    readonly at: number,
    readonly end = at + 1,
  ) {
    const before = source.slice(0, at).split('\n');
    const line = before.length;
    const column = before.at(-1)!.length + 1;
    super(422, 'condition', `line ${line}, column ${column}: ${reason}`, { line, column, at, end });
    this.line = line;
    this.column = column;
  }
}

const patterns: [Exclude<Token['kind'], 'end'> | 'space', RegExp][] = [
  ['space', /\s+/y],
  ['fact', /:[\p{L}_][\p{L}\p{N}_]*(?:\.(?:[\p{L}_][\p{L}\p{N}_]*|"(?:[^"]|"")+"))*/uy],
  ['word', /[\p{L}_][\p{L}\p{N}_]*/uy],
  ['name', /"(?:[^"]|"")+"/y],
  ['text', /'(?:[^']|'')*'/y],
  ['number', /-?\d+(?:\.\d+)?/y],
  ['sign', /<>|<=|>=|[=<>(),.+-]/y],
];

/** Reads the whole text; throws ConditionError where no token can start. */
export function tokenise(source: string): Token[] {
  const tokens: Token[] = [];
  let at = 0;
  scan: while (at < source.length) {
    for (const [kind, pattern] of patterns) {
      pattern.lastIndex = at;
      const match = pattern.exec(source);
      if (!match) continue;
      const end = at + match[0].length;
      if (kind === 'name') tokens.push({ kind, text: match[0].slice(1, -1).replaceAll('""', '"'), at, end });
      else if (kind === 'text') tokens.push({ kind, text: match[0].slice(1, -1).replaceAll("''", "'"), at, end });
      else if (kind !== 'space') tokens.push({ kind, text: match[0], at, end });
      at = end;
      continue scan;
    }
    const sign = String.fromCodePoint(source.codePointAt(at)!);
    if (sign === "'") throw new ConditionError("this text has no closing quote '", source, at, source.length);
    if (sign === '"') throw new ConditionError('this name has no closing quote "', source, at, source.length);
    throw new ConditionError(`"${sign}" can't stand here`, source, at);
  }
  tokens.push({ kind: 'end', text: '', at: source.length, end: source.length });
  return tokens;
}
