import { describe, expect, it } from 'vitest';
import { MemoryRecords } from '../../test/memory-records';
import { Random } from '../../test/judge/random';
import { anyCondition, makeScenario, today, withColumns } from '../../test/judge/scenario';
import { evaluate } from '../condition/evaluate';
import type { Condition } from '../condition/tree';
import type { Table } from '../table/catalogue';
import type { Row } from '../table/value';
import { addRows, isChange, noChange, viewPair, type ViewChange } from './compare';
import { moreOpen } from './lens';
import { contextOf, type Person } from './person';
import { isCertain, reachOf, type Reach, type RulePromise } from './promises';
import { rightsOf } from './rights';
import type { Rows } from './rows';
import { viewOf, type View } from './view';
import { tries } from '../../test/thorough';

/** What is told of a portal, held against every record of random portals, looked at one by one in memory. */
function randomPortal(seed: number) {
  const scenario = makeScenario(seed);
  const random = new Random(seed);
  const before = withColumns(scenario);
  const after = withColumns({ ...scenario, seed: seed + 1 });
  // The same tables under rules that differ here and there.
  for (const [name, grants] of Object.entries(after.access))
    for (const [role, grant] of Object.entries(grants)) {
      const table = scenario.catalogue.tables.find((each) => each.name === name)!;
      const turn = random.below(5);
      if (turn === 0) delete grants[role];
      else if (turn === 1) delete grant.delete;
      else if (grant.see && turn < 4) grant.see.where = anyCondition(random, scenario.catalogue, table, 1);
    }
  const memory = new MemoryRecords(scenario.catalogue, scenario.rows);
  const holds = (where: Condition | null, table: Table, row: Row, person: Person) =>
    where === null ||
    evaluate(
      where,
      { catalogue: scenario.catalogue, table, member: true },
      memory.record(table.name, row),
      contextOf(person, new Date(`${today}T12:00:00Z`), 'UTC'),
    ) === true;
  const through = (rows: Rows | null | undefined, table: Table, row: Row, person: Person) =>
    rows !== null &&
    rows !== undefined &&
    rows !== 'no row' &&
    rows.every((part) => holds(part.where, table, row, person));
  const rights = (view: View, row: Row, person: Person) =>
    rightsOf(view, {
      seen: view.lenses.map((lens) => through(lens.rows, view.table, row, person)),
      edited: view.lenses.map((lens) => through(lens.edit?.rows, view.table, row, person)),
      removed: view.lenses.map((lens) => through(lens.remove, view.table, row, person)),
    });
  return { scenario, random, before, after, holds, through, rights };
}

const seeds = Array.from({ length: tries(24, 60) }, (_, i) => 7000 + i);

describe('the change report', () => {
  it('counts what each record and cell becomes, as looking at each of them before and after does', () => {
    let changes = 0;
    for (const seed of seeds) {
      const { scenario, before, after, through, rights } = randomPortal(seed);
      for (const person of scenario.persons) {
        for (const table of scenario.catalogue.tables) {
          const pair = viewPair(before, after, scenario.catalogue, table, person, person);
          const views = [before, after].map((each) => viewOf(each, scenario.catalogue, table, person)) as [View, View];
          const expected: ViewChange = {
            rows: { gained: 0, lost: 0, kept: 0 },
            columns: {},
            editable: {},
            deletable: { gained: 0, lost: 0 },
            creatable: { gained: [], lost: [] },
            comments: { gained: [], lost: [] },
            files: { gained: [], lost: [] },
            history: { gained: [], lost: [] },
          };
          for (const row of scenario.rows[table.name]!) {
            const [was, is] = views.map((view) => rights(view, row, person)) as [
              ReturnType<typeof rights>,
              ReturnType<typeof rights>,
            ];
            if (was.inView && is.inView) expected.rows.kept++;
            else if (is.inView) expected.rows.gained++;
            else if (was.inView) expected.rows.lost++;
            for (const { name } of table.columns) {
              const difference = was.inView && is.inView ? moreOpen(is.cell(name), was.cell(name)) : 0;
              if (difference !== 0)
                (expected.columns[name] ??= { opened: 0, closed: 0 })[difference > 0 ? 'opened' : 'closed']++;
              if (was.edits(name) !== is.edits(name))
                (expected.editable[name] ??= { gained: 0, lost: 0 })[is.edits(name) ? 'gained' : 'lost']++;
            }
            if (was.deletable !== is.deletable) expected.deletable[is.deletable ? 'gained' : 'lost']++;
          }
          if (pair === null) {
            expect([seed, person.id, table.name, isChange(expected)]).toEqual([seed, person.id, table.name, false]);
            continue;
          }
          const told = noChange(pair);
          // Rows of which the same rules hold are counted together, as the database counts them.
          const alike = new Map<string, number>();
          for (const row of scenario.rows[table.name]!) {
            const key = JSON.stringify(pair.rules.map((rule) => through(rule, table, row, person)));
            alike.set(key, (alike.get(key) ?? 0) + 1);
          }
          for (const [key, count] of alike) addRows(told, pair, JSON.parse(key) as boolean[], count);
          expect({ ...told, creatable: expected.creatable }).toEqual(expected);
          if (isChange(told)) changes++;
        }
      }
    }
    expect(changes).toBeGreaterThan(100);
  });
});

describe('a promise', () => {
  it('asks for exactly the records that the person may see, change or delete so', () => {
    let compared = 0;
    for (const seed of seeds) {
      const { scenario, before, holds, rights } = randomPortal(seed);
      const inReach = (reach: Reach, table: Table, row: Row, person: Person) =>
        reach !== 'no row' && holds(reach, table, row, person);
      for (const person of scenario.persons)
        for (const table of scenario.catalogue.tables) {
          const view = viewOf(before, scenario.catalogue, table, person);
          for (const row of scenario.rows[table.name]!) {
            const may = rights(view, row, person);
            const at = (operation: RulePromise['operation'], column?: string) =>
              inReach(reachOf(view, { operation, column }), table, row, person);
            expect([at('see'), at('delete')]).toEqual([may.inView, may.deletable]);
            for (const { name } of table.columns) {
              expect([seed, name, at('see', name), at('edit', name)]).toEqual([
                seed,
                name,
                may.cell(name).level === 'shown',
                may.edits(name),
              ]);
              // Of the whole record it is enough that something of it could be changed.
              if (may.edits(name)) expect(at('edit')).toBe(true);
              compared++;
            }
          }
        }
    }
    expect(compared).toBeGreaterThan(3000);
  });

  it('that is called certain holds of every record', () => {
    let certain = 0;
    for (const seed of seeds) {
      const { scenario, random, before, holds } = randomPortal(seed);
      for (const person of scenario.persons)
        for (const table of scenario.catalogue.tables)
          for (const says of ['may never', 'may only', 'must be able to'] as const)
            for (const operation of ['see', 'edit', 'delete'] as const) {
              const where = random.chance(0.3) ? undefined : anyCondition(random, scenario.catalogue, table, 1);
              const view = viewOf(before, scenario.catalogue, table, person);
              const reach = reachOf(view, { operation });
              const promise: RulePromise = {
                id: 'p',
                who: { everyone: true, exceptRoles: [] },
                says,
                operation,
                table: table.name,
                ...(where ? { where } : {}),
              };
              if (!isCertain(promise, reach, view, scenario.catalogue)) continue;
              certain++;
              for (const row of scenario.rows[table.name]!) {
                const reached = reach !== 'no row' && holds(reach, table, row, person);
                const meant = holds(where ?? null, table, row, person);
                const kept =
                  says === 'may never'
                    ? !(reached && meant)
                    : says === 'may only'
                      ? !reached || meant
                      : !meant || reached;
                expect([seed, table.name, operation, says, kept]).toEqual([seed, table.name, operation, says, true]);
              }
            }
    }
    expect(certain).toBeGreaterThan(100);
  });
});
