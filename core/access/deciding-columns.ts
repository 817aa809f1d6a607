import { checkCondition } from '../condition/check';
import { factsUsed } from '../condition/analyse';
import { pathsOf, type Condition } from '../condition/tree';
import { makesOf } from '../definition/action';
import type { PortalDefinition } from '../definition/definition';
import { findTable, isPathProblem, resolvePath, type Catalogue } from '../table/catalogue';
import { conditionsOf } from './grant-conditions';

/** What a column of a roster decides: which roles its members have, or what rules about them let through. */
export type Decides = 'roles' | 'rules' | 'members';

/** The columns that decide what members may see and do, of rosters and of what they lead to, by table and column. */
export function decidingColumns(definition: PortalDefinition, catalogue: Catalogue): Map<string, Map<string, Decides>> {
  const found = new Map(definition.rosters.map((roster) => [roster.table, new Map<string, Decides>()]));
  const rules = [
    ...Object.entries(definition.access).flatMap(([table, grants]) =>
      Object.values(grants).flatMap((grant) => conditionsOf(grant).map((where): [string, Condition] => [table, where])),
    ),
    ...(definition.fences ?? []).map((fence): [string, Condition] => [fence.table, fence.where]),
    ...(definition.actions ?? []).flatMap((action): [string, Condition][] => [
      ...[action.where, action.keepIn].flatMap((each): [string, Condition][] => ofTable(action.table, each)),
      ...makesOf(action).flatMap((step) => ofTable(step.table, step.keepIn)),
    ]),
    ...(definition.stewards ?? []).flatMap((steward): [string, Condition][] =>
      'where' in steward && steward.where ? [[steward.roster, steward.where]] : [],
    ),
  ];
  for (const [name, where] of rules) {
    const table = findTable(catalogue, name);
    if (!table || checkCondition(where, { catalogue, table, member: true }).length > 0) continue;
    for (const fact of factsUsed(where, { catalogue, table, member: true }))
      for (const [of, column] of columnsOf(fact, catalogue)) {
        if (!found.has(of)) found.set(of, new Map());
        found.get(of)!.set(column, 'rules');
      }
  }
  for (const roster of definition.rosters) {
    const columns = found.get(roster.table)!;
    // Whoever writes an address makes somebody else of a member, or, with another's, nobody of both.
    columns.set(roster.email, 'members');
    if (roster.where) for (const [column] of pathsOf(roster.where)) columns.set(column!, 'members');
    for (const rule of roster.roles ?? []) for (const [column] of pathsOf(rule.where)) columns.set(column!, 'roles');
  }
  return found;
}

const ofTable = (table: string, where: Condition | 'every row' | undefined): [string, Condition][] =>
  typeof where === 'object' ? [[table, where]] : [];

/** The columns that make a fact what it is: that of the roster, or each relation's on the way and the last. */
function columnsOf([roster, ...path]: readonly string[], catalogue: Catalogue): [table: string, column: string][] {
  const table = path.length === 0 ? undefined : findTable(catalogue, roster!);
  const found = table && resolvePath(catalogue, table, path);
  if (!found || isPathProblem(found)) return [];
  const ways = found.steps.map((step, i): [string, string] => [
    i === 0 ? table.name : found.steps[i - 1]!.table,
    step.column,
  ]);
  return [...ways, [found.table.name, found.column.name]];
}
