import publicDomains from 'email-providers/all.json' with { type: 'json' };
import { isForRowless } from '../access/open-roles';
import { checkCondition } from '../condition/check';
import { isVoidWithout } from '../condition/void-without';
import type { PortalDefinition, RowFilter } from '../definition/definition';
import { findTable, type Catalogue } from '../table/catalogue';
import { listed } from '../text/listed';
import type { Finding, Place } from './finding';

/** Domains of which anybody can have an address. Source: the package email-providers, some 8,700 of them. */
const ofEverybody = new Set(publicDomains);

/** What a portal is open to that nobody may have meant, and what people without a row see. */
export function findOpenDoors(definition: PortalDefinition, catalogue: Catalogue): Finding[] {
  const { openTo, signUps = [] } = definition;
  const place: Place = { stage: 'people', screen: '~sign-up' };
  const found = signUps.flatMap(({ id, name, domains }) => publicOnes(id, name, domains, place));
  if (!openTo) return found;
  found.push(...publicOnes('~domain', 'Open to domains', openTo.domains, place));
  const meant = openTo.roles.filter((id) => definition.roles.some((role) => role.id === id && isForRowless(role)));
  const names = (ids: string[]) => listed(ids.map((id) => definition.roles.find((role) => role.id === id)?.name ?? id));
  if (openTo.roles.length === 0)
    found.push({
      id: 'open-to/none',
      kind: 'sign-up does not work',
      severity: 'broken',
      place,
      title: 'Open to domains: no role is chosen, so nobody comes in',
      why: 'Choose a role under People, Sign-up, or take the domains off.',
    });
  const unmarked = openTo.roles.filter((id) => !meant.includes(id));
  if (unmarked.length > 0)
    found.push({
      id: 'open-to/roles',
      kind: 'sign-up does not work',
      severity: 'broken',
      place,
      title: `Open to domains: ${names(unmarked)} is not meant for people without a row`,
      why: 'So nobody gets it that way. Mark it under People, Roles, or take it off.',
    });
  return [...found, ...meant.flatMap((role) => seenWithoutRow(definition, catalogue, role))];
}

function publicOnes(id: string, name: string, domains: readonly string[] | undefined, place: Place): Finding[] {
  const open = (domains ?? []).filter((domain) => ofEverybody.has(domain.toLowerCase()));
  return open.length === 0
    ? []
    : [
        {
          id: `public-domain/${id}`,
          kind: 'domain of everybody',
          severity: 'leak',
          place,
          title: `${name}: anybody can get an address of ${listed(open)}`,
          why: 'It is a provider of mail for the public, so the domain keeps nobody out. Take it off the list.',
        },
      ];
}

/** Tables of which a role sees rows with no fact but an address: rules that don't fail closed. */
function seenWithoutRow(definition: PortalDefinition, catalogue: Catalogue, role: string): Finding[] {
  const name = definition.roles.find(({ id }) => id === role)!.name;
  return Object.entries(definition.access).flatMap(([table, grants]): Finding[] => {
    const where = grants[role]?.see?.where;
    if (where === undefined || !isOpenWithoutRow(where, catalogue, table)) return [];
    return [
      {
        id: `seen-without-row/${table}/${role}`,
        kind: 'seen without a row',
        severity: 'leak',
        place: { stage: 'access', table, role, what: 'see' },
        title: `Whoever has an address of an open domain may see rows of ${table}, as ${name}`,
        why:
          'Of them nothing is known but the address, and this rule needs no more: it says every row, or asks nothing ' +
          'of their own row that must hold. Accept it where it is meant.',
      },
    ];
  });
}

function isOpenWithoutRow(where: RowFilter, catalogue: Catalogue, name: string): boolean {
  const table = findTable(catalogue, name);
  if (!table) return false;
  if (where === 'every row') return true;
  // One that does not work shows nothing, and is found elsewhere.
  if (checkCondition(where, { catalogue, table, member: true }).length > 0) return false;
  return !isVoidWithout(where, ([fact, ...further]) => further.length > 0 || fact === 'organisation');
}
