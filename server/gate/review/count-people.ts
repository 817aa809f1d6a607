import type { DefinitionAt } from '../view/definition-at';
import { factsOfRules, groupPeople, type KnownPerson, personOf } from '../../../core/access/people';
import type { Rows } from '../../../core/access/rows';
import { joined, sql } from '../../../core/sql/sql';
import type { Condition } from '../../../core/condition/tree';
import type { Table } from '../../../core/table/catalogue';
import { pairs, PeopleSql } from '../view/people-sql';
import { Tables } from '../view/tables';
import { ViewSql } from '../view/view-sql';

/** How many rows a condition lets through for each of many persons. */
export interface PeopleCount {
  people: number;
  least: number;
  most: number;
  /** How many get none, and the first of them by name. */
  withNone: number;
  none: { id: number | null; name: string }[];
}

/** So many groups travel in one statement. */
const groupsAtOnce = 2500;
const namedAtMost = 200;

/**
 * Counts the raw rows that a policy's condition lets through for each person, in one statement: persons with the same
 * facts are counted once.
 */
export async function countForPeople(
  at: DefinitionAt,
  table: Table,
  condition: Condition,
  people: readonly KnownPerson[],
): Promise<PeopleCount> {
  const { groups, selects } = ruleForPeople(at, table, condition, people);
  const counts = groups.map(() => 0);
  for (let from = 0; from < groups.length; from += groupsAtOnce) {
    const united = joined(selects(from), sql` UNION ALL `);
    for (const row of await at.runner.rows(sql`SELECT c0, COUNT(*) AS n FROM (${united}) pairs GROUP BY c0`))
      counts[from + Number(row[0])] = Number(row[1]);
  }
  const none = groups
    .flatMap((group, i) => (counts[i] === 0 ? group.people : []))
    .toSorted((a, b) => a.name.localeCompare(b.name));
  return {
    people: people.length,
    least: people.length === 0 ? 0 : Math.min(...counts),
    most: people.length === 0 ? 0 : Math.max(...counts),
    withNone: none.length,
    none: none.slice(0, namedAtMost).map(({ id, name }) => ({ id, name })),
  };
}

/** Whether a policy's condition lets a raw row through for anybody: like counting them, but the first row is enough. */
export async function anyForPeople(
  at: DefinitionAt,
  table: Table,
  condition: Condition,
  people: readonly KnownPerson[],
): Promise<boolean> {
  const { groups, selects } = ruleForPeople(at, table, condition, people);
  for (let from = 0; from < groups.length; from += groupsAtOnce)
    for (const select of selects(from)) if ((await at.runner.rows(sql`${select} LIMIT 1`)).length > 0) return true;
  return false;
}

/** Persons with the same facts as one group, and the statements that pair groups, from one on, with their rows. */
function ruleForPeople(at: DefinitionAt, table: Table, condition: Condition, people: readonly KnownPerson[]) {
  const { catalogue, definition, moment } = at;
  const rule: Rows = [{ origin: { kind: 'filter', of: 'see' }, where: condition }];
  const facts = factsOfRules([rule], catalogue, table);
  const groups = groupPeople(people, () => [], facts, new Set());
  const selects = (from: number) => {
    const travelling = new PeopleSql(catalogue, facts, groups.slice(from, from + groupsAtOnce));
    const person = personOf(groups[from]!, []);
    const compile = new ViewSql({ definition, catalogue, person, moment }, new Map(), travelling.fact);
    return pairs(
      travelling,
      () => new Tables(catalogue, table),
      () => compile,
      [rule],
      () => sql`${travelling.group} AS c0`,
    );
  };
  return { groups, selects };
}
