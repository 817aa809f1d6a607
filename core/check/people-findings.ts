import type { PortalDefinition } from '../definition/definition';
import type { Finding } from './finding';
import type { PeopleFacts } from './people-facts';

/** What the members themselves show of the rules. */
export function findPeopleFaults(definition: PortalDefinition, facts: PeopleFacts): Finding[] {
  const role = (id: string) => definition.roles.find((each) => each.id === id)?.name ?? id;
  const empty = definition.roles.filter(
    (each) => (each.for ?? 'members') === 'members' && (facts.members[each.id] ?? 0) === 0,
  );
  const some = (names: string[], people: number) =>
    names.slice(0, 5).join(', ') + (people > 5 ? ` and ${(people - 5).toLocaleString('en')} more` : '');
  return [
    ...facts.lacking.map((each): Finding => ({
      id: `lacking/${each.table}/${each.role}/${each.fact}`,
      kind: 'members lack a fact',
      severity: 'broken',
      place: { stage: 'access', table: each.table, role: each.role },
      title:
        `${each.people.toLocaleString('en')} ${each.people === 1 ? 'member' : 'members'} of ${role(each.role)} ` +
        `have no ${each.fact}, which a rule on ${each.table} asks`,
      why: each.voids
        ? 'Nothing equals what is missing, so the rule lets nothing through for them: ' +
          `${some(each.names, each.people)}. Fill it in the roster's table.`
        : 'Nothing equals what is missing, so the part of the rule that asks it never holds for them; what the ' +
          `rest lets through they get: ${some(each.names, each.people)}. Fill it in the roster's table.`,
    })),
    ...(facts.twice.people === 0
      ? []
      : [
          {
            id: 'twice',
            kind: 'member on two rosters',
            severity: 'leak',
            place: { stage: 'people' },
            title:
              `${facts.twice.people.toLocaleString('en')} ` +
              `${facts.twice.people === 1 ? 'member stands' : 'members stand'} on more than one roster`,
            why:
              'One e-mail is one person, who has all those roles at once: ' +
              `${some(facts.twice.names, facts.twice.people)}. Look with Seen by whether that is meant.`,
          } satisfies Finding,
        ]),
    ...(facts.roleless.people === 0
      ? []
      : [
          {
            id: 'roleless',
            kind: 'member without role',
            severity: 'broken',
            place: { stage: 'people' },
            title:
              `${facts.roleless.people.toLocaleString('en')} ` +
              `${facts.roleless.people === 1 ? 'member has' : 'members have'} no role`,
            why:
              `They can sign in and see nothing: ${some(facts.roleless.names, facts.roleless.people)}. Their ` +
              'rosters give roles by rule, and no rule holds for their row.',
          } satisfies Finding,
        ]),
    ...empty.map((each): Finding => ({
      id: `empty/${each.id}`,
      kind: 'role without members',
      severity: 'broken',
      place: { stage: 'people' },
      title: `Nobody is ${each.name}`,
      why: 'No roster gives this role to a member, so its rules do nothing. Give it a roster, or remove it.',
    })),
  ];
}
