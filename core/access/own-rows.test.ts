import fc from 'fast-check';
import { expect, test } from 'vitest';
import { MemoryRecords } from '../../test/memory-records';
import { column, person, wellsCatalogue, wellsDefinition } from '../../test/wells';
import { evaluate } from '../condition/evaluate';
import { printCondition } from '../condition/print';
import { findTable, withManyRelations, type Column, type Table } from '../table/catalogue';
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

/** Whether keys lead from one table to another at all, in so many steps. */
const canLead = (table: Table, roster: string, steps = 4): boolean =>
  table.name === roster ||
  (steps > 0 && table.relations.some((relation) => canLead(tableOf(relation.table), roster, steps - 1)));

test('the filters that make rows "their own" let through exactly those whose keys lead to the member', () => {
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
              leadsTo(rows, table, each, roster, id),
            ]);
          }
          expect([table.name, role, own.length > 0]).toEqual([table.name, role, canLead(table, roster)]);
          // What is only likely is another filter, never the same once more.
          const certain = new Set(own.map((where) => JSON.stringify(where)));
          expect(
            likelyRows(draft, wellsCatalogue, table, role).filter((where) => certain.has(JSON.stringify(where))),
          ).toEqual([]);
        }
      }
    }),
  );
});

test('a role without a roster, and a visitor, have no rows of their own', () => {
  for (const table of wellsCatalogue.tables)
    expect([ownRows(draft, wellsCatalogue, table, 'desk'), likelyRows(draft, wellsCatalogue, table, 'desk')]).toEqual([
      [],
      [],
    ]);
});

/** A column that leads to another table, by its name: `lab_id` to `labs`. */
const leads = (name: string) => column(name, 'whole number');

/** A table with an id whose columns ending in `_id` lead to the tables of those names. */
function table(name: string, columns: (string | Column)[], targets: Record<string, string> = {}): Table {
  const whole = columns.map((each) => (typeof each === 'string' ? column(each, 'text') : each));
  return {
    name,
    key: ['id'],
    columns: [column('id', 'whole number', { nullable: false }), ...whole],
    relations: whole
      .filter(({ name: at }) => at.endsWith('_id'))
      .map(({ name: at }) => {
        const relation = at.slice(0, -3);
        return { name: relation, column: at, table: targets[relation] ?? `${relation}s`, targetColumn: 'id' };
      }),
  };
}

/** Of the member's row in `staff`, the rest of the tables are theirs in one way or another. */
const labs = withManyRelations({
  schema: 'labs',
  tables: [
    table('staff', [
      'name',
      'email',
      'parish',
      'phone',
      'grade',
      column('born', 'date'),
      leads('lab_id'),
      leads('bank_id'),
    ]),
    table('labs', ['name', 'parish']),
    table('banks', ['name', 'grade']),
    table('samples', ['parish', 'phone', 'name', 'email', column('born', 'date'), leads('lab_id')]),
    table('visits', [column('grade', 'whole number'), leads('taker_id'), leads('sample_id')], { taker: 'staff' }),
    table('notes', ['text', leads('visit_id')]),
    table('trips', ['text', leads('visit_id')]),
    table('bills', ['sum', leads('bank_id')]),
    table('stamps', ['text', leads('trip_id')]),
    table('seals', ['text', leads('stamp_id')]),
    table('cords', ['text', leads('seal_id')]),
    table('routes', ['text', leads('route_id')]),
    table('stops', ['text', leads('route_id')]),
    table('crates', ['text']),
    table('jars', ['text', leads('crate_id'), leads('taker_id')], { taker: 'staff' }),
    table('lids', ['text', leads('jar_id')]),
    table('racks', ['text']),
    table('boxes', ['text', leads('rack_id'), leads('crate_id')]),
  ],
});

const staffed = {
  rosters: [{ table: 'staff', name: 'name', email: 'email', organisation: 'lab_id', role: 'taker' }],
};
const words = (of: typeof ownRows, name: string, role = 'taker', draft = staffed) =>
  of(draft, labs, findTable(labs, name)!, role).map((where) => printCondition(where));

test('rows are their own by the keys, the nearest first, and by the organisation that the roster names', () => {
  const own = (name: string) => words(ownRows, name);
  expect(own('staff')).toEqual(['id = :member.staff.id']);
  expect(own('labs')).toEqual(['id = :member.staff.lab_id']);
  expect(own('samples')).toEqual(['lab_id = :member.staff.lab_id']);
  expect(own('visits')).toEqual([
    'taker_id = :member.staff.id',
    'taker.lab_id = :member.staff.lab_id',
    'sample.lab_id = :member.staff.lab_id',
  ]);
  expect(own('notes')).toEqual([
    'visit.taker_id = :member.staff.id',
    'visit.taker.lab_id = :member.staff.lab_id',
    'visit.sample.lab_id = :member.staff.lab_id',
  ]);
  expect(own('seals')).toEqual(['stamp.trip.visit.taker_id = :member.staff.id']);
  // Too far, by a bank that many have, by a table that leads to itself alone, and by nothing.
  for (const name of ['cords', 'banks', 'bills', 'routes', 'stops', 'crates'])
    expect([name, own(name)]).toEqual([name, []]);
});

test('what may be meant is offered: records that are theirs, what leads where theirs does, namesakes', () => {
  const likely = (name: string) => words(likelyRows, name);
  expect(likely('staff')).toEqual([]);
  expect(likely('banks')).toEqual(['id = :member.staff.bank_id', 'grade = :member.staff.grade']);
  expect(likely('bills')).toEqual(['bank_id = :member.staff.bank_id', 'bank.grade = :member.staff.grade']);
  // Not by phone, name, e-mail or the day of birth, which are of the person and no group.
  expect(likely('samples')).toEqual([
    'EXISTS (visits WHERE visits.taker_id = :member.staff.id)',
    'parish = :member.staff.parish',
    'lab.parish = :member.staff.parish',
  ]);
  expect(likely('crates')).toEqual(['EXISTS (jars WHERE jars.taker_id = :member.staff.id)']);
});

test('a roster that gives another role, whose table is gone or has no key, makes nothing their own', () => {
  const both = (draft: typeof staffed, role = 'taker') => [
    words(ownRows, 'samples', role, draft),
    words(likelyRows, 'samples', role, draft),
  ];
  expect(both(staffed, 'guest')).toEqual([[], []]);
  expect(both({ rosters: [{ ...staffed.rosters[0]!, table: 'gone' }] })).toEqual([[], []]);
  const keyless = { ...labs, tables: labs.tables.map((each) => (each.name === 'staff' ? { ...each, key: [] } : each)) };
  expect(ownRows(staffed, keyless, findTable(keyless, 'samples')!, 'taker')).toEqual([]);
});
