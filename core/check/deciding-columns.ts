import { decidingColumns, type Decides } from '../access/deciding-columns';
import { lensOf } from '../access/lens';
import type { PortalDefinition } from '../definition/definition';
import { findTable, type Catalogue } from '../table/catalogue';
import type { Finding } from './finding';

const decided: Record<Decides, string> = {
  roles: 'gives members their roles',
  rules: 'rules ask of the member',
  members: 'says who is a member',
};

const isGranted = (what: string) => what === 'edit' || what === 'create';

/** Grants and actions by which somebody can write what decides about rights: theirs, or another's. */
export function findWrittenRights(definition: PortalDefinition, catalogue: Catalogue): Finding[] {
  return [...decidingColumns(definition, catalogue)].flatMap(([name, columns]) =>
    Object.entries(definition.access[name] ?? {}).flatMap(([id, grant]): Finding[] => {
      const table = findTable(catalogue, name);
      const role = definition.roles.find((each) => each.id === id);
      const lens = table && role ? lensOf(definition, catalogue, table, id) : null;
      const edited = lens?.edit?.columns;
      if (!table || !role) return [];
      return [...columns].flatMap(([column, decides]): Finding[] => {
        const ways = [
          ...(edited?.has(column) ? ['edit' as const] : []),
          ...(decides !== 'rules' && grant.create?.columns.includes(column) ? ['create' as const] : []),
        ];
        const pressed = (lens?.actions ?? [])
          .filter(({ writes }) => writes.has(column))
          .map(({ action }) => ({ what: action.id, how: `may change ${name}.${column} by “${action.name}”` }));
        const granted = ways.map((what) => ({
          what,
          how: `may ${what === 'edit' ? 'change' : 'fill'} ${name}.${column}`,
        }));
        return [...granted, ...pressed].map(({ what, how }) => ({
          id: `written/${name}/${id}/${column}/${what}`,
          kind: 'rights can be written',
          severity: 'leak',
          place: isGranted(what)
            ? { stage: 'access', table: name, role: id, column, what }
            : { stage: 'pages', screen: '!actions', table: name, role: id, column, what },
          title: `${role.name} ${how}, which ${decided[decides]}`,
          why:
            'Whoever writes it decides what a member sees and does, and may be that member. Show it only, unless ' +
            'this role is to hand out rights.',
        }));
      });
    }),
  );
}
