import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { loadIntoMariadb } from '../../test/judge/load';
import { anyCondition, makeScenario, roles, today, withColumns } from '../../test/judge/scenario';
import { Random } from '../../test/judge/random';
import { freshSchema } from '../../test/tables';
import { rolesOf, type KnownPerson } from '../../core/access/people';
import { contextOf, type Person } from '../../core/access/person';
import { evaluate } from '../../core/condition/evaluate';
import { MemoryRecords } from '../../test/memory-records';
import { cellOf } from '../../core/access/rights';
import { viewOf } from '../../core/access/view';
import { moreOpen, type Openness } from '../../core/access/lens';
import { roleRuleProblem } from '../../core/access/roster-roles';
import type { Catalogue } from '../../core/table/catalogue';
import type { PortalDefinition, PortalPromise, Roster } from '../../core/definition/definition';
import { MariadbSource } from '../sources/mariadb';
import { compareDefinitions } from './review/compare';
import { NotFound } from './view/errors';
import { list } from './read/list';
import { testPromises } from './review/promises';
import { read } from './read/read';
import type { OpenRecord } from './view/open-record';
import type { Visit } from './view/visit';

/**
 * What compare and promises reckon for all persons at once is held against asking the gate person by person, record by
 * record.
 */
let connection: Connection;
let source: MariadbSource;
const moment = new Date(`${today}T12:00:00Z`);

beforeAll(async () => {
  connection = await freshSchema(inject('database'), 'compare');
  source = new MariadbSource(inject('database'), 'compare');
});

afterAll(async () => {
  await source?.close();
  await connection?.end();
});

function randomPeople(seed: number): {
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

const personUnder = (definition: PortalDefinition, catalogue: Catalogue, known: KnownPerson): Person => ({
  ...known,
  kind: known.id === null ? 'visitor' : 'member',
  roles: rolesOf(definition, catalogue, known),
});

async function everything(visit: Visit, table: string): Promise<Map<string, OpenRecord>> {
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

describe('comparing two definitions', () => {
  it('counts what asking person by person finds', async () => {
    let changes = 0;
    for (let seed = 1; seed <= 14; seed++) {
      const { scenario, people, before, after } = randomPeople(seed);
      const catalogue = await loadIntoMariadb(scenario, connection, source);
      const compared = await compareDefinitions(source, catalogue, before, after, people, moment);
      for (const known of people) {
        for (const table of catalogue.tables.filter((each) => each.name !== 'people')) {
          const [was, is] = [
            await everything(
              { definition: before, catalogue, person: personUnder(before, catalogue, known), moment },
              table.name,
            ),
            await everything(
              { definition: after, catalogue, person: personUnder(after, catalogue, known), moment },
              table.name,
            ),
          ];
          const expected = {
            gained: [...is.keys()].filter((id) => !was.has(id)).length,
            lost: [...was.keys()].filter((id) => !is.has(id)).length,
          };
          const editable = (side: Map<string, OpenRecord>) =>
            [...side].flatMap(([id, record]) => record.editable.map((column) => `${id} ${column}`));
          const [couldEdit, canEdit] = [new Set(editable(was)), new Set(editable(is))];
          const deletable = (side: Map<string, OpenRecord>) =>
            new Set([...side].filter(([, record]) => record.deletable).map(([id]) => id));
          const [couldDelete, canDelete] = [deletable(was), deletable(is)];
          const found = compared.filter(
            (each) => each.table === table.name && each.people.some((person) => person.id === known.id),
          );
          expect(found.length).toBeLessThanOrEqual(1);
          const change = found[0]?.change;
          const sum = (part: 'gained' | 'lost') =>
            Object.values(change?.editable ?? {}).reduce((total, each) => total + each[part], 0);
          expect([
            seed,
            known.id,
            table.name,
            change?.rows.gained ?? 0,
            change?.rows.lost ?? 0,
            sum('gained'),
            sum('lost'),
            change?.deletable.gained ?? 0,
            change?.deletable.lost ?? 0,
          ]).toEqual([
            seed,
            known.id,
            table.name,
            expected.gained,
            expected.lost,
            [...canEdit].filter((each) => !couldEdit.has(each)).length,
            [...couldEdit].filter((each) => !canEdit.has(each)).length,
            [...canDelete].filter((each) => !couldDelete.has(each)).length,
            [...couldDelete].filter((each) => !canDelete.has(each)).length,
          ]);
          for (const column of table.columns) {
            let [opened, closed] = [0, 0];
            for (const [id, record] of is) {
              if (!was.has(id)) continue;
              const difference = compareCells(
                openness(before, scenario, catalogue, known, table.name, id, column.name),
                openness(after, scenario, catalogue, known, table.name, id, column.name),
              );
              expect(column.name in record.values).toBe(
                openness(after, scenario, catalogue, known, table.name, id, column.name).level !== 'hidden',
              );
              if (difference > 0) opened++;
              if (difference < 0) closed++;
            }
            expect([
              seed,
              known.id,
              table.name,
              column.name,
              change?.columns[column.name] ?? { opened: 0, closed: 0 },
            ]).toEqual([seed, known.id, table.name, column.name, { opened, closed }]);
          }
          if (change) changes++;
        }
      }
    }
    expect(changes).toBeGreaterThan(50);
  });
});

/** How open one cell is, by evaluating each lens in memory. */
function openness(
  definition: PortalDefinition,
  scenario: ReturnType<typeof makeScenario>,
  catalogue: Parameters<typeof viewOf>[1],
  known: KnownPerson,
  tableName: string,
  id: string,
  column: string,
): Openness {
  const person = personUnder(definition, catalogue, known);
  const table = catalogue.tables.find((each) => each.name === tableName)!;
  const view = viewOf(definition, catalogue, table, person);
  const memory = new MemoryRecords(catalogue, scenario.rows);
  const row = scenario.rows[tableName]!.find((each) => String(each.id) === id)!;
  const context = contextOf(person, moment, 'UTC');
  const holds = view.lenses.map(
    (lens) =>
      lens.rows !== 'no row' &&
      lens.rows.every(
        (part) =>
          evaluate(part.where, { catalogue, table, member: true }, memory.record(tableName, row), context) === true,
      ),
  );
  return cellOf(view, column, holds);
}

const compareCells = (was: Openness, is: Openness) => moreOpen(is, was);

describe('promises', () => {
  it('are kept or broken as the records of every member say, and a counter-example breaks them', async () => {
    const seen = { kept: 0, broken: 0, analysis: 0 };
    for (let seed = 101; seed <= 116; seed++) {
      const { scenario, people, before: definition } = randomPeople(seed);
      const random = new Random(seed);
      const catalogue = await loadIntoMariadb(scenario, connection, source);
      const tables = catalogue.tables.filter((each) => each.name !== 'people');
      definition.promises = Array.from({ length: 12 }, (_, i): PortalPromise => {
        const table = random.pick(tables);
        const who = random.chance(0.3)
          ? { role: random.pick(roles) }
          : random.chance(0.3)
            ? { member: random.pick(people).email! }
            : { everyone: true as const, exceptRoles: random.some(roles, 0.2) };
        const says = random.pick(['may never', 'may only', 'must be able to'] as const);
        const own = definition.access[table.name]?.[random.pick(roles)]?.see?.where;
        const where =
          random.chance(0.4) && own && own !== 'every row' ? own : anyCondition(random, catalogue, table, 1);
        return {
          id: `p${i}`,
          who,
          says,
          operation: random.pick(['see', 'edit', 'delete'] as const),
          table: table.name,
          ...(random.chance(0.3) ? { column: random.pick(table.columns).name } : {}),
          where,
        };
      });
      const outcomes = await testPromises({ runner: source, catalogue, definition, moment }, people);
      for (const [i, promise] of definition.promises.entries()) {
        if (promise.says === 'sees exactly') continue;
        const table = catalogue.tables.find((each) => each.name === promise.table)!;
        const memory = new MemoryRecords(catalogue, scenario.rows);
        const breakers: string[] = [];
        for (const known of people) {
          const person = personUnder(definition, catalogue, known);
          const concerned =
            'member' in promise.who
              ? promise.who.member === known.email
              : 'role' in promise.who
                ? person.roles.includes(promise.who.role)
                : !promise.who.exceptRoles.some((role) => person.roles.includes(role));
          if (!concerned) continue;
          const records = await everything({ definition, catalogue, person, moment }, table.name);
          for (const row of scenario.rows[table.name]!) {
            const record = records.get(String(row.id));
            const can =
              promise.operation === 'see'
                ? record &&
                  (promise.column === undefined ||
                    (promise.column in record.values && !record.masked.includes(promise.column)))
                : promise.operation === 'edit'
                  ? record &&
                    (promise.column === undefined
                      ? canEdit(definition, catalogue, scenario, known, table.name, String(row.id))
                      : record.editable.includes(promise.column))
                  : record?.deletable;
            const wanted =
              evaluate(
                promise.where!,
                { catalogue, table, member: true },
                memory.record(table.name, row),
                contextOf(person, moment, 'UTC'),
              ) === true;
            const breaks =
              promise.says === 'may never'
                ? can && wanted
                : promise.says === 'may only'
                  ? can && !wanted
                  : wanted && !can;
            if (breaks) breakers.push(`${known.id} ${row.id}`);
          }
        }
        const outcome = outcomes[i]!;
        expect([seed, promise, outcome.kept]).toEqual([seed, promise, breakers.length === 0]);
        if (outcome.counterExample)
          expect(
            breakers.some((each) => each === `${outcome.counterExample!.person.id} ${outcome.counterExample!.record}`),
          ).toBe(true);
        seen[outcome.kept ? 'kept' : 'broken']++;
        if (outcome.kept && outcome.by === 'analysis') seen.analysis++;
      }
    }
    expect([seen.kept > 30, seen.broken > 30, seen.analysis > 15]).toEqual([true, true, true]);
  });

  it("count a member's records, and fail closed when they can't be tested", async () => {
    const { scenario, people, before } = randomPeople(3);
    const catalogue = await loadIntoMariadb(scenario, connection, source);
    const definition: PortalDefinition = {
      ...before,
      access: { a: { r1: { see: { where: 'every row', columns: ['id'] } } } },
      fences: [],
      rosters: [{ table: 'people', name: 't', email: 't', role: 'r1' }],
    };
    const onRoster = people.find((person) => person.rows.people)!;
    const promise = (id: string, rest: object) =>
      ({ id, who: { member: onRoster.email! }, table: 'a', ...rest }) as PortalPromise;
    definition.promises = [
      promise('right', { says: 'sees exactly', records: scenario.rows.a!.length }),
      promise('wrong', { says: 'sees exactly', records: 99 }),
      promise('gone', { says: 'sees exactly', records: 0, table: 'gone' }),
      promise('nobody', { says: 'may never', operation: 'see', who: { member: 'nobody@example.org' } }),
      promise('column', { says: 'may never', operation: 'see', column: 'gone' }),
      promise('never', { says: 'may never', operation: 'create' }),
    ];
    const outcomes = await testPromises({ runner: source, catalogue, definition, moment }, people);
    expect(
      outcomes.map((outcome) => [outcome.id, outcome.kept, outcome.problem ?? outcome.counterExample?.found ?? null]),
    ).toEqual([
      ['right', true, null],
      ['wrong', false, scenario.rows.a!.length],
      ['gone', false, 'there is no table gone'],
      ['nobody', false, 'there is no member nobody@example.org'],
      ['column', false, 'there is no column gone in a'],
      ['never', true, null],
    ]);
  });
});

/** Whether the person may edit anything at all of a record, columns shown or not: the edit filter alone. */
function canEdit(
  definition: PortalDefinition,
  catalogue: Parameters<typeof viewOf>[1],
  scenario: ReturnType<typeof makeScenario>,
  known: KnownPerson,
  tableName: string,
  id: string,
): boolean {
  const person = personUnder(definition, catalogue, known);
  const table = catalogue.tables.find((each) => each.name === tableName)!;
  const memory = new MemoryRecords(catalogue, scenario.rows);
  const row = scenario.rows[tableName]!.find((each) => String(each.id) === id)!;
  return viewOf(definition, catalogue, table, person).lenses.some(
    (lens) =>
      lens.edit &&
      lens.edit.columns.size > 0 &&
      lens.edit.rows !== 'no row' &&
      lens.edit.rows.every(
        (part) =>
          evaluate(
            part.where,
            { catalogue, table, member: true },
            memory.record(tableName, row),
            contextOf(person, moment, 'UTC'),
          ) === true,
      ),
  );
}
