import { conditionsOf } from '../access/grant-conditions';
import { factOf, rolesOf, type KnownPerson } from '../access/people';
import { checkCondition } from '../condition/check';
import { factsUsed } from '../condition/analyse';
import { isVoidWithout } from '../condition/void-without';
import type { PortalDefinition } from '../definition/definition';
import { findTable, type Catalogue } from '../table/catalogue';

/** What the members themselves say of a draft's rules. */
export interface PeopleFacts {
  /** Members by role. */
  members: Record<string, number>;
  /** Facts that a role's conditions on a table ask, and that some of its members lack: the rule then fails for them. */
  lacking: {
    table: string;
    role: string;
    fact: string;
    people: number;
    names: string[];
    /** Whether nothing passes for them: no part of the rules holds without it. */ voids: boolean;
  }[];
  /** Members who stand on more than one roster. */
  twice: { people: number; names: string[] };
  /** Pairs of roles of which everyone who has the first has the second, too. */
  together: [string, string][];
  /** Members whose roster rows give them no role. */
  roleless: { people: number; names: string[] };
}

const namedAtMost = 20;

/** Goes through all members once for each role and table with conditions on them. */
export function peopleFacts(
  definition: PortalDefinition,
  catalogue: Catalogue,
  people: readonly KnownPerson[],
): PeopleFacts {
  const byRole = new Map(definition.roles.map((role): [string, KnownPerson[]] => [role.id, []]));
  const roleless: KnownPerson[] = [];
  for (const person of people) {
    const roles = rolesOf(definition, catalogue, person);
    for (const role of roles) byRole.get(role)?.push(person);
    if (roles.length === 0 && person.id !== null) roleless.push(person);
  }
  const lacking = Object.entries(definition.access).flatMap(([name, grants]) =>
    Object.entries(grants).flatMap(([role, grant]): PeopleFacts['lacking'] => {
      const table = findTable(catalogue, name);
      if (!table) return [];
      const scope = { catalogue, table, member: true };
      const facts = conditionsOf(grant)
        .filter((condition) => checkCondition(condition, scope).length === 0)
        .flatMap((condition) => factsUsed(condition, scope));
      return [...new Map(facts.map((fact) => [fact.join('.'), fact]))].flatMap(([text, fact]) => {
        // Of people without a row nothing is known, as is meant; what they see all the same is found elsewhere.
        const without = (byRole.get(role) ?? []).filter(
          (person) => !person.withoutRow && factOf(person, fact) === null,
        );
        const asking = conditionsOf(grant).filter(
          (condition) =>
            checkCondition(condition, scope).length === 0 &&
            factsUsed(condition, scope).some((each) => each.join('.') === text),
        );
        return without.length === 0
          ? []
          : [
              {
                table: name,
                role,
                fact: text,
                people: without.length,
                names: without.slice(0, namedAtMost).map((person) => person.name),
                voids: asking.every((condition) => isVoidWithout(condition, (each) => each.join('.') === text)),
              },
            ];
      });
    }),
  );
  const twice = people.filter((person) => Object.keys(person.rows).length > 1);
  return {
    members: Object.fromEntries([...byRole].map(([role, members]) => [role, members.length])),
    lacking,
    twice: someOf(twice),
    roleless: someOf(roleless),
    together: togetherOf(people.map((person) => rolesOf(definition, catalogue, person))),
  };
}

function togetherOf(rolesOfAll: readonly string[][]): [string, string][] {
  const seen = new Map<string, Map<string, number>>();
  for (const roles of rolesOfAll)
    for (const one of roles) {
      const beside = seen.get(one) ?? new Map<string, number>();
      seen.set(one, beside);
      for (const other of roles) beside.set(other, (beside.get(other) ?? 0) + 1);
    }
  return [...seen].flatMap(([one, beside]) =>
    [...beside]
      .filter(([other, times]) => other !== one && times === beside.get(one))
      .map(([other]): [string, string] => [one, other]),
  );
}

function someOf(people: readonly KnownPerson[]): { people: number; names: string[] } {
  return { people: people.length, names: people.slice(0, namedAtMost).map((person) => person.name) };
}
