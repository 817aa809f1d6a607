import { lensOf, type Lens } from '../access/lens';
import { rowsCondition, type Rows } from '../access/rows';
import { implies } from '../condition/analyse';
import type { ConditionScope } from '../condition/scope';
import type { Condition } from '../condition/tree';
import type { Grant, PortalDefinition, Role } from '../definition/definition';
import { findTable, type Catalogue, type Table } from '../table/catalogue';
import type { Place } from './finding';

/** A role's grant on a table that is there, with what it comes to. */
export interface Granted {
  table: Table;
  role: Role;
  grant: Grant;
  lens: Lens | null;
  scope: ConditionScope;
  place: Place;
}

/** Every grant of a role that is there on a table that is there. */
export function grantedOf(definition: PortalDefinition, catalogue: Catalogue): Granted[] {
  return Object.entries(definition.access).flatMap(([name, grants]) =>
    Object.entries(grants).flatMap(([id, grant]): Granted[] => {
      const table = findTable(catalogue, name);
      const role = definition.roles.find((each) => each.id === id);
      if (!table || !role) return [];
      return [
        {
          table,
          role,
          grant,
          lens: lensOf(definition, catalogue, table, id),
          scope: { catalogue, table, member: true },
          place: { stage: 'access', table: name, role: id },
        },
      ];
    }),
  );
}

export const whole = (rows: Rows): Condition | null | 'no row' => (rows === 'no row' ? 'no row' : rowsCondition(rows));

/** Whether all rows of one are certainly among the other's. */
export function within(one: Rows, other: Rows, scope: ConditionScope): boolean {
  const [inner, outer] = [whole(one), whole(other)];
  if (inner === 'no row') return true;
  return outer !== 'no row' && implies(inner, outer, scope);
}
