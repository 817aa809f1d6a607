import type { DefinitionAt } from '../view/definition-at';
import {
  factsOfRules,
  groupPeople,
  namedInMasks,
  personOf,
  rolesOf,
  withVisitor,
  type KnownPerson,
} from '../../../core/access/people';
import {
  isAbout,
  isCertain,
  promiseProblem,
  reachOf,
  shownByQuery,
  type PromiseOutcome,
  type Reach,
  type RulePromise,
} from '../../../core/access/promises';
import { madeByActions } from '../../../core/access/made-by-actions';
import type { Rows } from '../../../core/access/rows';
import { viewOf } from '../../../core/access/view';
import { comma, joined, name, sql, type Sql } from '../../../core/sql/sql';
import type { PortalPromise } from '../../../core/definition/promise';
import { findColumn, findTable, type Table } from '../../../core/table/catalogue';
import { decode } from '../view/decode';
import { NotFound } from '../view/errors';
import { count } from '../read/list';
import { pairs, PeopleSql } from '../view/people-sql';
import { recordId } from '../view/record-id';
import { Tables } from '../view/tables';
import { no, ViewSql, yes } from '../view/view-sql';

/**
 * Tests every promise of a definition: by analysis where that is certain, else on the data for every member concerned.
 */
export async function testPromises(at: DefinitionAt, people: readonly KnownPerson[]): Promise<PromiseOutcome[]> {
  const { definition } = at;
  const everyone = withVisitor(people, definition);
  const outcomes: PromiseOutcome[] = [];
  for (const promise of definition.promises ?? []) outcomes.push(await testPromise(at, everyone, promise));
  return outcomes;
}

async function testPromise(at: DefinitionAt, everyone: KnownPerson[], promise: PortalPromise): Promise<PromiseOutcome> {
  const { catalogue, definition } = at;
  const problem = promiseProblem(promise, definition, catalogue);
  if (problem !== null) return { id: promise.id, kept: false, by: 'analysis', problem };
  const concerned = everyone.filter((person) => isAbout(promise, definition, catalogue, person));
  if ('member' in promise.who && concerned.length === 0)
    return { id: promise.id, kept: false, by: 'data', problem: `there is no member ${promise.who.member}` };
  if (promise.says === 'sees exactly') return countedPromise(at, concerned[0]!, promise);

  const table = findTable(catalogue, promise.table)!;
  let by: PromiseOutcome['by'] = 'analysis';
  for (const alike of groupPeople(
    concerned,
    (person) => rolesOf(definition, catalogue, person),
    [],
    namedInMasks(definition),
  )) {
    const [one] = alike.people;
    const query = shownByQuery(promise, definition, catalogue, personOf(alike, alike.roles));
    if (query)
      return {
        id: promise.id,
        kept: false,
        by: 'analysis',
        counterExample: { person: { id: one!.id, name: one!.name }, record: null },
        problem: `the saved query ${query.table} shows it in ${query.column}`,
      };
    const view = viewOf(definition, catalogue, table, personOf(alike, alike.roles));
    const made = madeByActions(definition, catalogue, promise.table, alike.roles);
    const reach = reachOf(view, promise, made);
    if (isCertain(promise, reach, view, catalogue)) continue;
    const [first] = alike.people;
    if (promise.operation === 'create') {
      // What nobody has made yet is not in the data.
      return {
        id: promise.id,
        kept: false,
        by: 'analysis',
        counterExample: { person: { id: first!.id, name: first!.name }, record: null },
        problem: 'it is not certain what records they could make',
      };
    }
    by = 'data';
    const found = await counterExample(at, table, promise, reach, alike.people);
    if (found) return { id: promise.id, kept: false, by, counterExample: found };
  }
  return { id: promise.id, kept: true, by };
}

async function countedPromise(
  at: DefinitionAt,
  person: KnownPerson,
  promise: Extract<PortalPromise, { says: 'sees exactly' }>,
): Promise<PromiseOutcome> {
  const { runner, catalogue, definition, moment } = at;
  const visit = {
    definition,
    catalogue,
    moment,
    person: { ...person, kind: 'member' as const, roles: rolesOf(definition, catalogue, person) },
  };
  const found = await count(runner, visit, promise.table).catch((error: unknown) => {
    if (error instanceof NotFound) return 0;
    throw error;
  });
  return {
    id: promise.id,
    kept: found === promise.records,
    by: 'data',
    ...(found === promise.records
      ? {}
      : { counterExample: { person: { id: person.id, name: person.name }, record: null, found } }),
  };
}

const groupsAtOnce = 2500;

/** The first person and record that break the promise; null when none does. */
async function counterExample(
  at: DefinitionAt,
  table: Table,
  promise: RulePromise,
  reach: Reach,
  concerned: KnownPerson[],
): Promise<NonNullable<PromiseOutcome['counterExample']> | null> {
  const { runner, catalogue, definition, moment } = at;
  const asRows = (condition: Reach): Rows =>
    condition === 'no row'
      ? 'no row'
      : condition === null
        ? []
        : [{ origin: { kind: 'filter', of: 'see' }, where: condition }];
  const [reached, wanted] = [asRows(reach), asRows(promise.where ?? null)];
  const facts = factsOfRules([reached, wanted], catalogue, table);
  const groups = groupPeople(concerned, () => [], facts, new Set());
  for (let from = 0; from < groups.length; from += groupsAtOnce) {
    const some = groups.slice(from, from + groupsAtOnce);
    const people = new PeopleSql(catalogue, facts, some);
    const compile = new ViewSql(
      { definition, catalogue, person: personOf(some[0]!, []), moment },
      new Map(),
      people.fact,
    );
    const key = table.key.map((column) => findColumn(table, column)!);
    const breaks = (tables: Tables): Sql => {
      const is = (rows: Rows) =>
        sql`((${rows === 'no row' ? no : rows.length ? compile.filter(rows, tables) : yes}) IS TRUE)`;
      return promise.says === 'may never'
        ? sql`${is(reached)} AND ${is(wanted)}`
        : promise.says === 'may only'
          ? sql`${is(reached)} AND NOT ${is(wanted)}`
          : sql`${is(wanted)} AND NOT ${is(reached)}`;
    };
    const selected = (tables: Tables) =>
      joined(
        [people.group, ...key.map((column) => sql`${tables.root}.${name(column.name)}`), breaks(tables)].map(
          (piece, i) => sql`${piece} AS ${name(`c${i}`)}`,
        ),
        comma,
      );
    const united = joined(
      pairs(
        people,
        () => new Tables(catalogue, table),
        () => compile,
        [promise.says === 'must be able to' ? wanted : reached],
        selected,
      ),
      sql` UNION ALL `,
    );
    const [row] = await runner.rows(
      sql`SELECT ${joined(
        [0, ...key.map((_, i) => i + 1)].map((i) => name(`c${i}`)),
        comma,
      )} FROM (${united}) pairs WHERE ${name(`c${key.length + 1}`)} LIMIT 1`,
    );
    if (row) {
      const [person] = some[Number(row[0])]!.people;
      return {
        person: { id: person!.id, name: person!.name },
        record: key.length ? recordId(key.map((column, i) => decode(column, row[i + 1]))) : null,
      };
    }
  }
  return null;
}
