import { checkCondition } from '../condition/check';
import { columnsUsed } from '../condition/analyse';
import type { ConditionScope } from '../condition/scope';
import type { FieldRule } from '../definition/definition';
import { findColumn, isNeeded, type Column } from '../table/catalogue';

/** What was written of a record. */
export interface Written {
  isNew: boolean;
  columns: ReadonlySet<string>;
}

/** What was found of one rule on one record. */
export interface RuleOutcome {
  rule: FieldRule;
  /** Whether its condition is true; so it is where there is none. */
  applies: boolean;
  /** Which of its columns hold nothing: NULL or an empty text. */
  empty: ReadonlySet<string>;
}

/** Whether a new record is kept without anything at the column, whatever else it holds. */
export function mayStayEmpty(column: Column, rules: readonly FieldRule[]): boolean {
  return !isNeeded(column) && !rules.some(({ does, columns }) => does === 'required' && columns.includes(column.name));
}

/** Whether a rule can be asked: its columns are there, and its condition is one of the table's. */
export function worksAt({ columns, when }: FieldRule, scope: ConditionScope): boolean {
  return (
    columns.every((column) => findColumn(scope.table, column) !== undefined) &&
    (when === undefined || checkCondition(when, scope).length === 0)
  );
}

/**
 * The rules that say which columns stay as they are, for a change of these columns. They are asked of the record as it
 * was before.
 */
export function keepingRules(rules: readonly FieldRule[], changed: ReadonlySet<string>): FieldRule[] {
  return rules.filter(({ does, columns }) => does === 'kept' && columns.some((column) => changed.has(column)));
}

/**
 * The rules that are asked of a record after a write: of a new one all, else those of which a column was written, or
 * one that their condition reads. A record that broke a rule before can so be changed in what the rule is not about,
 * also by somebody who can't mend it.
 */
export function rulesAfter(rules: readonly FieldRule[], written: Written, scope: ConditionScope): FieldRule[] {
  return rules.filter(({ does, columns, when }) => {
    if (does === 'kept') return false;
    if (written.isNew || columns.some((column) => written.columns.has(column))) return true;
    return (
      when !== undefined &&
      columnsUsed(when, scope).some(({ table, column }) => table === scope.table.name && written.columns.has(column))
    );
  });
}

/** What is said at each column; the first rule of a column decides. */
export function faultsOf(outcomes: readonly RuleOutcome[]): Record<string, string> {
  const faults = new Map<string, string>();
  for (const { rule, applies, empty } of outcomes) {
    if (!applies) continue;
    for (const column of rule.columns)
      if (!faults.has(column) && (rule.does !== 'required' || empty.has(column))) faults.set(column, wordsOf(rule));
  }
  return Object.fromEntries(faults);
}

function wordsOf({ does, message }: FieldRule): string {
  return (
    message ??
    { required: 'This needs a value.', kept: "This can't be changed now.", refused: "This can't be kept." }[does]
  );
}
