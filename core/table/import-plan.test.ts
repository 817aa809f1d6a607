import fc from 'fast-check';
import { expect, test } from 'vitest';
import { wellsCatalogue } from '../../test/wells';
import { plainLabel } from './catalogue';
import type { InferredColumn } from './infer';
import { rememberPlan, suggestPlan } from './import-plan';

const labels = { depth_m: 'Depth, metres' };
const titleOf = (table: string) => (table === 'owners' ? 'name' : undefined);
const asFile = (headers: string[], type: InferredColumn['type']) => ({
  format: 'csv',
  columns: headers.map(
    (header): InferredColumn => ({ header, name: header, type, nullable: true, ask: [], samples: [] }) as never,
  ),
});

/** A name as people write it at the head of a sheet: in any case, with other signs between, with marks on letters. */
const written = (name: string): fc.Arbitrary<string> =>
  fc
    .tuple(fc.constantFrom(' ', '_', '-', '. ', '  '), fc.constantFrom('', '̈', '́'), fc.boolean())
    .map(([sign, mark, loud]) => {
      const text = name.replaceAll(/[ _,]+/g, sign).replace(/a/, `a${mark}`);
      return loud ? text.toUpperCase() : text;
    });

const anyHeaders = fc.constantFrom(...wellsCatalogue.tables).chain((table) =>
  fc.tuple(
    fc.constant(table),
    fc.subarray(table.columns.filter((column) => !column.automatic)).chain((columns) =>
      fc.tuple(
        ...columns.map((column) =>
          fc
            .constantFrom(
              column.name,
              plainLabel(column.name),
              (labels as Record<string, string>)[column.name] ?? column.name,
            )
            .chain(written)
            .map((header) => [header, column.name] as const),
        ),
      ),
    ),
    fc.array(fc.constantFrom('Remarks (ours)', 'Total', 'x'), { maxLength: 2 }),
    fc.constantFrom<InferredColumn['type']>('text', 'whole number'),
  ),
);

test('headings go to the columns that they name, each once, and a plan that was kept is suggested again', () => {
  fc.assert(
    fc.property(anyHeaders, ([table, named, strange, type]) => {
      const headers = [...named.map(([header]) => header), ...new Set(strange)];
      fc.pre(new Set(headers).size === headers.length);
      const file = asFile(headers, type);
      const plan = suggestPlan(file, wellsCatalogue, table, labels, null, titleOf);
      expect(plan.columns.map((each) => [each.header, each.column])).toEqual(named);
      for (const { column, by } of plan.columns) {
        const relation = table.relations.find((each) => each.column === column);
        // Text where the relation holds numbers is what people call the records by; numbers are the keys themselves.
        expect(by !== undefined).toBe(relation !== undefined && type === 'text');
        if (by === undefined) continue;
        expect(
          wellsCatalogue.tables.find((each) => each.name === relation!.table)!.columns.map((each) => each.name),
        ).toContain(by);
      }
      if (plan.key !== null) expect(plan.columns.map((each) => each.column)).toContain(plan.key);
      const again = suggestPlan(file, wellsCatalogue, table, labels, rememberPlan(plan, 'csv', null), titleOf);
      expect(again).toEqual(plan);
      // The same headings in another order are known too; what a person took off stays off.
      const shuffled = suggestPlan(
        asFile(headers.toReversed(), type),
        wellsCatalogue,
        table,
        labels,
        rememberPlan(plan, 'csv', null),
        titleOf,
      );
      expect(new Set(shuffled.columns.map((each) => each.column))).toEqual(
        new Set(plan.columns.map((each) => each.column)),
      );
    }),
  );
});
