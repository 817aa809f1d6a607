import { factOf, rolesOf, type KnownPerson } from '../access/people';
import { checkCondition } from '../condition/check';
import { factsUsed } from '../condition/analyse';
import type { Condition } from '../condition/tree';
import type { Grant, PortalDefinition } from '../definition/definition';
import { findTable, type Catalogue } from '../table/catalogue';

/** What the members themselves say of a draft's rules. */
export interface PeopleFacts {
  /** Members by role. */
  members: Record<string, number>;
  /** Facts that a role's conditions on a table ask, and that some of its members lack: the rule then fails for them. */
  lacking: { table: string; role: string; fact: string; people: number; names: string[] }[];
  /** Members who stand on more than one roster. */
  twice: { people: number; names: string[] };
  /** Members whose roster rows give them no role. */
  roleless: { people: number; names: string[] };
}

const namedAtMost = 20;

/** Goes through all members once for each role and table with conditions on them. */
export function peopleFacts(definition: PortalDefinition, catalogue: Catalogue, people: readonly KnownPerson[]): PeopleFacts {
  const byRole = new Map(definition.roles.map((role): [string, KnownPerson[]] => [role.id, []]));
  const roleless: KnownPerson[] = [];
  for (const person of people) {
    const roles = rolesOf(definition, catalogue, person);
    for (const role of roles) byRole.get(role)?.push(person);
    if (roles.length === 0 && person.id !== null) roleless.push(person);
  }
  const lacking = Object.entries(definition.access).flatMap(([name, grants]) => Object.entries(grants).flatMap(([role, grant]): PeopleFacts['lacking'] => {
    const table = findTable(catalogue, name);
    if (!table) return [];
    const scope = { catalogue, table, member: true };
    const facts = conditionsOf(grant).filter((condition) => checkCondition(condition, scope).length === 0).flatMap((condition) => factsUsed(condition, scope));
    return [...new Map(facts.map((fact) => [fact.join('.'), fact]))].flatMap(([text, fact]) => {
      const without = (byRole.get(role) ?? []).filter((person) => factOf(person, fact) === null);
      return without.length === 0 ? [] : [{ table: name, role, fact: text, people: without.length, names: without.slice(0, namedAtMost).map((person) => person.name) }];
    });
  }));
  const twice = people.filter((person) => Object.keys(person.rows).length > 1);
  return { members: Object.fromEntries([...byRole].map(([role, members]) => [role, members.length])), lacking, twice: someOf(twice), roleless: someOf(roleless) };
}

function someOf(people: readonly KnownPerson[]): { people: number; names: string[] } {
  return { people: people.length, names: people.slice(0, namedAtMost).map((person) => person.name) };
}

/** The conditions that stand in a grant itself. */
export function conditionsOf(grant: Grant): Condition[] {
  return [grant.see?.where, grant.create?.keepIn, grant.edit?.where, grant.edit?.keepIn, grant.delete?.where, grant.export?.where].filter((where) => typeof where === 'object');
}
