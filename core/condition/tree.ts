/** The one tree that every condition is: stored as JSON, shown as text or as a sentence, compiled to SQL. */

export type Comparison = '=' | '<>' | '<' | '<=' | '>' | '>=';

/** A column of the table, or of a record that its to-one relations lead to: `['well', 'owner', 'parish']`. */
export interface ColumnOperand {
  kind: 'column';
  path: string[];
}
export interface TextOperand {
  kind: 'text';
  text: string;
}
/** Kept as the digits that were written, so that `0.50` stays exact. */
export interface NumberOperand {
  kind: 'number';
  digits: string;
}
export interface BooleanOperand {
  kind: 'boolean';
  value: boolean;
}
/** A fact of the signed-in person: `['id']`, `['email']`, `['organisation']` or `[table, column]` of their roster row. */
export interface MemberOperand {
  kind: 'member';
  fact: string[];
}
/** The day in the portal's time zone, or the moment in UTC. */
export interface ClockOperand {
  kind: 'clock';
  what: 'today' | 'now';
}
export type Operand = ColumnOperand | TextOperand | NumberOperand | BooleanOperand | MemberOperand | ClockOperand;

export interface CompareCondition {
  kind: 'compare';
  left: Operand;
  comparison: Comparison;
  right: Operand;
}
export interface InCondition {
  kind: 'in';
  left: Operand;
  list: Operand[];
}
export interface BetweenCondition {
  kind: 'between';
  left: Operand;
  low: Operand;
  high: Operand;
}
/** `%` stands for any characters, `_` for one, `\` takes the next one as it is. */
export interface LikeCondition {
  kind: 'like';
  left: Operand;
  pattern: Operand;
}
export interface NullCondition {
  kind: 'null';
  left: Operand;
}
/** True when each (`all`) or at least one (`any`) of two or more parts is true. */
export interface GroupCondition {
  kind: 'all' | 'any';
  parts: Condition[];
}
export interface NotCondition {
  kind: 'not';
  part: Condition;
}
export type Condition =
  | CompareCondition
  | InCondition
  | BetweenCondition
  | LikeCondition
  | NullCondition
  | GroupCondition
  | NotCondition;

/** True, false, or null for SQL's unknown. */
export type Truth = boolean | null;

export function operandsOf(condition: Condition): Operand[] {
  switch (condition.kind) {
    case 'compare':
      return [condition.left, condition.right];
    case 'in':
      return [condition.left, ...condition.list];
    case 'between':
      return [condition.left, condition.low, condition.high];
    case 'like':
      return [condition.left, condition.pattern];
    case 'null':
      return [condition.left];
    case 'all':
    case 'any':
      return condition.parts.flatMap(operandsOf);
    case 'not':
      return operandsOf(condition.part);
  }
}

/** Every column path that the condition reads, each once. */
export function pathsOf(condition: Condition): string[][] {
  const found = new Map<string, string[]>();
  for (const operand of operandsOf(condition)) {
    if (operand.kind === 'column') found.set(JSON.stringify(operand.path), operand.path);
  }
  return [...found.values()];
}
