import { anyCondition, makeScenario, roles, today, withColumns } from '../../test/judge/scenario';
import { Random } from '../../test/judge/random';
import { rolesOf, type KnownPerson } from '../../core/access/people';
import { type Person } from '../../core/access/person';
import { roleRuleProblem } from '../../core/access/roster-roles';
import type { Catalogue } from '../../core/table/catalogue';
import type { PortalDefinition, Roster } from '../../core/definition/definition';
import { NotFound } from './view/errors';
import { list } from './read/list';
import { read } from './read/read';
import type { OpenRecord } from './view/open-record';
import type { Visit } from './view/visit';
import type { Source } from '../sources/source';

export const moment = new Date(`${today}T12:00:00Z`);

/** A scenario with its people, and two definitions of it. */
export function randomPeople(seed: number): {
  scenario: ReturnType<typeof makeScenario>;
  people: KnownPerson[];
  before: PortalDefinition;
  after: PortalDefinition;
} {
  const scenario = makeScenario(seed);
  const random = new Random(seed);
  // A role is given to everyone on the roster, or by a rule on their row.
  const roster = scenario.catalogue.tables.find((each) => each.name === 'people')!;
  const rule = () =>
    Array.from({ length: 20 }, () => anyCondition(random, scenario.catalogue, roster, 1)).find(
      (where) => roleRuleProblem(where, scenario.catalogue, roster) === null,
    );
  const rosters = () =>
    random.some(roles, 0.6).map((role): Roster => {
      const where = random.chance(0.5) ? rule() : undefined;
      return { table: 'people', name: 't', email: 't', ...(where ? { roles: [{ role, where }] } : { role }) };
    });
  const changed = makeScenario(seed + 1_000_000);
  // The same tables under other rules: a few grants are taken from another portal where they fit, columns and masks are
  // drawn anew.
  const before: PortalDefinition = { ...withColumns(scenario), rosters: rosters() };
  const after: PortalDefinition = {
    ...withColumns({ ...scenario, seed: changed.seed }),
    rosters: random.chance(0.6) ? before.rosters : rosters(),
  };
  for (const [table, grants] of Object.entries(after.access)) {
    for (const grant of Object.values(grants)) {
      if (grant.see && random.chance(0.5))
        grant.see.where = anyCondition(
          random,
          scenario.catalogue,
          scenario.catalogue.tables.find((each) => each.name === table)!,
          1,
        );
    }
  }
  const people = scenario.persons.map((person, i): KnownPerson => ({
    id: i + 1,
    name: `P${i}`,
    email: person.email,
    organisation: person.organisation,
    rows: person.rows,
  }));
  return { scenario, people, before, after };
}

/** A member as a definition has them. */
export const personUnder = (definition: PortalDefinition, catalogue: Catalogue, known: KnownPerson): Person => ({
  ...known,
  kind: known.id === null ? 'visitor' : 'member',
  roles: rolesOf(definition, catalogue, known),
});

/** Every record that a person sees of a table, with what may be done with it; by its key. */
export async function everything(source: Source, visit: Visit, table: string): Promise<Map<string, OpenRecord>> {
  const found = new Map<string, OpenRecord>();
  try {
    const { records } = await list(source, visit, table, {
      columns: [],
      sort: [],
      where: [],
      search: '',
      after: null,
      before: null,
      size: 200,
    });
    for (const record of records) found.set(record.id!, await read(source, visit, table, record.id!));
  } catch (error) {
    if (!(error instanceof NotFound)) throw error;
  }
  return found;
}
