import { expect, it } from 'vitest';
import { MemoryRecords } from '../../test/memory-records';
import { Random } from '../../test/judge/random';
import { anyCondition, makeScenario, today } from '../../test/judge/scenario';
import { wellsCatalogue } from '../../test/wells';
import { contextOf } from '../access/person';
import { readCondition } from './check';
import { evaluate } from './evaluate';
import { printCondition } from './print';
import { isVoidWithout } from './void-without';

const ofRow = ([fact, ...further]: readonly string[]): boolean => further.length > 0 || fact === 'organisation';

it('is found where people would find it, and not said where a row can pass', () => {
  const scope = { catalogue: wellsCatalogue, table: wellsCatalogue.tables[1]!, member: true };
  for (const [text, isVoid] of [
    ['owner_id = :member.owners.id', true],
    ['NOT (owner_id = :member.owners.id)', true],
    ['depth_m BETWEEN 1 AND :member.owners.id', true],
    ['NOT (depth_m BETWEEN :member.owners.id AND :member.owners.id)', true],
    // Whatever the unknown bound is, 10 metres are not between it and 5.
    ['NOT (depth_m BETWEEN :member.owners.id AND 5)', false],
    ['owner_id NOT IN (1, :member.owners.id)', false],
    ['owner_id = :member.id', false],
    ['owner_id = :member.owners.id OR note IS NULL', false],
    [':member.owners.id = owner_id OR owner_id > :member.samplers.id', true],
    ['owner_id = 1 AND owner_id = :member.owners.id', true],
    ['owner_id = 1 AND note IS NULL', false],
    ['owner_id = 1', false],
    ['owner.birth_date > :member.owners.birth_date + INTERVAL 1 DAY', true],
    ['owner.birth_date > :today + INTERVAL 1 DAY', false],
    ['owner_id IN (:member.owners.id, :member.samplers.id)', true],
    [':member.owners.id IN (owner_id, sampler_id)', true],
    ['NOT (owner_id IN (:member.owners.id, :member.samplers.id))', false],
    ['depth_m BETWEEN :member.owners.id AND 5', true],
    [':member.owners.id BETWEEN depth_m AND 5', true],
    ['NOT (:member.owners.id BETWEEN depth_m AND 5)', true],
    ['depth_m BETWEEN 1 AND 5', false],
    ["note LIKE 'a%'", false],
    [':member.owners.parish IN treatment', true],
    ['NOT (:member.owners.parish IN treatment)', true],
    ["'UV' IN treatment", false],
    ['EXISTS (visits)', false],
    ['EXISTS (visits WHERE visits.fee = 1)', false],
    ['EXISTS (visits WHERE visits.sampler_id = :member.samplers.id)', true],
    ['NOT EXISTS (visits WHERE visits.sampler_id = :member.samplers.id)', false],
    ['note IS NULL', false],
    ['NOT (note IS NULL)', false],
  ] as const)
    expect([text, isVoidWithout(readCondition(text, scope), ofRow)]).toEqual([text, isVoid]);
});

it('whatever is said to be void lets no row pass for somebody without a row', () => {
  let isVoid = 0;
  for (let seed = 1; seed <= 60; seed++) {
    const scenario = makeScenario(seed);
    const random = new Random(seed);
    const memory = new MemoryRecords(scenario.catalogue, scenario.rows);
    const [person] = scenario.persons;
    const context = contextOf({ ...person!, organisation: null, rows: {} }, new Date(`${today}T12:00:00Z`), 'UTC');
    for (const table of scenario.catalogue.tables.filter((each) => each.name !== 'people')) {
      const scope = { catalogue: scenario.catalogue, table, member: true };
      for (let i = 0; i < 60; i++) {
        const condition = anyCondition(random, scenario.catalogue, table, 2);
        if (!isVoidWithout(condition, ofRow)) continue;
        isVoid++;
        const passes = scenario.rows[table.name]!.filter(
          (row) => evaluate(condition, scope, memory.record(table.name, row), context) === true,
        );
        expect([printCondition(condition), passes]).toEqual([printCondition(condition), []]);
      }
    }
  }
  expect(isVoid).toBeGreaterThan(200);
});
