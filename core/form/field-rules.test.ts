import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { Lens } from '../access/lens';
import { parseCondition } from '../condition/parse';
import type { FieldRule } from '../definition/definition';
import type { Catalogue, Table } from '../table/catalogue';
import { faultsOf, keepingRules, mayStayEmpty, rulesAfter, worksAt } from './field-rules';
import { sparedColumns } from './spared';

const names = ['a', 'b', 'c', 'd'];
const table: Table = {
  name: 'things',
  key: ['a'],
  relations: [],
  columns: names.map((name) => ({
    name,
    type: 'whole number',
    nativeType: 'int',
    nullable: true,
    hasDefault: false,
    automatic: false,
    unique: false,
  })),
};
const catalogue: Catalogue = { schema: 'x', tables: [table] };
const scope = { catalogue, table, member: true };

const someColumns = fc.uniqueArray(fc.constantFrom(...names), { minLength: 1, maxLength: 3 });
const anyRule = fc
  .record({
    does: fc.constantFrom<FieldRule['does']>('required', 'kept', 'refused'),
    columns: someColumns,
    reads: fc.option(fc.constantFrom(...names)),
    message: fc.option(fc.constantFrom('No.', 'Not so.'), { nil: undefined }),
  })
  .map(({ reads, ...rule }): FieldRule => ({
    id: 'r',
    ...rule,
    ...(reads === null ? {} : { when: parseCondition(`${reads} > 3`).condition! }),
  }));

it('a rule is asked exactly where what it is about was written', () => {
  fc.assert(
    fc.property(fc.array(anyRule, { maxLength: 5 }), someColumns, fc.boolean(), (rules, written, isNew) => {
      const columns = new Set(written);
      const asked = rulesAfter(rules, { isNew, columns }, scope);
      const about = ({ columns: own, when }: FieldRule) => [
        ...own,
        ...(when?.kind === 'compare' && when.left.kind === 'column' ? when.left.path : []),
      ];
      expect(asked).toEqual(
        rules.filter((rule) => rule.does !== 'kept' && (isNew || about(rule).some((column) => columns.has(column)))),
      );
      expect(keepingRules(rules, columns)).toEqual(
        rules.filter((rule) => rule.does === 'kept' && rule.columns.some((column) => columns.has(column))),
      );
    }),
  );
});

it('a fault stands at every column of a rule that holds, of what is required at the empty ones alone', () => {
  const anyOutcome = fc.record({
    rule: anyRule,
    applies: fc.boolean(),
    empty: someColumns.map((some) => new Set(some)),
  });
  fc.assert(
    fc.property(fc.array(anyOutcome, { maxLength: 5 }), (outcomes) => {
      const faults = faultsOf(outcomes);
      for (const name of names) {
        const deciding = outcomes.find(
          ({ rule, applies, empty }) =>
            applies && rule.columns.includes(name) && (rule.does !== 'required' || empty.has(name)),
        );
        expect(faults[name] !== undefined).toBe(deciding !== undefined);
        if (deciding?.rule.message) expect(faults[name]).toBe(deciding.rule.message);
      }
      expect(Object.keys(faults).every((name) => names.includes(name))).toBe(true);
    }),
  );
});

it('what may stay empty is exactly what no rule asks for, whatever holds, and the table does without', () => {
  fc.assert(
    fc.property(fc.array(anyRule, { maxLength: 5 }), (rules) => {
      const asking = rules.filter(({ does }) => does === 'required');
      const faults = faultsOf(asking.map((rule) => ({ rule, applies: true, empty: new Set(names) })));
      expect(table.columns.filter((column) => mayStayEmpty(column, rules)).map(({ name }) => name)).toEqual(
        names.filter((name) => faults[name] === undefined),
      );
    }),
  );
  const needed = { ...table.columns[0]!, nullable: false };
  expect([
    mayStayEmpty(needed, []),
    mayStayEmpty({ ...needed, hasDefault: true }, []),
    mayStayEmpty({ ...needed, automatic: true }, []),
  ]).toEqual([false, true, true]);
});

it('what decides whether somebody may make a record is not to be left empty', () => {
  const lens = (keepIn: string | null): Lens =>
    ({
      create: {
        columns: new Set(names),
        keepIn:
          keepIn === null
            ? []
            : [{ origin: { kind: 'keep-in', of: 'create' }, where: parseCondition(keepIn).condition! }],
      },
    }) as unknown as Lens;
  const spared = (...lenses: Lens[]) => [...sparedColumns({ table, lenses }, catalogue, [])];
  expect(spared(lens(null))).toEqual(names);
  expect(spared(lens('b = 1 OR d > 2'))).toEqual(['a', 'c']);
  expect(spared(lens(null), lens('c = 1'))).toEqual(['a', 'b', 'd']);
  expect(spared({ create: null } as Lens)).toEqual(names);
});

it('a rule whose column is gone, or whose condition is about something else, does not work', () => {
  const rule: FieldRule = { id: 'r', does: 'required', columns: ['a'] };
  expect(worksAt(rule, scope)).toBe(true);
  expect(worksAt({ ...rule, columns: ['a', 'e'] }, scope)).toBe(false);
  expect(worksAt({ ...rule, when: parseCondition('e > 3').condition! }, scope)).toBe(false);
  expect(worksAt({ ...rule, when: parseCondition("a > 'x'").condition! }, scope)).toBe(false);
  expect(worksAt({ ...rule, when: parseCondition('a > :member.staff.id').condition! }, scope)).toBe(false);
});
