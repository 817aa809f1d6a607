import { existsOf, operandsOf, unshifted, type Condition } from '../condition/tree';
import type { PortalDefinition } from '../definition/definition';
import { askedByPage, type SectionSpecs } from '../definition/section';
import { readPath } from '../definition/path';
import { findTable, isPathProblem, resolveMany, resolvePath, type Catalogue, type Table } from '../table/catalogue';

/** A column that the database is asked by again and again. */
export interface AskedColumn {
  table: string;
  column: string;
}

/** The columns that row filters, fences, sorts and relations of a portal ask by, each once. */
export function askedColumns(definition: PortalDefinition, catalogue: Catalogue, specs: SectionSpecs): AskedColumn[] {
  const asked = new Map<string, AskedColumn>();
  const add = (table: string, column: string) => {
    const query = findTable(catalogue, table);
    // A saved query has no index; what helps it is one on the column that it takes as it is.
    const from = query?.query === undefined ? null : (query.columns.find((each) => each.name === column)?.from ?? []);
    if (from === null) asked.set(`${table}\n${column}`, { table, column });
    else if (from.length === 1) asked.set(`${from[0]!.table}\n${from[0]!.column}`, from[0]!);
  };
  const path = (table: Table, parts: readonly string[], isFound = true) => {
    const found = resolvePath(catalogue, table, parts);
    if (isPathProblem(found)) return;
    // A filter through a relation is asked by its end, and found from there by the relation's column.
    for (const [i, step] of found.steps.entries()) add(i === 0 ? table.name : found.steps[i - 1]!.table, step.column);
    if (isFound) add(found.table.name, found.column.name);
  };
  const condition = (table: Table, where: Condition) => {
    for (const leaf of leavesOf(where)) {
      const columns = operandsOf(leaf)
        .map(unshifted)
        .filter((operand) => operand.kind === 'column');
      // One column held against another is looked at in every row: no index finds it.
      for (const operand of columns) path(table, operand.path, columns.length === 1);
    }
    for (const exists of existsOf(where)) {
      const found = resolveMany(catalogue, table, exists.relation);
      if (isPathProblem(found)) continue;
      add(found.table.name, found.many.column);
      if (exists.where) condition(found.table, exists.where);
    }
  };
  const filter = (name: string, where: unknown) => {
    const table = findTable(catalogue, name);
    if (table && typeof where === 'object' && where !== null) condition(table, where as Condition);
  };
  for (const [name, grants] of Object.entries(definition.access))
    for (const grant of Object.values(grants))
      for (const part of [grant.see, grant.edit, grant.delete, grant.export]) filter(name, part?.where);
  for (const fence of definition.fences ?? []) filter(fence.table, fence.where);
  for (const roster of definition.rosters) add(roster.table, roster.email);
  for (const { asked: of } of definition.pages.flatMap((page) => askedByPage(page, definition, specs))) {
    for (const where of of.where) filter(of.table, where);
    const table = findTable(catalogue, of.table);
    const first = of.sorts[0] && readPath(of.sorts[0]);
    if (table && first) path(table, first);
  }
  return [...asked.values()].filter(({ table, column }) => !(findTable(catalogue, table)?.key[0] === column));
}

/** The comparisons of a condition, without those on related records. */
function leavesOf(condition: Condition): Condition[] {
  if (condition.kind === 'all' || condition.kind === 'any') return condition.parts.flatMap(leavesOf);
  if (condition.kind === 'not') return leavesOf(condition.part);
  return condition.kind === 'exists' ? [] : [condition];
}
