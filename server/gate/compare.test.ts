import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { loadIntoMariadb } from '../../test/judge/load';
import { makeScenario } from '../../test/judge/scenario';
import { freshSchema } from '../../test/tables';
import type { KnownPerson } from '../../core/access/people';
import { contextOf } from '../../core/access/person';
import { evaluate } from '../../core/condition/evaluate';
import { MemoryRecords } from '../../test/memory-records';
import { cellOf } from '../../core/access/rights';
import { viewOf } from '../../core/access/view';
import { moreOpen, type Openness } from '../../core/access/lens';
import type { PortalDefinition } from '../../core/definition/definition';
import type { Sql } from '../../core/sql/sql';
import { MariadbSource } from '../sources/mariadb';
import type { Runner } from '../sources/source';
import { compareDefinitions } from './review/compare';
import type { OpenRecord } from './view/open-record';
import { everything, moment, personUnder, randomPeople } from './compare.fixture';

/** What compare reckons for all persons at once is held against asking the gate person by person, record by record. */
let connection: Connection;
let source: MariadbSource;

beforeAll(async () => {
  connection = await freshSchema(inject('database'), 'compare');
  source = new MariadbSource(inject('database'), 'compare');
});

afterAll(async () => {
  await source?.close();
  await connection?.end();
});

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
              source,
              { definition: before, catalogue, person: personUnder(before, catalogue, known), moment },
              table.name,
            ),
            await everything(
              source,
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

  it('says how far it is, and asks no further once it is stopped', async () => {
    const { scenario, people, before, after } = randomPeople(1);
    const catalogue = await loadIntoMariadb(scenario, connection, source);
    let asked = 0;
    const counting = { rows: (statement: Sql) => (asked++, source.rows(statement)) } as unknown as Runner;
    const compare = (progress: (done: number) => Promise<void>) =>
      compareDefinitions(counting, catalogue, before, after, people, moment, progress);
    const told: number[] = [];
    await compare(async (done) => {
      told.push(done);
    });
    expect(told).toEqual(told.toSorted((a, b) => a - b));
    expect(told.at(-1)).toBeLessThan(catalogue.tables.length);
    const whole = asked;
    expect(whole).toBeGreaterThan(6);
    asked = 0;
    let isStopped = false;
    const stopped = compare(async () => {
      if (asked < 2 || isStopped) return;
      isStopped = true;
      throw new Error('stopped');
    });
    await expect(stopped).rejects.toThrow('stopped');
    // Two were under way at the same time; the other went no further either.
    expect(asked).toBeLessThanOrEqual(3);
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
