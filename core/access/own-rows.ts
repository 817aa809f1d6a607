import { checkCondition } from '../condition/check';
import type { Condition, Operand } from '../condition/tree';
import type { PortalDefinition } from '../definition/definition';
import { findTable, type Catalogue, type Table } from '../table/catalogue';

/** The filters that make the table's rows "their own" for a role, found from the keys: the roster row itself, or a relation to it. */
export function ownRows(draft: PortalDefinition, catalogue: Catalogue, table: Table, role: string): Condition[] {
  const found = draft.rosters.filter((roster) => roster.role === role).flatMap((roster): Condition[] => {
    const key = findTable(catalogue, roster.table)?.key[0];
    if (!key) return [];
    const fact: Operand = { kind: 'member', fact: [roster.table, key] };
    const same = (path: string[]): Condition => ({ kind: 'compare', left: { kind: 'column', path }, comparison: '=', right: fact });
    if (table.name === roster.table) return [same([key])];
    const direct = table.relations.filter((relation) => relation.table === roster.table).map((relation) => same([relation.column]));
    const through = table.relations.flatMap((relation) => (findTable(catalogue, relation.table)?.relations ?? [])
      .filter((next) => next.table === roster.table).map((next) => same([relation.name, next.column])));
    return [...direct, ...through];
  });
  return found.filter((condition) => checkCondition(condition, { catalogue, table, member: true }).length === 0);
}
