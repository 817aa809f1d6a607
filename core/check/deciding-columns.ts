import { lensOf } from '../access/lens';
import { checkCondition } from '../condition/check';
import { factsUsed } from '../condition/analyse';
import { pathsOf, type Condition } from '../condition/tree';
import type { PortalDefinition } from '../definition/definition';
import { findTable, isPathProblem, resolvePath, type Catalogue } from '../table/catalogue';
import type { Finding } from './finding';
import { conditionsOf } from './people-facts';

/** What a column of a roster decides: which roles its members have, or what rules about them let through. */
type Decides = 'roles' | 'rules' | 'members';

const decided: Record<Decides, string> = {
  roles: 'gives members their roles',
  rules: 'rules ask of the member',
  members: 'says who is a member',
};

/** The columns that decide what members may see and do, of rosters and of what they lead to, by table and column. */
function decidingColumns(definition: PortalDefinition, catalogue: Catalogue): Map<string, Map<string, Decides>> {
  const found = new Map(definition.rosters.map((roster) => [roster.table, new Map<string, Decides>()]));
  const rules = [
    ...Object.entries(definition.access).flatMap(([table, grants]) =>
      Object.values(grants).flatMap((grant) => conditionsOf(grant).map((where): [string, Condition] => [table, where])),
    ),
    ...(definition.fences ?? []).map((fence): [string, Condition] => [fence.table, fence.where]),
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

/** Grants by which somebody can write what decides about rights: theirs, or another's. */
export function findWrittenRights(definition: PortalDefinition, catalogue: Catalogue): Finding[] {
  return [...decidingColumns(definition, catalogue)].flatMap(([name, columns]) =>
    Object.entries(definition.access[name] ?? {}).flatMap(([id, grant]): Finding[] => {
      const table = findTable(catalogue, name);
      const role = definition.roles.find((each) => each.id === id);
      const edited = table && role ? lensOf(definition, catalogue, table, id)?.edit?.columns : undefined;
      if (!table || !role) return [];
      return [...columns].flatMap(([column, decides]): Finding[] => {
        const ways = [
          ...(edited?.has(column) ? ['edit' as const] : []),
          ...(decides !== 'rules' && grant.create?.columns.includes(column) ? ['create' as const] : []),
        ];
        return ways.map((what) => ({
          id: `written/${name}/${id}/${column}/${what}`,
          kind: 'rights can be written',
          severity: 'leak',
          place: { stage: 'access', table: name, role: id, column, what },
          title:
            `${role.name} may ${what === 'edit' ? 'change' : 'fill'} ${name}.${column}, ` + `which ${decided[decides]}`,
          why:
            'Whoever writes it decides what a member sees and does, and may be that member. Show it only, unless ' +
            'this role is to hand out rights.',
        }));
      });
    }),
  );
}
