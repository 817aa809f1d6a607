/** The one tree that every condition is: stored as JSON, shown as text or as a sentence, compiled to SQL. */

import type { IntervalUnit } from '../sql/interval-unit';

export type Comparison = '=' | '<>' | '<' | '<=' | '>' | '>=';

/** A column of the table, or of a record that its to-one relations lead to: `['well', 'owner', 'parish']`. */
export interface ColumnOperand {
  kind: 'column';
  path: string[];
}

interface TextOperand {
  kind: 'text';
  text: string;
}

/** Kept as the digits that were written, so that `0.50` stays exact. */
interface NumberOperand {
  kind: 'number';
  digits: string;
}

interface BooleanOperand {
  kind: 'boolean';
  value: boolean;
}

/**
 * A fact of the signed-in person: `['id']`, `['email']`, `['organisation']`, or `[table, column]` of their roster row,
 * with the to-one relations between the two that lead on from it: `['lab_staff', 'lab', 'region']`.
 */
interface MemberOperand {
  kind: 'member';
  fact: string[];
}

/** The day in the portal's time zone, or the moment in UTC. */
interface ClockOperand {
  kind: 'clock';
  what: 'today' | 'now';
}

/** A column of the record that a page is about; only in the filters of its sections. */
interface RecordOperand {
  kind: 'record';
  column: string;
}

/** A date or moment moved by whole units, earlier when `count` is negative: `:today - INTERVAL 30 DAY`. */
export interface ShiftedOperand {
  kind: 'shifted';
  of: ColumnOperand | MemberOperand | ClockOperand | RecordOperand;
  count: number;
  unit: IntervalUnit;
}

export type Operand =
  | ColumnOperand
  | TextOperand
  | NumberOperand
  | BooleanOperand
  | MemberOperand
  | ClockOperand
  | RecordOperand
  | ShiftedOperand;

/** What every condition may say of itself. */
interface Kept {
  /**
   * The named filter of its table that it is, by the filter's id. It is made the same as the filter whenever a
   * definition is read; what holds is what stands here.
   */
  named?: string;
}

export interface CompareCondition extends Kept {
  kind: 'compare';
  left: Operand;
  comparison: Comparison;
  right: Operand;
}

interface InCondition extends Kept {
  kind: 'in';
  left: Operand;
  list: Operand[];
}

interface BetweenCondition extends Kept {
  kind: 'between';
  left: Operand;
  low: Operand;
  high: Operand;
}

/** `%` stands for any characters, `_` for one, `\` takes the next one as it is. */
interface LikeCondition extends Kept {
  kind: 'like';
  left: Operand;
  pattern: Operand;
}

interface NullCondition extends Kept {
  kind: 'null';
  left: Operand;
}

/** Whether a column of several choices holds one: `'UV' IN treatment`. */
export interface HasCondition extends Kept {
  kind: 'has';
  value: TextOperand | MemberOperand | RecordOperand;
  column: ColumnOperand;
}

/**
 * Whether at least one related record passes. `relation` is to-one relations and last a to-many relation; the columns
 * in `where` are those of the related record. Never unknown.
 */
export interface ExistsCondition extends Kept {
  kind: 'exists';
  relation: string[];
  where: Condition | null;
}

/** True when each (`all`) or at least one (`any`) of two or more parts is true. */
interface GroupCondition extends Kept {
  kind: 'all' | 'any';
  parts: Condition[];
}

interface NotCondition extends Kept {
  kind: 'not';
  part: Condition;
}

export type Condition =
  | CompareCondition
  | InCondition
  | BetweenCondition
  | LikeCondition
  | NullCondition
  | HasCondition
  | ExistsCondition
  | GroupCondition
  | NotCondition;

/** True, false, or null for SQL's unknown. */
export type Truth = boolean | null;

/** The operands that stand in the condition itself, not inside an EXISTS: those speak of another record. */
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
    case 'has':
      return [condition.value, condition.column];
    case 'exists':
      return [];
    case 'all':
    case 'any':
      return condition.parts.flatMap(operandsOf);
    case 'not':
      return operandsOf(condition.part);
  }
}

/** Every EXISTS that stands in the condition itself, not inside another. */
export function existsOf(condition: Condition): ExistsCondition[] {
  switch (condition.kind) {
    case 'exists':
      return [condition];
    case 'all':
    case 'any':
      return condition.parts.flatMap(existsOf);
    case 'not':
      return existsOf(condition.part);
    default:
      return [];
  }
}

/** The operand without its interval. */
export function unshifted(operand: Operand): Exclude<Operand, ShiftedOperand> {
  return operand.kind === 'shifted' ? operand.of : operand;
}

/** Every column path that the condition reads of its own record, each once. */
export function pathsOf(condition: Condition): string[][] {
  const found = new Map<string, string[]>();
  for (const operand of operandsOf(condition).map(unshifted)) {
    if (operand.kind === 'column') found.set(JSON.stringify(operand.path), operand.path);
  }
  return [...found.values()];
}
