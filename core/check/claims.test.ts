import { findFaults } from '../../sections/definition';
import { expect, it } from 'vitest';
import { makeScenario, today } from '../../test/judge/scenario';
import { MemoryRecords } from '../../test/memory-records';
import { contextOf, type Person } from '../access/person';
import { viewOf } from '../access/view';
import { evaluate } from '../condition/evaluate';
import { isClosed } from '../table/catalogue';
import type { Condition } from '../condition/tree';
import { branchesOf } from './branch-findings';
import { negatedColumns, orEmpty } from './empty-findings';
import { tries } from '../../test/thorough';

/**
 * What findings claim of random definitions is tried on random data, record by record and person by person: none may be
 * false.
 */
it('no claim of a finding is false when it is tried on the data', () => {
  const tried: Record<string, number> = {};
  const count = (kind: string) => {
    tried[kind] = (tried[kind] ?? 0) + 1;
  };
  for (let seed = 1; seed <= tries(300, 1500); seed++) {
    const { catalogue, rows, definition, persons } = makeScenario(seed);
    const memory = new MemoryRecords(catalogue, rows);
    const findings = findFaults(definition, catalogue, []);
    const passes = (table: string, where: Condition, person: Person, row: (typeof rows)[string][number]) =>
      evaluate(
        where,
        { catalogue, table: memory.table(table), member: true },
        memory.record(table, row),
        contextOf(person, new Date(`${today}T12:00:00Z`), 'UTC'),
      );
    for (const finding of findings) {
      const { table, role, what, column } = finding.place;
      const grant = table !== undefined && role !== undefined ? definition.access[table]?.[role] : undefined;
      if (!grant || table === undefined) continue;
      const of = (operation: string | undefined) =>
        (grant[(operation ?? 'see') as 'see'] as { where?: unknown } | undefined)?.where;
      const outcomes = (where: unknown) =>
        persons.flatMap((person) => rows[table]!.map((row) => passes(table, where as Condition, person, row)));
      switch (finding.kind) {
        case 'filter is never true':
          expect([seed, finding.id, outcomes(of(what)).includes(true)]).toEqual([seed, finding.id, false]);
          count(finding.kind);
          break;
        case 'filter is always true':
          expect([seed, finding.id, outcomes(of(what)).every((outcome) => outcome === true)]).toEqual([
            seed,
            finding.id,
            true,
          ]);
          count(finding.kind);
          break;
        case 'branch without the member': {
          const branches = branchesOf(of('see') as Condition);
          // The same rows for everyone.
          const each = persons.map((person) =>
            rows[table]!.map((row) => passes(table, branches[Number(what)]!, person, row)),
          );
          expect([seed, finding.id, new Set(each.map((list) => JSON.stringify(list))).size]).toEqual([
            seed,
            finding.id,
            1,
          ]);
          count(finding.kind);
          break;
        }
        case 'own mark can be changed':
          expect(grant.edit!.columns).toContain(column);
          count(finding.kind);
          break;
        case 'masked but editable':
        case 'label is masked': {
          const someone = { ...persons[0]!, roles: [role!] };
          const view = viewOf(definition, catalogue, memory.table(table), someone);
          expect([
            seed,
            finding.id,
            view.lenses.every(
              (lens) => lens.columns.get(column!)?.level !== 'shown' || isClosed(memory.table(table), column!),
            ),
          ]).toEqual([seed, finding.id, true]);
          count(finding.kind);
          break;
        }
        default:
      }
    }
    // "Or is empty" lets in exactly the rows that fell out for being empty, and takes none away.
    for (const [table, grants] of Object.entries(definition.access)) {
      for (const { see } of Object.values(grants)) {
        if (typeof see?.where !== 'object') continue;
        for (const column of negatedColumns(see.where, memory.table(table))) {
          const wider = orEmpty(see.where, column);
          for (const person of persons) {
            for (const row of rows[table]!) {
              const [before, after] = [passes(table, see.where, person, row), passes(table, wider, person, row)];
              if (row[column] !== null) expect([seed, table, column, after]).toEqual([seed, table, column, before]);
            }
          }
          count('or is empty');
        }
      }
    }
  }
  expect(Object.keys(tried).length).toBeGreaterThanOrEqual(5);
  for (const times of Object.values(tried)) expect(times).toBeGreaterThan(2);
});
