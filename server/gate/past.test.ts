import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { builderPerson } from '../../core/access/person';
import type { PortalDefinition } from '../../core/definition/definition';
import { printPath } from '../../core/definition/path';
import { ExpectedView } from '../../core/proof/expected';
import type { HeldRows } from '../../core/proof/held-rows';
import { Random } from '../../core/proof/random';
import type { Table } from '../../core/table/catalogue';
import type { Row } from '../../core/table/value';
import { demoServer } from '../../test/server';
import { asEverybody } from '../review/as-everybody';
import { Portal } from '../store/models';
import { keptRow, NotFound, past, recordId, type PlacedVisit, type ToldChange } from './gate';
import { keyOfRow } from '../../core/proof/expected';
import { holdRows } from './review/prove';

/**
 * What is told of records as they were, held against core in memory: a cell is told where a lens by which histories are
 * read shows it in the record as it is, and in the record as it was.
 */

let demo: Awaited<ReturnType<typeof demoServer>>;
let definition: PortalDefinition;
let held: HeldRows;
let people: { visit: PlacedVisit; reader: ExpectedView }[];

const seed = 20261128;

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'past', 'past_own');
  const { services } = demo.server;
  const found = (await Portal.findOne())!;
  definition = structuredClone(await services.definitions.version(found.id, found.publishedVersion!));
  // By turns a grant has it: who reads by another role as well reads no history by that.
  let turn = 0;
  delete definition.stewards;
  for (const [table, grants] of Object.entries(definition.access)) {
    (definition.tables[table] ??= {}).history = {};
    for (const grant of Object.values(grants)) {
      delete grant.history;
      if (grant.see && turn++ % 3 !== 0) grant.history = true;
    }
  }
  const { source, catalogue } = await services.sources.of(definition);
  ({ held } = await holdRows(source, catalogue, 100_000));
  const all = await asEverybody(services, { portalId: found.id, ownerId: null }, definition);
  const bySet = new Map(all.people.map((known) => [JSON.stringify(all.visitOf(known).person.roles), known]));
  const some = [...bySet.values(), ...new Random(seed).sample(all.people, 20)];
  people = some.map((known) => {
    const visit = all.visitOf(known);
    const reading = structuredClone(definition);
    for (const grants of Object.values(reading.access))
      for (const [role, grant] of Object.entries(grants)) if (!grant.history) delete grants[role];
    return { visit, reader: new ExpectedView(held, reading, visit.person, visit.moment, null) };
  });
}, 240_000);
afterAll(async () => demo?.server.close());

/** A row with what stands in others in some of its places, and nothing in some. */
function asItWas(table: Table, row: Row, random: Random): Row {
  const was = { ...row };
  for (const { name, type, nullable } of table.columns) {
    if (table.key.includes(name) || type === 'other') continue;
    if (random.chance(0.3)) was[name] = random.pick(held.rows(table.name))[name]!;
    else if (nullable && random.chance(0.05)) was[name] = null;
  }
  return was;
}

const json = (row: Row) => JSON.parse(keptRow(row)!) as Record<string, unknown>;

it('tells of a change what the record shows as it is and as it was, both by lenses with histories', async () => {
  const random = new Random(seed);
  const counts = { records: 0, told: 0, kept: 0, closed: 0 };
  for (const { visit, reader } of people)
    for (const table of held.catalogue.tables) {
      const seen = reader.rows(table);
      for (const row of random.sample(seen, 5)) {
        counts.records++;
        const before = Array.from({ length: 8 }, () => asItWas(table, row, random));
        const { tells } = await past(visit, table.name, recordId(keyOfRow(table, row)));
        const told = await tells(before.map((was) => ({ was: json(was), now: json(row) })));
        before.forEach((was, i) => {
          const expected = table.columns.flatMap(({ name }): ToldChange[] => {
            if (keptRow({ a: was[name]! }) === keptRow({ a: row[name]! })) return [];
            const [then, now] = [was, row].map((each) => reader.cell(table, each, [name]).is === 'shown');
            counts[now && then ? 'told' : 'kept']++;
            if (!now) return [];
            return [{ column: name, ...(then ? { was: { value: was[name]! } } : {}), now: { value: row[name]! } }];
          });
          // What relations lead to is called as it is in the person's view, which other tests hold.
          const plain = told[i]!.map(({ column, was: a, now: b }) => ({
            column,
            ...(a ? { was: { value: a.value } } : {}),
            ...(b ? { now: { value: b.value } } : {}),
          }));
          expect({ by: visit.person.roles, table: table.name, i, plain }).toEqual({
            by: visit.person.roles,
            table: table.name,
            i,
            plain: expected,
          });
        });
      }
      // Records that they have by no lens with histories, and such as are nobody's.
      const others = random.sample(
        held.rows(table.name).filter((row) => !seen.includes(row)),
        2,
      );
      for (const row of others) {
        counts.closed++;
        await expect(past(visit, table.name, recordId(keyOfRow(table, row)))).rejects.toThrow(NotFound);
      }
    }
  expect(counts.told).toBeGreaterThan(2000);
  expect(counts.kept).toBeGreaterThan(500);
  expect(counts.closed).toBeGreaterThan(100);
  console.log('what is told of the past:', counts);
});

it('tells the workplace of a deleted record, and nothing of one that a ceiling keeps from everybody', async () => {
  const { visit } = people[0]!;
  const wells = held.catalogue.tables.find(({ name }) => name === 'wells')!;
  const row = held.rows('wells')[0]!;
  const ceiling = { where: { kind: 'null', left: { kind: 'column', path: ['code'] } } } as object;
  const under = (closed: boolean): PlacedVisit => {
    const tables = visit.catalogue.tables.map((each) =>
      closed && each.name === 'wells' ? { ...each, ceiling } : each,
    );
    return { ...visit, person: builderPerson, catalogue: { ...visit.catalogue, tables } };
  };
  const id = recordId(keyOfRow(wells, row));
  const was = { ...json(row), parish: 'elsewhere' };
  const told = async (closed: boolean, of: string) =>
    (await past(under(closed), 'wells', of)).tells([{ was, now: null }]).then(([changes]) => changes!.length);
  expect([await told(false, id), await told(false, '999999')]).toEqual([expect.any(Number), expect.any(Number)]);
  expect(await told(false, '999999')).toBeGreaterThan(3);
  await expect(told(true, id)).rejects.toThrow(NotFound);
});

it('tells nothing of a record as it was where a column is gone, or was not there, by which rules go', async () => {
  const owner = people.find(({ visit }) => visit.person.rows.owners && visit.person.roles.length === 1)!;
  const wells = held.catalogue.tables.find(({ name }) => name === 'wells')!;
  const grant = definition.access.wells!.well_owner!;
  grant.history = true;
  const { owner_id: _gone, ...rest } = json(
    held.rows('wells').find(({ owner_id: of }) => of === owner.visit.person.rows.owners!.id)!,
  );
  const row = held.rows('wells').find(({ id }) => id === rest.id)!;
  const visit = { ...owner.visit, definition: structuredClone(definition) };
  const { tells } = await past(visit, 'wells', recordId(keyOfRow(wells, row)));
  const [told] = await tells([{ was: { ...rest, parish: 'elsewhere' }, now: json(row) }]);
  expect(told!.map(({ column, was }) => [column, was])).toContainEqual([printPath(['parish']), undefined]);
  expect(told!.every(({ was }) => was === undefined)).toBe(true);
});
