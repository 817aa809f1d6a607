import type { PortalDefinition } from '../definition/definition';
import type { Catalogue } from '../table/catalogue';
import { sayHung } from './hung-rights';
import { lensesOf } from './lens';
import { rolesOf, type KnownPerson } from './people';

/** The review functions of role-based access control (INCITS 359-2012, core RBAC) over a definition. */
type ReviewedOperation = 'see' | 'create' | 'edit' | 'delete' | 'export' | 'move' | 'comment' | 'file' | 'history';

/**
 * One permission: an operation on a table or, where columns count, on one column. A masked column is not seen in this
 * sense.
 */
export interface Permission {
  operation: ReviewedOperation;
  table: string;
  /** The column, the move's id, or what may be done with comments or files; null where the record as a whole counts. */
  on: string | null;
}

/** RolePermissions: what a role may do, through grants that can be used and as a steward; each once. */
export function rolePermissions(definition: PortalDefinition, catalogue: Catalogue, role: string): Permission[] {
  const all = catalogue.tables.flatMap((table) => {
    const lenses = lensesOf(definition, catalogue, table, role);
    const each = (operation: ReviewedOperation, names: Iterable<string | null>): Permission[] =>
      [...names].map((on) => ({ operation, table: table.name, on }));
    return lenses.flatMap((lens) => [
      ...each(
        'see',
        lens.rows === 'no row'
          ? []
          : [...lens.columns].filter(([, openness]) => openness.level === 'shown').map(([column]) => column),
      ),
      ...each('create', lens.create?.columns ?? []),
      ...each('edit', lens.edit?.columns ?? []),
      ...each('delete', lens.remove ? [null] : []),
      ...each('export', lens.export ? [null] : []),
      ...each('move', lens.moves?.moves.map((move) => move.id) ?? []),
      ...each('comment', sayHung('comments', [lens])),
      ...each('file', sayHung('files', [lens])),
      ...each('history', lens.history ? [null] : []),
    ]);
  });
  return once(all);
}

const once = (permissions: Permission[]): Permission[] => [
  ...new Map(permissions.map((permission) => [JSON.stringify(permission), permission])).values(),
];

/** UserPermissions and, with the roles active in a session, SessionPermissions: the union over the roles, each once. */
export function permissionsOf(
  definition: PortalDefinition,
  catalogue: Catalogue,
  roles: readonly string[],
): Permission[] {
  return once(roles.flatMap((role) => rolePermissions(definition, catalogue, role)));
}

/** AssignedUsers: the persons who have a role. */
export function assignedUsers(
  definition: PortalDefinition,
  catalogue: Catalogue,
  people: readonly KnownPerson[],
  role: string,
): KnownPerson[] {
  return people.filter((person) => rolesOf(definition, catalogue, person).includes(role));
}

/** The roles that give a permission. */
export function rolesWith(definition: PortalDefinition, catalogue: Catalogue, permission: Permission): string[] {
  const wanted = JSON.stringify(permission);
  return definition.roles
    .map((role) => role.id)
    .filter((role) => rolePermissions(definition, catalogue, role).some((each) => JSON.stringify(each) === wanted));
}

/** CheckAccess: whether the roles active in a session permit an operation on an object. */
export function checkAccess(
  definition: PortalDefinition,
  catalogue: Catalogue,
  active: readonly string[],
  permission: Permission,
): boolean {
  return active.some((role) => rolesWith(definition, catalogue, permission).includes(role));
}
