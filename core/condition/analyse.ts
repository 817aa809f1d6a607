import { isPathProblem, resolveMany, resolvePath, type Table } from '../table/catalogue';
import type { ConditionScope } from './scope';
import { contradicts } from './contradiction';
import { formulaOf, type Atom, type Formula } from './formula';
import { existsOf, operandsOf, unshifted, type Condition } from './tree';

/**
 * What can be said of a condition for all rows and all persons at once. Sound, not complete: true means certain, false
 * means that it can't be told. Conditions must have been checked against the scope.
 */
/** So many cases of a condition are looked at; one with more can't be told. */
const mostCases = 600;

/** Whether it is certain that no row ever passes. */
export function isNever(condition: Condition, scope: ConditionScope): boolean {
  return unsatisfiable(formulaOf(condition, 'true', scope), scope);
}

/** Whether it is certain that every row passes, whoever asks. */
export function isAlways(condition: Condition, scope: ConditionScope): boolean {
  return unsatisfiable(formulaOf(condition, 'not true', scope), scope);
}

/** Whether it is certain that each row which passes `one` passes `other`, too. Null stands for every row. */
export function implies(one: Condition | null, other: Condition | null, scope: ConditionScope): boolean {
  if (other === null) return true;
  if (one === null) return isAlways(other, scope);
  return unsatisfiable({ all: [formulaOf(one, 'true', scope), formulaOf(other, 'not true', scope)] }, scope);
}

/** Whether it is certain that no row passes both. */
export function excludes(one: Condition | null, other: Condition | null, scope: ConditionScope): boolean {
  const parts = [one, other].filter((each) => each !== null).map((each) => formulaOf(each, 'true', scope));
  return parts.length > 0 && unsatisfiable({ all: parts }, scope);
}

function unsatisfiable(formula: Formula, scope: ConditionScope): boolean {
  const cases = casesOf(formula);
  return cases !== null && cases.every((atoms) => contradicts(atoms, scope, { implies, isNever }));
}

/** The formula as a list of cases, one of which must be so; null when there are too many. */
function casesOf(formula: Formula): Atom[][] | null {
  if ('any' in formula) {
    const cases: Atom[][] = [];
    for (const part of formula.any) {
      const found = casesOf(part);
      if (!found || cases.length + found.length > mostCases) return null;
      cases.push(...found);
    }
    return cases;
  }
  if ('all' in formula) {
    let cases: Atom[][] = [[]];
    for (const part of formula.all) {
      const found = casesOf(part);
      if (!found || cases.length * found.length > mostCases) return null;
      cases = cases.flatMap((atoms) => found.map((more) => [...atoms, ...more]));
    }
    return cases;
  }
  return [[formula]];
}

export interface ColumnUse {
  table: string;
  column: string;
}

/**
 * Every column that the condition reads, in its own table and in those that relations lead to, the relations' own
 * columns included.
 */
export function columnsUsed(condition: Condition, scope: ConditionScope): ColumnUse[] {
  const found = new Map<string, ColumnUse>();
  const use = (table: string, column: string) => found.set(`${table}\n${column}`, { table, column });
  const walk = (steps: { column: string; targetColumn: string; table: string }[], from: Table) => {
    let at = from.name;
    for (const step of steps) {
      use(at, step.column);
      use(step.table, step.targetColumn);
      at = step.table;
    }
  };
  collect(condition, scope, (part, at) => {
    for (const operand of operandsOf(part).map(unshifted)) {
      const path = operand.kind === 'column' ? resolvePath(at.catalogue, at.table, operand.path) : null;
      if (!path || isPathProblem(path)) continue;
      walk(path.steps, at.table);
      use(path.table.name, path.column.name);
    }
    for (const exists of existsOf(part)) {
      const many = resolveMany(at.catalogue, at.table, exists.relation);
      if (isPathProblem(many)) continue;
      walk(many.steps, at.table);
      use(many.steps.at(-1)?.table ?? at.table.name, many.many.targetColumn);
      use(many.table.name, many.many.column);
    }
  });
  return [...found.values()];
}

/** Every fact of the member that the condition asks, `['id']` or `['owners', 'parish']`, each once. */
export function factsUsed(condition: Condition, scope: ConditionScope): string[][] {
  const found = new Map<string, string[]>();
  collect(condition, scope, (part) => {
    for (const operand of operandsOf(part).map(unshifted))
      if (operand.kind === 'member') found.set(JSON.stringify(operand.fact), operand.fact);
  });
  return [...found.values()];
}

/** Whether what passes depends on the day or the moment. */
export function usesClock(condition: Condition, scope: ConditionScope): boolean {
  let found = false;
  collect(condition, scope, (part) => {
    found ||= operandsOf(part).some((operand) => unshifted(operand).kind === 'clock');
  });
  return found;
}

/** Visits the condition and what stands inside each EXISTS, each with the scope that it is about. */
function collect(
  condition: Condition,
  scope: ConditionScope,
  visit: (condition: Condition, scope: ConditionScope) => void,
): void {
  visit(condition, scope);
  for (const exists of existsOf(condition)) {
    const found = resolveMany(scope.catalogue, scope.table, exists.relation);
    if (exists.where && !isPathProblem(found)) collect(exists.where, { ...scope, table: found.table }, visit);
  }
}
