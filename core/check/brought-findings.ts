import { lensOf } from '../access/lens';
import type { Brought } from '../definition/brought';
import type { PortalDefinition } from '../definition/definition';
import { findTable, type Catalogue } from '../table/catalogue';
import type { Finding } from './finding';

/** What can't be brought from its address, as it is said. */
export function findBrought(
  definition: PortalDefinition,
  catalogue: Catalogue,
  isAway: (table: string) => boolean,
): Finding[] {
  return (definition.brought ?? []).flatMap((brought): Finding[] => {
    const problem = isAway(brought.table) ? null : problemOf(definition, catalogue, brought);
    if (problem === null) return [];
    return [
      {
        id: `brought/${brought.id}`,
        kind: 'bringing does not work',
        severity: 'broken',
        place: { stage: 'pages', screen: '!calls', what: brought.id },
        title: `“${brought.name}” can't be brought: ${problem}`,
        why: 'It is tried each day in vain, and the table stays as it is.',
      },
    ];
  });
}

function problemOf(
  definition: PortalDefinition,
  catalogue: Catalogue,
  { address, table: name, role: id }: Brought,
): string | null {
  if (!definition.addresses?.some((each) => each.id === address)) return 'the address that it comes from is gone';
  const table = findTable(catalogue, name);
  if (!table) return `there is no table ${name} any more`;
  const role = definition.roles.find((each) => each.id === id);
  if (role?.for !== 'services') return 'it needs a role for services, by whose rights it is brought';
  const lens = lensOf(definition, catalogue, table, id);
  if (!lens || lens.rows === 'no row') return `${role.name} sees nothing of ${name}`;
  return lens.create === null && lens.edit === null
    ? `${role.name} may neither add nor change anything in ${name}`
    : null;
}
