import { ConditionError, tokenise, type Token } from './tokens';
import type { ColumnOperand, Comparison, Condition, Operand, ShiftedOperand } from './tree';
import { intervalUnits, type IntervalUnit } from '../sql/interval-unit';

/** Words of the language: a column of that name is written in double quotes. */
export const reserved = new Set([
  'AND',
  'OR',
  'NOT',
  'IN',
  'BETWEEN',
  'LIKE',
  'IS',
  'NULL',
  'TRUE',
  'FALSE',
  'EXISTS',
  'WHERE',
  'INTERVAL',
]);

const comparisons = new Set(['=', '<>', '<', '<=', '>', '>=']);
const deepest = 60;
const longest = 20_000;

export interface ParsedCondition {
  condition: Condition;
  /**
   * Where each operand, and each relation after EXISTS, stands in the text: for errors found later against the
   * catalogue.
   */
  spans: Map<Operand | Condition, { at: number; end: number }>;
}

/** Reads the text form of a condition: a subset of the search condition of ISO/IEC 9075-2. Throws ConditionError. */
export function parseCondition(source: string): ParsedCondition {
  if (source.length > longest)
    throw new ConditionError(`a condition may have ${longest} characters at most`, source, longest);
  return new Parser(source).whole();
}

class Parser {
  private readonly tokens: Token[];
  private position = 0;
  private depth = 0;
  private readonly spans: ParsedCondition['spans'] = new Map();
  /** The relation whose records the innermost EXISTS is about; its name may stand before their columns. */
  private inside: string | null = null;

  constructor(private readonly source: string) {
    this.tokens = tokenise(source);
  }

  whole(): ParsedCondition {
    const condition = this.group('any');
    if (this.next.kind !== 'end') {
      this.fail(
        this.isSign(')') ? 'this ")" closes nothing' : `expected AND, OR or the end, not ${this.shown(this.next)}`,
      );
    }
    return { condition, spans: this.spans };
  }

  private group(kind: 'all' | 'any'): Condition {
    const parts = [kind === 'any' ? this.group('all') : this.negation()];
    while (this.takeWord(kind === 'any' ? 'OR' : 'AND'))
      parts.push(kind === 'any' ? this.group('all') : this.negation());
    return parts.length === 1 ? parts[0]! : { kind, parts };
  }

  private negation(): Condition {
    if (++this.depth > deepest) this.fail(`a condition may be nested ${deepest} deep at most`);
    try {
      if (this.takeWord('NOT')) return { kind: 'not', part: this.negation() };
      if (!this.takeSign('(')) return this.predicate();
      const inside = this.group('any');
      this.needSign(')');
      return inside;
    } finally {
      this.depth--;
    }
  }

  private predicate(): Condition {
    if (this.takeWord('EXISTS')) return this.exists();
    const left = this.operand();
    const token = this.next;
    if (token.kind === 'sign' && comparisons.has(token.text)) {
      this.position++;
      return { kind: 'compare', left, comparison: token.text as Comparison, right: this.operand() };
    }
    if (this.takeWord('IS')) {
      const negated = this.takeWord('NOT');
      if (!this.takeWord('NULL')) this.fail(`expected NULL, not ${this.shown(this.next)}`);
      return negate(negated, { kind: 'null', left });
    }
    const negated = this.takeWord('NOT');
    if (this.takeWord('IN'))
      return negate(negated, this.isSign('(') ? { kind: 'in', left, list: this.list() } : this.has(left));
    if (this.takeWord('LIKE')) return negate(negated, { kind: 'like', left, pattern: this.operand() });
    if (this.takeWord('BETWEEN')) {
      const low = this.operand();
      if (!this.takeWord('AND')) this.fail(`expected AND and the upper bound, not ${this.shown(this.next)}`);
      return negate(negated, { kind: 'between', left, low, high: this.operand() });
    }
    return this.fail(`expected a comparison such as =, IN or IS NULL, not ${this.shown(this.next)}`);
  }

  private exists(): Condition {
    this.needSign('(');
    const at = this.next.at;
    const relation = this.path();
    const span = { at, end: this.tokens[this.position - 1]!.end };
    const outer = this.inside;
    this.inside = relation.at(-1)!;
    const where = this.takeWord('WHERE') ? this.group('any') : null;
    this.inside = outer;
    this.needSign(')');
    const condition: Condition = { kind: 'exists', relation, where };
    this.spans.set(condition, span);
    return condition;
  }

  private has(value: Operand): Condition {
    if (value.kind !== 'text' && value.kind !== 'member' && value.kind !== 'record')
      this.fail('before IN and a column of several choices stands a text in quotes or a fact');
    const first = this.next;
    const column: ColumnOperand = { kind: 'column', path: this.path() };
    this.spans.set(column, { at: first.at, end: this.tokens[this.position - 1]!.end });
    return { kind: 'has', value, column };
  }

  private list(): Operand[] {
    this.needSign('(');
    const list = [this.operand()];
    while (this.takeSign(',')) list.push(this.operand());
    this.needSign(')');
    return list;
  }

  private operand(): Operand {
    const first = this.next;
    const read = this.readOperand(first);
    this.spans.set(read, { at: first.at, end: this.tokens[this.position - 1]!.end });
    const operand = this.shifted(read);
    this.spans.set(operand, { at: first.at, end: this.tokens[this.position - 1]!.end });
    return operand;
  }

  private shifted(of: Operand): Operand {
    const sign = this.isSign('-') ? -1 : this.isSign('+') ? 1 : 0;
    if (sign === 0) return of;
    if (of.kind !== 'column' && of.kind !== 'member' && of.kind !== 'clock' && of.kind !== 'record')
      this.fail('an interval can only follow a column or a fact such as :today');
    this.position++;
    if (!this.takeWord('INTERVAL'))
      this.fail(`expected INTERVAL, as in :today - INTERVAL 30 DAY, not ${this.shown(this.next)}`);
    const token = this.next;
    if ((token.kind !== 'number' && token.kind !== 'text') || !/^[1-9]\d{0,4}$/.test(token.text))
      this.fail(`expected a whole number from 1 to 99999, not ${this.shown(token)}`);
    this.position++;
    const unit = this.next.text.toUpperCase() as IntervalUnit;
    if (this.next.kind !== 'word' || !intervalUnits.includes(unit))
      this.fail(`expected one of ${intervalUnits.join(', ')}, not ${this.shown(this.next)}`);
    this.position++;
    return { kind: 'shifted', of, count: sign * Number(token.text), unit } satisfies ShiftedOperand;
  }

  /**
   * A column or relation path of the record in question; inside EXISTS the relation's own name before it is taken off.
   */
  private path(): string[] {
    const path = [this.name()];
    while (this.takeSign('.')) path.push(this.name());
    return path.length > 1 && path[0] === this.inside ? path.slice(1) : path;
  }

  private readOperand(token: Token): Operand {
    if (token.kind === 'text') return this.taken({ kind: 'text', text: token.text });
    if (token.kind === 'number') return this.taken({ kind: 'number', digits: token.text });
    if (token.kind === 'fact') return this.taken(this.fact(token));
    if (token.kind === 'word' && /^(true|false)$/i.test(token.text)) {
      return this.taken({ kind: 'boolean', value: token.text.toUpperCase() === 'TRUE' });
    }
    return { kind: 'column', path: this.path() };
  }

  private fact(token: Token): Operand {
    const parts = [...token.text.slice(1).matchAll(/"((?:[^"]|"")+)"|([^."]+)/g)].map(
      (m) => m[1]?.replaceAll('""', '"') ?? m[2]!,
    );
    if (parts.length === 1 && (parts[0] === 'today' || parts[0] === 'now')) return { kind: 'clock', what: parts[0] };
    if (parts[0] === 'member' && parts.length >= 2 && parts.length <= 9)
      return { kind: 'member', fact: parts.slice(1) };
    if (parts[0] === 'record' && parts.length === 2) return { kind: 'record', column: parts[1]! };
    return this.fail(
      `there is no ${token.text}; use :member.id, :member.email, :member.<table>.<column>, :record.<column>, ` +
        ':today or :now',
    );
  }

  private name(): string {
    const token = this.next;
    if (token.kind !== 'name' && (token.kind !== 'word' || reserved.has(token.text.toUpperCase()))) {
      this.fail(`expected a column or a value, not ${this.shown(token)}`);
    }
    this.position++;
    return token.text;
  }

  private taken<T>(node: T): T {
    this.position++;
    return node;
  }
  private get next(): Token {
    return this.tokens[this.position]!;
  }
  private isSign(text: string): boolean {
    return this.next.kind === 'sign' && this.next.text === text;
  }
  private takeSign(text: string): boolean {
    if (!this.isSign(text)) return false;
    this.position++;
    return true;
  }
  private needSign(text: string): void {
    if (!this.takeSign(text)) this.fail(`expected "${text}", not ${this.shown(this.next)}`);
  }
  private takeWord(word: string): boolean {
    if (this.next.kind !== 'word' || this.next.text.toUpperCase() !== word) return false;
    this.position++;
    return true;
  }
  private shown(token: Token): string {
    return token.kind === 'end' ? 'the end' : `"${this.source.slice(token.at, token.end)}"`;
  }
  private fail(reason: string): never {
    throw new ConditionError(reason, this.source, this.next.at, this.next.end);
  }
}

function negate(negated: boolean, part: Condition): Condition {
  return negated ? { kind: 'not', part } : part;
}
