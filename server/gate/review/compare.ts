import type { DefinitionAt } from '../view/definition-at';
import {
  addRows,
  isChange,
  noChange,
  tellingRules,
  viewPair,
  type ViewChange,
  type ViewPair,
} from '../../../core/access/compare';
import {
  factsOfRules,
  groupPeople,
  namedInMasks,
  personOf,
  rolesOf,
  withVisitor,
  type KnownPerson,
  type PersonGroup,
} from '../../../core/access/people';
import { comma, joined, name, sql, type Sql } from '../../../core/sql/sql';
import type { PortalDefinition } from '../../../core/definition/definition';
import type { Catalogue, Table } from '../../../core/table/catalogue';
import type { Runner } from '../../sources/source';
import { flags, pairs, PeopleSql } from '../view/people-sql';
import { Tables } from '../view/tables';
import { ViewSql } from '../view/view-sql';

/** What changes on one table for the persons of a group; only groups for whom something changes are listed. */
export interface ComparedGroup {
  table: string;
  rolesBefore: string[];
  rolesAfter: string[];
  /** The facts by which the group's rows are told, by their text. */
  facts: Record<string, unknown>;
  people: { id: number | null; name: string }[];
  change: ViewChange;
}

/** So many groups travel in one statement: several smaller ones take longer together. */
const groupsAtOnce = 2500;

/** So many statements are asked at the same time: it is the database that is waited for, and that has several cores. */
const statementsAtOnce = 2;

/** Groups of persons for whom one statement tells what changes on a table. */
interface Ask {
  table: Table;
  rolesBefore: string[];
  rolesAfter: string[];
  pair: ViewPair;
  /** Of the pair's rules those that are asked for. */
  telling: number[];
  facts: string[][];
  groups: PersonGroup[];
}

/**
 * Compares two definitions on the data as it is: for each table and each group of persons with the same roles and
 * facts, how many rows they gain and lose, and which cells open and close. Rows are counted in the database and never
 * loaded. `progress` is told how many tables are behind it; what it throws ends the comparison.
 */
export async function compareDefinitions(
  runner: Runner,
  catalogue: Catalogue,
  before: PortalDefinition,
  after: PortalDefinition,
  people: readonly KnownPerson[],
  moment: Date,
  progress: (done: number) => Promise<void> = () => Promise.resolve(),
): Promise<ComparedGroup[]> {
  const at = { runner, catalogue, definition: after, moment };
  const asks = asksFor(catalogue, before, after, people);
  const compared: ComparedGroup[][] = [];
  const lane = async (): Promise<void> => {
    for (;;) {
      const next = asks.next();
      if (next.done) return;
      const place = compared.push([]) - 1;
      await progress(catalogue.tables.indexOf(next.value.table));
      compared[place] = await comparedBy(at, next.value);
    }
  };
  // Where one fails nothing further is asked, and the others are waited for.
  const lanes = await Promise.allSettled(
    Array.from({ length: statementsAtOnce }, () =>
      lane().catch((error: unknown) => {
        asks.return();
        throw error;
      }),
    ),
  );
  for (const each of lanes) if (each.status === 'rejected') throw each.reason;
  return compared.flat();
}

/** One after the other, since the groups of all tables together would take much room. */
function* asksFor(
  catalogue: Catalogue,
  before: PortalDefinition,
  after: PortalDefinition,
  people: readonly KnownPerson[],
): Generator<Ask, void> {
  const everyone = withVisitor(people, before, after);
  const named = namedInMasks(before, after);
  for (const table of catalogue.tables) {
    // First by roles alone: whoever has the same roles has the same rules, and mostly nothing changed.
    for (const alike of groupPeople(
      everyone,
      (person) => [JSON.stringify([rolesOf(before, catalogue, person), rolesOf(after, catalogue, person)])],
      [],
      named,
    )) {
      const [rolesBefore, rolesAfter] = JSON.parse(alike.roles[0]!) as [string[], string[]];
      const [was, is] = [personOf(alike, rolesBefore), personOf(alike, rolesAfter)];
      const pair = viewPair(before, after, catalogue, table, was, is);
      if (!pair) continue;
      const telling = tellingRules(pair);
      const rules = telling.map((place) => pair.rules[place]!);
      const facts = factsOfRules(rules, catalogue, table);
      const groups = groupPeople(alike.people, () => [], facts, named);
      for (let from = 0; from < groups.length; from += groupsAtOnce)
        yield { table, rolesBefore, rolesAfter, pair, telling, facts, groups: groups.slice(from, from + groupsAtOnce) };
    }
  }
}

async function comparedBy(at: DefinitionAt, ask: Ask): Promise<ComparedGroup[]> {
  const { table, rolesBefore, rolesAfter, facts, groups } = ask;
  const changes = await changesOf(at, ask);
  return changes.flatMap((change, i) =>
    isChange(change)
      ? {
          table: table.name,
          rolesBefore,
          rolesAfter,
          facts: Object.fromEntries(facts.map((fact, j) => [fact.join('.'), groups[i]!.facts[j]])),
          people: groups[i]!.people.map((person) => ({ id: person.id, name: person.name })),
          change,
        }
      : [],
  );
}

/**
 * The rows of each group by which rules hold for them, counted by the database; what that means is worked out by core.
 */
async function changesOf(at: DefinitionAt, { table, pair, telling, facts, groups }: Ask): Promise<ViewChange[]> {
  const rules = telling.map((place) => pair.rules[place]!);
  const { runner, catalogue, definition, moment } = at;
  const people = new PeopleSql(catalogue, facts, groups);
  const compile = new ViewSql(
    { definition, catalogue, person: personOf(groups[0]!, []), moment },
    new Map(),
    people.fact,
  );
  const seen = [...new Set([...pair.places.before, ...pair.places.after].map((place) => place.seen))]
    .filter((place) => telling.includes(place))
    .map((place) => pair.rules[place]!);
  const changes = groups.map(() => noChange(pair));
  if (seen.length === 0) return changes;
  const named = (pieces: Sql[], prefix: string) =>
    joined(
      pieces.map((piece, i) => sql`${piece} AS ${name(`${prefix}${i}`)}`),
      comma,
    );
  const selected = (tables: Tables) => named([people.group, ...flags(rules, tables, compile)], 'c');
  const united = joined(
    pairs(
      people,
      () => new Tables(catalogue, table),
      () => compile,
      seen,
      selected,
    ),
    sql` UNION ALL `,
  );
  const columns = joined(
    [people.group, ...rules].map((_, i) => name(`c${i}`)),
    comma,
  );
  const found = await runner.rows(sql`SELECT ${columns}, COUNT(*) AS n FROM (${united}) pairs GROUP BY ${columns}`);
  for (const row of found) {
    const holds = pair.rules.map(() => false);
    telling.forEach((place, i) => (holds[place] = Number(row[i + 1]) === 1));
    addRows(changes[Number(row[0])]!, pair, holds, Number(row[rules.length + 1]));
  }
  return changes;
}
