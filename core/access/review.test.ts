import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { wellsCatalogue, wellsDefinition } from '../../test/wells';
import { parseCondition } from '../condition/parse';
import type { Grant, PortalDefinition } from '../definition/definition';
import { rolesOf, type KnownPerson } from './people';
import { assignedUsers, checkAccess, permissionsOf, rolePermissions, rolesWith, type Permission } from './review';

/**
 * INCITS 359-2012, core RBAC: the administrative, system and review functions as statements over the definition.
 * Section names as in clause 6.1, from memory.
 */
const roleIds = ['owner', 'sampler', 'desk'];
const rosterOf: Record<string, string> = { owner: 'owners', sampler: 'samplers', desk: 'visits' };
const columns = ['code', 'note', 'state'];
const anyGrant = fc.record({
  see: fc.option(fc.subarray(columns), { nil: undefined }),
  edit: fc.option(fc.subarray(columns), { nil: undefined }),
  remove: fc.boolean(),
});
const anyPortal = fc.array(anyGrant, { minLength: 3, maxLength: 3 }).map((grants): PortalDefinition => ({
  ...wellsDefinition({
    wells: Object.fromEntries(
      grants.map((grant, i): [string, Grant] => [
        roleIds[i]!,
        {
          ...(grant.see ? { see: { where: 'every row', columns: grant.see } } : {}),
          ...(grant.edit ? { edit: { where: 'every row', columns: grant.edit } } : {}),
          ...(grant.remove ? { delete: { where: 'every row' } } : {}),
        },
      ]),
    ),
  }),
  // Half of them give their role to everyone, the others by a rule on the row.
  rosters: roleIds.map((role, i) => ({
    table: rosterOf[role]!,
    name: 'id',
    email: 'id',
    ...(i % 2 === 0
      ? { role }
      : {
          roles: [
            { role, where: parseCondition('id >= 0').condition },
            { role: 'desk', where: parseCondition('id < 0').condition },
          ],
        }),
  })),
}));
const anyPerson = fc.record({ id: fc.nat(50), roles: fc.subarray(roleIds) }).map(({ id, roles }): KnownPerson => ({
  id,
  name: `P${id}`,
  email: `p${id}@example.org`,
  organisation: null,
  rows: Object.fromEntries(roles.map((role) => [rosterOf[role]!, { id }])),
}));
const anyPermission = fc.record({
  operation: fc.constantFrom('see' as const, 'edit' as const),
  table: fc.constant('wells'),
  on: fc.constantFrom(...columns),
});

describe('core RBAC', () => {
  it(
    'AssignUser and DeassignUser: standing on a roster gives its role and nothing else, and taking the row away ' +
      'takes the role',
    () => {
      fc.assert(
        fc.property(anyPortal, anyPerson, fc.constantFrom(...roleIds), (definition, person, role) => {
          const assigned: KnownPerson = { ...person, rows: { ...person.rows, [rosterOf[role]!]: { id: person.id } } };
          const { [rosterOf[role]!]: _, ...others } = assigned.rows;
          const deassigned: KnownPerson = { ...person, rows: others };
          expect(new Set(rolesOf(definition, wellsCatalogue, assigned))).toEqual(
            new Set([...rolesOf(definition, wellsCatalogue, person), role]),
          );
          expect(rolesOf(definition, wellsCatalogue, deassigned)).toEqual(
            rolesOf(definition, wellsCatalogue, assigned).filter((each) => each !== role),
          );
          expect([
            assignedUsers(definition, wellsCatalogue, [assigned, deassigned], role),
            assignedUsers(definition, wellsCatalogue, [deassigned], role),
          ]).toEqual([[assigned], []]);
        }),
      );
    },
  );

  it('GrantPermission and RevokePermission: change what the role may do, for exactly those who have it', () => {
    fc.assert(
      fc.property(anyPortal, fc.constantFrom(...roleIds), fc.constantFrom(...columns), (definition, role, column) => {
        const seen: Permission = { operation: 'see', table: 'wells', on: column };
        const change = (more: boolean): PortalDefinition => {
          const changed = structuredClone(definition);
          const grant = changed.access.wells![role]!;
          const rest = (grant.see?.columns ?? []).filter((each) => each !== column);
          grant.see = { where: 'every row', columns: more ? [...rest, column] : rest };
          return changed;
        };
        expect(rolesWith(change(true), wellsCatalogue, seen)).toContain(role);
        expect(rolesWith(change(false), wellsCatalogue, seen)).not.toContain(role);
        for (const other of roleIds.filter((each) => each !== role))
          expect(rolePermissions(change(true), wellsCatalogue, other)).toEqual(
            rolePermissions(definition, wellsCatalogue, other),
          );
      }),
    );
  });

  it('CreateSession, AddActiveRole and DropActiveRole: access follows the active roles, the least with none', () => {
    fc.assert(
      fc.property(anyPortal, fc.subarray(roleIds), anyPermission, (definition, active, permission) => {
        expect(checkAccess(definition, wellsCatalogue, [], permission)).toBe(false);
        expect(checkAccess(definition, wellsCatalogue, active, permission)).toBe(
          permissionsOf(definition, wellsCatalogue, active).some(
            (each) => JSON.stringify(each) === JSON.stringify(permission),
          ),
        );
        for (const role of roleIds) {
          const more = [...active, role];
          // Adding a role never takes anything away, dropping one never gives.
          if (checkAccess(definition, wellsCatalogue, active, permission))
            expect(checkAccess(definition, wellsCatalogue, more, permission)).toBe(true);
          const fewer = active.filter((each) => each !== role);
          if (checkAccess(definition, wellsCatalogue, fewer, permission))
            expect(checkAccess(definition, wellsCatalogue, active, permission)).toBe(true);
        }
      }),
    );
  });

  it('RolePermissions, UserPermissions and SessionPermissions are one relation seen from three sides', () => {
    fc.assert(
      fc.property(anyPortal, anyPerson, (definition, person) => {
        const roles = rolesOf(definition, wellsCatalogue, person);
        const text = (permissions: Permission[]) => new Set(permissions.map((each) => JSON.stringify(each)));
        expect(text(permissionsOf(definition, wellsCatalogue, roles))).toEqual(
          new Set(roles.flatMap((role) => [...text(rolePermissions(definition, wellsCatalogue, role))])),
        );
        for (const role of roles) expect(assignedUsers(definition, wellsCatalogue, [person], role)).toEqual([person]);
        for (const permission of permissionsOf(definition, wellsCatalogue, roles))
          expect(rolesWith(definition, wellsCatalogue, permission).some((role) => roles.includes(role))).toBe(true);
      }),
    );
  });
});

it('every right of a grant is a permission, once, and of a masked column none to see it', () => {
  const definition: PortalDefinition = {
    ...wellsDefinition(
      {
        wells: {
          owner: {
            see: { where: 'every row', columns: ['code', 'note'] },
            create: { columns: ['code'] },
            edit: { where: 'every row', columns: ['note'] },
            delete: { where: 'every row' },
            export: { where: 'every row' },
            comments: { forAll: ['write'] },
            files: { amongUs: ['delete any'] },
            history: true,
          },
          sampler: { edit: { where: 'every row', columns: ['code'] } },
        },
      },
      [{ id: 'm', table: 'wells', column: 'note', mask: { style: 'all' }, to: 'everyone', exceptRoles: [] }],
    ),
    tables: { wells: { history: {} } },
    lifecycles: [
      {
        table: 'wells',
        column: 'state',
        moves: [{ id: 'rest', name: 'Rest', from: ['active'], to: 'resting', roles: ['owner'], needs: [] }],
      },
    ],
    stewards: [{ id: 'k', role: 'owner', does: 'keep a table', table: 'wells' }],
  };
  const said = (role: string) =>
    rolePermissions(definition, wellsCatalogue, role).map(({ operation, table, on }) => `${operation} ${table} ${on}`);
  expect(said('owner')).toEqual([
    'see wells code',
    'create wells code',
    'edit wells note',
    'delete wells null',
    'export wells null',
    'move wells rest',
    'comment wells read for all',
    // Of every row nothing makes it theirs.
    'comment wells read earlier for all',
    'comment wells write for all',
    'file wells read among us',
    'file wells read earlier among us',
    'file wells delete any among us',
    'history wells null',
  ]);
  expect([said('sampler'), said('desk')]).toEqual([['edit wells code'], []]);
});
