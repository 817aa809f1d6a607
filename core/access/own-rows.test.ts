import fc from 'fast-check';
import { expect, test } from 'vitest';
import { MemoryRecords } from '../../test/memory-records';
import { person, wellsCatalogue, wellsDefinition } from '../../test/wells';
import { evaluate } from '../condition/evaluate';
import { findTable, type Table } from '../table/catalogue';
import type { Row } from '../table/value';
import { likelyRows, ownRows } from './own-rows';
import { contextOf } from './person';

const draft = wellsDefinition({});
const ids = fc.option(fc.integer({ min: 1, max: 4 }), { freq: 5 });
const tableOf = (name: string) => findTable(wellsCatalogue, name)!;
const row = (table: Table) =>
  fc.record(
    Object.fromEntries(
      table.columns
        .filter((column) => column.name !== 'id')
        .map((column) => [
          column.name,
          table.relations.some((relation) => relation.column === column.name) ? ids : fc.constant(null),
        ]),
    ),
  );
const anyRows = fc.record(
  Object.fromEntries(
    wellsCatalogue.tables.map((table) => [
      table.name,
      fc
        .array(row(table), { minLength: 1, maxLength: 4 })
        .map((rows) => rows.map((each, i): Row => ({ ...(each as Row), id: i + 1 }))),
    ]),
  ),
);

/** Whether a row leads to a row of the roster by its foreign keys, followed by hand. */
function leadsTo(
  rows: Record<string, Row[]>,
  table: Table,
  from: Row,
  roster: string,
  id: unknown,
  steps = 4,
): boolean {
  if (table.name === roster) return from.id === id;
  return (
    steps > 0 &&
    table.relations.some((relation) => {
      const key = from[relation.column];
      if (key === null || relation.table === roster) return key !== null && key === id;
      const next = rows[relation.table]!.find((each) => each.id === key);
      return next !== undefined && leadsTo(rows, tableOf(relation.table), next, roster, id, steps - 1);
    })
  );
}

test('the filters that make rows "their own" let through exactly those whose keys lead to the member', () => {
  let offered = 0;
  fc.assert(
    fc.property(anyRows, fc.integer({ min: 1, max: 4 }), (rows, id) => {
      const memory = new MemoryRecords(wellsCatalogue, rows);
      for (const [role, roster] of [
        ['owner', 'owners'],
        ['sampler', 'samplers'],
      ] as const) {
        const me = { ...person([role]), rows: { [roster]: rows[roster]!.find((each) => each.id === id) ?? { id } } };
        const context = contextOf(me, new Date('2026-11-26T12:00:00Z'), 'UTC');
        for (const table of wellsCatalogue.tables) {
          const own = ownRows(draft, wellsCatalogue, table, role);
          offered += own.length;
          for (const each of rows[table.name]!) {
            const through = own.map((where) =>
              evaluate(
                where,
                { catalogue: wellsCatalogue, table, member: true },
                memory.record(table.name, each),
                context,
              ),
            );
            expect([table.name, role, through.includes(true)]).toEqual([
              table.name,
              role,
              own.length > 0 && leadsTo(rows, table, each, roster, id),
            ]);
          }
          // What is only likely is another filter, never the same once more.
          const certain = new Set(own.map((where) => JSON.stringify(where)));
          expect(
            likelyRows(draft, wellsCatalogue, table, role).filter((where) => certain.has(JSON.stringify(where))),
          ).toEqual([]);
        }
      }
    }),
  );
  expect(offered).toBeGreaterThan(0);
});

test('a role without a roster, and a visitor, have no rows of their own', () => {
  for (const table of wellsCatalogue.tables)
    expect([ownRows(draft, wellsCatalogue, table, 'desk'), likelyRows(draft, wellsCatalogue, table, 'desk')]).toEqual([
      [],
      [],
    ]);
});
