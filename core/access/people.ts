import type { Condition } from '../condition/tree';
import { factsUsed } from '../condition/analyse';
import type { PortalDefinition } from '../definition/definition';
import type { Catalogue, Table } from '../table/catalogue';
import type { Row, Value } from '../table/value';
import { visitorPerson, type Person } from './person';
import { openRoles } from './open-roles';
import { rolesOfRows } from './roster-roles';
import type { Rows } from './rows';

/** A member as far as rights depend on them: the roster rows that are theirs, by table. */
export interface KnownPerson {
  /** Null for the visitor. */
  id: number | null;
  name: string;
  email: string | null;
  organisation: string | null;
  rows: Record<string, Row>;
  /** Roles that were given to them by hand. */
  given?: string[];
  /** They came by a domain that the portal is open to, and stand on no roster. */
  withoutRow?: boolean;
  /** As a person has it. */
  along?: Record<string, Value>;
}

/** Persons who are the same to every rule asked about: same roles, same facts. */
export interface PersonGroup {
  roles: string[];
  /** Facts by their text (`id`, `owners.parish`), in the order of `facts`. */
  facts: Value[];
  /** E-mail, where masks except members by name. */
  email: string | null;
  people: KnownPerson[];
}

/** The members, and the visitor where any of the definitions lets visitors in. */
export function withVisitor(people: readonly KnownPerson[], ...definitions: PortalDefinition[]): KnownPerson[] {
  const open = definitions.some((definition) => visitorPerson(definition).roles.length > 0);
  return open ? [...people, { id: null, name: 'Visitor', email: null, organisation: null, rows: {} }] : [...people];
}

/** The roles of a person under a definition: those of the rosters that they stand on, or of a domain it is open to. */
export function rolesOf(
  definition: PortalDefinition,
  catalogue: Catalogue,
  person: Pick<KnownPerson, 'id' | 'email' | 'rows' | 'given' | 'withoutRow'>,
): string[] {
  if (person.id === null) return visitorPerson(definition).roles;
  return person.withoutRow && Object.keys(person.rows).length === 0
    ? openRoles(definition, person.email ?? '')
    : rolesOfRows(definition, catalogue, person.rows, person.given);
}

/** The value of a fact, as `contextOf` has it. */
export function factOf(person: KnownPerson, fact: readonly string[]): Value {
  if (fact.length === 1)
    return fact[0] === 'id'
      ? person.id
      : fact[0] === 'email'
        ? person.email
        : fact[0] === 'organisation'
          ? person.organisation
          : null;
  if (fact.length > 2) {
    const key = JSON.stringify(fact);
    return person.along && Object.hasOwn(person.along, key) ? person.along[key]! : null;
  }
  const row = Object.hasOwn(person.rows, fact[0]!) ? person.rows[fact[0]!]! : {};
  return Object.hasOwn(row, fact[1]!) ? row[fact[1]!]! : null;
}

/** Puts together who has the same roles (under each definition) and the same facts. */
export function groupPeople(
  people: readonly KnownPerson[],
  roles: (person: KnownPerson) => string[],
  facts: readonly string[][],
  namedInMasks: ReadonlySet<string>,
): PersonGroup[] {
  const groups = new Map<string, PersonGroup>();
  for (const person of people) {
    const group: PersonGroup = {
      roles: roles(person),
      facts: facts.map((fact) => factOf(person, fact)),
      email: person.email !== null && namedInMasks.has(person.email) ? person.email : null,
      people: [],
    };
    const key = JSON.stringify([
      group.roles,
      group.facts.map(String),
      group.facts.map((value) => value === null),
      group.email,
    ]);
    const known = groups.get(key) ?? group;
    known.people.push(person);
    groups.set(key, known);
  }
  return [...groups.values()];
}

/** The members whom masks of a definition except by name. */
export function namedInMasks(...definitions: PortalDefinition[]): Set<string> {
  return new Set(definitions.flatMap((definition) => definition.masks.flatMap((rule) => rule.exceptMembers ?? [])));
}

/** Somebody who is known, as the person that they are with these roles. */
export const knownAs = (known: KnownPerson, roles: string[]): Person => ({
  kind: known.id === null ? 'visitor' : 'member',
  id: known.id,
  email: known.email,
  organisation: known.organisation,
  roles,
  rows: known.rows,
  ...(known.along ? { along: known.along } : {}),
});

/** A person of the group, for making views. */
export function personOf(group: PersonGroup, roles: string[]): Person {
  return { kind: 'member', id: null, email: group.email, organisation: null, roles, rows: {} };
}

/** Every fact that the rules ask, each once, in a fixed order. */
export function factsOfRules(rules: (Rows | null | undefined)[], catalogue: Catalogue, table: Table): string[][] {
  const facts = conditionsOf(rules).flatMap((condition) => factsUsed(condition, { catalogue, table, member: true }));
  return [...new Map(facts.map((fact) => [JSON.stringify(fact), fact])).values()].toSorted((a, b) =>
    JSON.stringify(a) < JSON.stringify(b) ? -1 : 1,
  );
}

function conditionsOf(rules: (Rows | null | undefined)[]): Condition[] {
  return rules.flatMap((rows) => (rows && rows !== 'no row' ? rows.map((part) => part.where) : []));
}
