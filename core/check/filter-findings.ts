import { lensOf } from '../access/lens';
import { checkCondition } from '../condition/check';
import type { PortalDefinition, RowFilter } from '../definition/definition';
import { maskLabel } from '../mask/mask';
import { type Catalogue, findTable } from '../table/catalogue';
import type { Finding, Place } from './finding';

export const roleName = (definition: PortalDefinition, id: string): string =>
  definition.roles.find((role) => role.id === id)?.name ?? id;

function grantsOf(definition: PortalDefinition) {
  return Object.entries(definition.access).flatMap(([table, roles]) =>
    Object.entries(roles).map(([role, grant]) => ({ table, role, grant })),
  );
}

export function findFilters(
  definition: PortalDefinition,
  catalogue: Catalogue,
  isAway: (table: string) => boolean,
): Finding[] {
  return grantsOf(definition)
    .filter(({ table }) => !isAway(table))
    .flatMap(({ table: name, role, grant }) => {
      const table = findTable(catalogue, name);
      const place: Place = { stage: 'access', table: name, role };
      if (!table) {
        return [
          {
            id: `gone/${name}/${role}`,
            kind: 'filter does not work',
            severity: 'broken',
            place,
            title: `${roleName(definition, role)} is granted ${name}, which the database no longer has`,
            why: 'Nobody gets anything from a table that is gone. Take the grant away, or bring the table back.',
          } satisfies Finding,
        ];
      }
      const own = (filter: RowFilter | 'as seen' | undefined): RowFilter | undefined =>
        filter === 'as seen' ? undefined : filter;
      const filters: [string, RowFilter | undefined][] = [
        ['see', grant.see?.where],
        ['edit', own(grant.edit?.where)],
        ['keep-in', grant.edit?.keepIn],
        ['create', grant.create?.keepIn],
        ['delete', own(grant.delete?.where)],
        ['export', own(grant.export?.where)],
      ];
      return filters.flatMap(([what, filter]) => {
        if (!filter || filter === 'every row') return [];
        return checkCondition(filter, { catalogue, table, member: true })
          .slice(0, 1)
          .map((problem): Finding => ({
            id: `filter/${name}/${role}/${what}`,
            kind: 'filter does not work',
            severity: 'broken',
            place,
            title: `The ${what} filter of ${roleName(definition, role)} on ${name} does not work: ${problem.reason}`,
            why: "A filter that can't be answered lets nobody in. Mend the condition.",
          }));
      });
    });
}

export function findOpenTables(definition: PortalDefinition, catalogue: Catalogue): Finding[] {
  return grantsOf(definition).flatMap(({ table, role, grant }): Finding[] => {
    if (grant.see?.where !== 'every row' || !findTable(catalogue, table)) return [];
    return [
      {
        id: `open/${table}/${role}`,
        kind: 'everyone reads everything',
        severity: 'leak',
        place: { stage: 'access', table, role },
        title: `${roleName(definition, role)} reads every row of ${table}`,
        why:
          `There is no row filter, so each ${roleName(definition, role)} sees all records, also those of others. ` +
          'Add a filter unless the table is meant for all.',
      },
    ];
  });
}

export function findMaskedEdits(definition: PortalDefinition, catalogue: Catalogue): Finding[] {
  return grantsOf(definition).flatMap(({ table: name, role }) => {
    const table = findTable(catalogue, name);
    const lens = table && lensOf(definition, catalogue, table, role);
    if (!lens?.edit) return [];
    return [...lens.edit.columns].flatMap((column): Finding[] => {
      const openness = lens.columns.get(column);
      if (openness?.level !== 'masked' || lens.edit!.unseen.has(column)) return [];
      return [
        {
          id: `masked-edit/${name}/${role}/${column}`,
          kind: 'masked but editable',
          severity: 'broken',
          place: { stage: 'access', table: name, role, column },
          title:
            `${roleName(definition, role)} may edit ${name}.${column}, which is masked for them ` +
            `(${maskLabel(openness.mask)})`,
          why:
            "A masked cell can't be edited: the person would write over what they can't see. Take the column " +
            'from the edit grant, or except the role from the mask.',
        },
      ];
    });
  });
}
