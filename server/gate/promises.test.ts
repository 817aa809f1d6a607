import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { loadIntoMariadb } from '../../test/judge/load';
import { anyCondition, makeScenario, roles } from '../../test/judge/scenario';
import { Random } from '../../test/judge/random';
import { freshSchema } from '../../test/tables';
import type { KnownPerson } from '../../core/access/people';
import { contextOf } from '../../core/access/person';
import { evaluate } from '../../core/condition/evaluate';
import { MemoryRecords } from '../../test/memory-records';
import { viewOf, visibleColumns } from '../../core/access/view';
import { stepsOf } from '../../core/access/promises';
import type { Row } from '../../core/table/value';
import type { Condition } from '../../core/condition/tree';
import type { Action } from '../../core/definition/action';
import type { Catalogue, Table } from '../../core/table/catalogue';
import type { PortalDefinition } from '../../core/definition/definition';
import type { PortalPromise } from '../../core/definition/promise';
import { MariadbSource } from '../sources/mariadb';
import { NotFound } from './view/errors';
import { exportRows } from './read/export';
import { testPromises } from './review/promises';
import type { Visit } from './view/visit';
import { everything, moment, personUnder, randomPeople } from './compare.fixture';

/** What promises reckon for all persons at once is held against asking the gate person by person, record by record. */
let connection: Connection;
let source: MariadbSource;

beforeAll(async () => {
  connection = await freshSchema(inject('database'), 'promises');
  source = new MariadbSource(inject('database'), 'promises');
});

afterAll(async () => {
  await source?.close();
  await connection?.end();
});

const states = ['x', 'y', 'Z', 'ab'];

describe('promises', () => {
  it('are kept or broken as the records of every member say, and a counter-example breaks them', async () => {
    const seen = { kept: 0, broken: 0, analysis: 0 };
    const [kept, broken] = [new Set<string>(), new Set<string>()];
    for (let seed = 101; seed <= 140; seed++) {
      const { scenario, people, before: definition } = randomPeople(seed);
      const random = new Random(seed);
      const catalogue = await loadIntoMariadb(scenario, connection, source);
      const tables = catalogue.tables.filter((each) => each.name !== 'people');
      withDeeds(definition, catalogue, random);
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
          ...promisedOf(definition, table, random),
          table: table.name,
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
          const visit = { definition, catalogue, person, moment };
          const records = await everything(source, visit, table.name);
          const out = await takenOut(visit, table);
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
                  : promise.operation === 'export'
                    ? (out.get(String(row.id))?.has(promise.column ?? 'id') ?? false)
                    : promise.operation === 'move'
                      ? record?.moves.some(({ id }) => promise.step === undefined || id === promise.step)
                      : promise.operation === 'act'
                        ? canAct(visit, table, row, memory, promise.step)
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
        (outcome.kept ? kept : broken).add(promise.operation);
        if (outcome.kept && outcome.by === 'analysis') seen.analysis++;
      }
    }
    expect([seen.kept > 60, seen.broken > 60, seen.analysis > 15]).toEqual([true, true, true]);
    const all = ['act', 'delete', 'edit', 'export', 'move', 'see'];
    expect([[...kept].toSorted(), [...broken].toSorted()]).toEqual([all, all]);
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
/** Exports, moves and actions of the roles, drawn by chance. */
function withDeeds(definition: PortalDefinition, catalogue: Catalogue, random: Random): void {
  definition.lifecycles = [];
  definition.actions = [];
  for (const table of catalogue.tables.filter(({ name }) => name !== 'people')) {
    for (const grant of Object.values(definition.access[table.name] ?? {})) {
      // By its key a record that comes out is known.
      grant.see?.columns.push(...(grant.see.columns.includes('id') ? [] : ['id']));
      if (random.chance(0.6))
        grant.export = { where: random.chance(0.5) ? 'as seen' : anyCondition(random, catalogue, table, 1) };
    }
    if (!table.columns.some(({ name }) => name === 't')) continue;
    const where = () => (random.chance(0.8) ? { where: anyCondition(random, catalogue, table, 1) } : {});
    const from = () => random.some(states, 0.35);
    definition.lifecycles.push({
      table: table.name,
      column: 't',
      moves: ['on', 'back'].map((id) => ({
        id,
        name: id,
        from: from(),
        to: 'z',
        roles: random.some(roles, 0.5),
        needs: [],
        ...where(),
      })),
    });
    definition.actions.push(
      ...['mark', 'shift'].map((id): Action => ({
        id: `${id}-${table.name}`,
        name: id,
        table: table.name,
        roles: random.some(roles, 0.5),
        asks: [],
        steps: id === 'shift' ? [{ kind: 'move', move: 'on' }] : [],
        keepIn: 'every row',
        ...where(),
      })),
    );
  }
}

/** What a promise is about, of what there is on a table. */
function promisedOf(definition: PortalDefinition, table: Table, random: Random) {
  const operation = random.pick(['see', 'edit', 'delete', 'export', 'move', 'move', 'act', 'act'] as const);
  if (operation !== 'move' && operation !== 'act')
    return { operation, ...(random.chance(0.3) ? { column: random.pick(table.columns).name } : {}) };
  const steps = stepsOf(definition, table.name, operation);
  return { operation, ...(steps.length > 0 && random.chance(0.5) ? { step: random.pick(steps).id } : {}) };
}

/** By each record that may be taken out, the columns of it that come out unmasked. */
async function takenOut(visit: Visit, table: Table): Promise<Map<string, Set<string>>> {
  const found = new Map<string, Set<string>>();
  const view = viewOf(visit.definition, visit.catalogue, table, visit.person);
  const question = { columns: visibleColumns(view).map((column) => [column]), sort: [], where: [], search: '' };
  try {
    for await (const { columns, records } of exportRows(source, visit, table.name, question))
      for (const { cells, masked } of records) {
        const open = columns.filter((_, i) => cells[i] !== undefined && !masked.includes(i));
        found.set(String(cells[columns.indexOf('id')]), new Set(open));
      }
  } catch (error) {
    if (!(error instanceof NotFound)) throw error;
  }
  return found;
}

/** Whether an action, or any, can be done with a record, by evaluating its rules in memory. */
function canAct(visit: Visit, table: Table, row: Row, memory: MemoryRecords, step: string | undefined): boolean {
  const { definition, catalogue, person } = visit;
  const holds = (where: Condition | undefined) =>
    where === undefined ||
    evaluate(
      where,
      { catalogue, table, member: true },
      memory.record(table.name, row),
      contextOf(person, moment, 'UTC'),
    ) === true;
  const move = definition.lifecycles!.find((each) => each.table === table.name)?.moves.find(({ id }) => id === 'on');
  return viewOf(definition, catalogue, table, person).lenses.some(
    ({ role, rows }) =>
      rows !== 'no row' &&
      rows.every((part) => holds(part.where)) &&
      definition.actions!.some(
        (action) =>
          action.table === table.name &&
          action.roles.includes(role) &&
          (step === undefined || action.id === step) &&
          holds(action.where) &&
          (action.steps.length === 0 || (move!.from.includes(String(row.t)) && holds(move!.where))),
      ),
  );
}

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
