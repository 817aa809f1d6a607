import { describe, expect, it } from 'vitest';
import { MemoryRecords } from '../../test/memory-records';
import { Random } from '../../test/judge/random';
import { anyCondition, makeScenario, today } from '../../test/judge/scenario';
import { column, wellsCatalogue } from '../../test/wells';
import { contextOf } from '../access/person';
import { columnsUsed, factsUsed, implies, isAlways, isNever, usesClock } from './analyse';
import { readCondition } from './check';
import { evaluate } from './evaluate';
import { printCondition } from './print';
import { tries } from '../../test/thorough';

const scope = { catalogue: wellsCatalogue, table: wellsCatalogue.tables[1]!, member: true };
const read = (text: string) => readCondition(text, scope);

describe('what is certain of a condition', () => {
  it('is found where people would find it', () => {
    for (const text of [
      'depth_m > 5 AND depth_m < 5',
      'owner_id = 1 AND owner_id IN (2, 3)',
      "note = 'x' AND note IS NULL",
      'owner_id = :member.owners.id AND owner_id <> :member.owners.id',
      "state = 'active' AND state = 'closed'",
      'depth_m BETWEEN 10 AND 5',
      "note < 'a' AND note > 'B'",
      'EXISTS (visits WHERE visits.fee > 10) AND NOT EXISTS (visits WHERE visits.fee > 5)',
      'id IS NULL',
      'owner_id < :member.owners.id AND :member.owners.id < sampler_id AND sampler_id < owner_id',
      'EXISTS (visits WHERE visits.asked_on > :today AND visits.asked_on < :today - INTERVAL 3 DAY)',
      "'UV' IN treatment AND 'UV' NOT IN treatment",
      "code LIKE 'a%' AND code NOT LIKE 'a%'",
      "code LIKE 'a%' AND code IS NULL",
      "'UV' IN treatment AND treatment IS NULL",
      'owner_id = sampler_id AND sampler_id IS NULL',
      'owner_id = 1.0 AND owner_id = 1.5',
      'depth_m = 5 AND depth_m <> 5.0',
      'owner.birth_date < :today AND owner.birth_date > :today + INTERVAL 1 WEEK',
      'owner.birth_date > :today + INTERVAL 1 WEEK AND owner.birth_date < :today + INTERVAL 7 DAY',
      'owner.birth_date = :today + INTERVAL 1 WEEK AND owner.birth_date <> :today + INTERVAL 7 DAY',
      "state = 'active' AND state <> 'active'",
      'EXISTS (visits WHERE visits.fee > 1 AND visits.fee < 1)',
    ])
      expect([text, isNever(read(text), scope)]).toEqual([text, true]);
    for (const text of [
      'id IS NOT NULL',
      'id = id',
      'id > 5 OR id <= 5',
      'note IS NULL OR note = note',
      'NOT (id < 3 AND id > 4)',
      'owner_id IS NULL OR owner_id <> 1 OR owner_id = 1',
    ])
      expect([text, isAlways(read(text), scope)]).toEqual([text, true]);
    for (const [one, other] of [
      ['owner_id = 17', 'owner_id > 16'],
      ['owner_id = 17', 'owner_id IN (16, 17)'],
      ["state = 'active' AND depth_m > 5", 'depth_m >= 5'],
      ['owner_id = :member.owners.id', 'owner_id IS NOT NULL'],
      ["note = 'Ä'", "note = 'a'"],
      ['EXISTS (visits WHERE visits.fee = 60)', 'EXISTS (visits WHERE visits.fee > 50)'],
      ['EXISTS (visits WHERE visits.fee = 60)', 'EXISTS (visits)'],
      [
        "owner_id = :member.owners.id AND state = 'active'",
        'owner_id = :member.owners.id OR sampler_id = :member.samplers.id',
      ],
    ]) {
      expect([one, other, implies(read(one!), read(other!), scope)]).toEqual([one, other, true]);
    }
  });

  it('is not said where it is not so', () => {
    for (const text of [
      'depth_m = depth_m',
      'owner_id = 1 OR owner_id <> 1',
      "note IS NULL OR note <> 'x'",
      'owner_id = :member.owners.id',
      "code LIKE 'a%' AND code NOT LIKE 'b%'",
      "code LIKE 'a%' AND note LIKE 'a%'",
      "'UV' IN treatment AND 'softener' NOT IN treatment",
      "code LIKE 'a%' AND note IS NULL",
      'owner_id IS NULL AND sampler_id IS NULL',
      'owner_id > 1 AND sampler_id < 1',
      'owner.birth_date > :today AND owner.birth_date < :today + INTERVAL 1 MONTH',
      'owner.birth_date > :today + INTERVAL 1 MONTH AND owner.birth_date < :today + INTERVAL 1 DAY',
      'owner.birth_date > :member.owners.birth_date AND owner.birth_date < :today',
      'EXISTS (visits WHERE visits.fee > 1) AND NOT EXISTS (visits WHERE visits.fee > 5)',
      'EXISTS (visits WHERE visits.fee > 1) AND EXISTS (visits WHERE visits.fee < 1)',
      // Too many values to compare each with each.
      `owner_id < 1 AND owner_id > 2 AND ${Array.from({ length: 45 }, (_, i) => `owner_id <> ${i}`).join(' AND ')}`,
    ])
      expect([text, isAlways(read(text), scope), isNever(read(text), scope)]).toEqual([text, false, false]);
    expect(implies(read('depth_m >= 5'), read('depth_m > 5'), scope)).toBe(false);
    expect(implies(read('owner_id <> 1'), read('NOT (owner_id = sampler_id)'), scope)).toBe(false);
  });

  // Random conditions over random rows and persons; whatever is said to be certain must be so for every one of them.
  it('holds for every row and person', () => {
    const certain = { never: 0, always: 0, implied: 0 };
    for (let seed = 1; seed <= tries(25, 60); seed++) {
      const scenario = makeScenario(seed);
      const random = new Random(seed);
      const memory = new MemoryRecords(scenario.catalogue, scenario.rows);
      const contexts = scenario.persons.map((person) => contextOf(person, new Date(`${today}T12:00:00Z`), 'UTC'));
      for (const table of scenario.catalogue.tables.filter((each) => each.name !== 'people')) {
        const at = { catalogue: scenario.catalogue, table, member: true };
        for (let i = 0; i < 40; i++) {
          const one = anyCondition(random, scenario.catalogue, table, 2);
          const other = random.chance(0.5)
            ? anyCondition(random, scenario.catalogue, table, 2)
            : { kind: 'any' as const, parts: [anyCondition(random, scenario.catalogue, table, 1), one] };
          const both = { kind: 'all' as const, parts: [one, anyCondition(random, scenario.catalogue, table, 1)] };
          const outcomes = (condition: typeof one) =>
            scenario.rows[table.name]!.flatMap((row) =>
              contexts.map((context) => evaluate(condition, at, memory.record(table.name, row), context) === true),
            );
          const [a, b, c] = [outcomes(one), outcomes(other), outcomes(both)];
          if (isNever(both, at) && ++certain.never)
            expect([printCondition(both), c.includes(true)]).toEqual([printCondition(both), false]);
          if (isAlways(other, at) && ++certain.always)
            expect([printCondition(other), b.includes(false)]).toEqual([printCondition(other), false]);
          if (implies(one, other, at) && ++certain.implied)
            expect([printCondition(one), printCondition(other), a.some((passes, j) => passes && !b[j])]).toEqual([
              printCondition(one),
              printCondition(other),
              false,
            ]);
        }
      }
    }
    expect([certain.never > 100, certain.always > 30, certain.implied > 500]).toEqual([true, true, true]);
  });
});

it('of yes and no, not the one is the other', () => {
  const open = { ...scope.table, columns: [...scope.table.columns, column('open', 'yes/no'), column('dry', 'yes/no')] };
  const at = { ...scope, table: open };
  const never = (text: string) => isNever(readCondition(text, at), at);
  expect([
    never('open <> TRUE AND open <> FALSE'),
    never('TRUE <> open AND FALSE <> open'),
    never('open <> TRUE AND open = TRUE'),
    never('open <> TRUE AND open = dry AND dry = TRUE'),
    never('open <> dry AND open = dry'),
    never('open <> TRUE AND open = FALSE'),
    never('open <> dry AND open = TRUE'),
    never('open <> dry AND open <> TRUE'),
    never('open <> TRUE AND dry <> FALSE'),
  ]).toEqual([true, true, true, true, true, false, false, false, false]);
  expect(implies(readCondition('open <> TRUE', at), readCondition('open = FALSE', at), at)).toBe(true);
});

describe('what a condition uses', () => {
  it('is every column on the way, and every fact', () => {
    const condition = read(
      'owner.parish = :member.samplers.district AND EXISTS (visits WHERE visits.planned_for > :now AND ' +
        'visits.sampler_id = :member.samplers.id)',
    );
    expect(
      columnsUsed(condition, scope)
        .map((use) => `${use.table}.${use.column}`)
        .toSorted(),
    ).toEqual([
      'owners.id',
      'owners.parish',
      'visits.planned_for',
      'visits.sampler_id',
      'visits.well_id',
      'wells.id',
      'wells.owner_id',
    ]);
    expect(factsUsed(condition, scope)).toEqual([
      ['samplers', 'district'],
      ['samplers', 'id'],
    ]);
    expect([usesClock(condition, scope), usesClock(read('owner_id = 1'), scope)]).toEqual([true, false]);
  });
});
