import fc from 'fast-check';
import { expect, it } from 'vitest';
import { blockOf, holds, readBlock, writeBlock } from './block';

it('a block copied from the grid is pasted as it was, whatever stands in its cells', () => {
  const cell = fc.oneof(fc.string(), fc.constantFrom('a\tb', 'line\r\nend', '"quoted"', '', ' ', '0,5'));
  const block = fc
    .integer({ min: 2, max: 4 })
    .chain((width) => fc.array(fc.array(cell, { minLength: width, maxLength: width }), { minLength: 1, maxLength: 4 }));
  fc.assert(
    fc.property(block, (rows) => {
      expect(readBlock(writeBlock(rows))).toEqual(rows);
    }),
    { numRuns: 300 },
  );
});

it('a block begins at either corner', () => {
  const block = blockOf({ row: 5, column: 1 }, { row: 2, column: 3 });
  expect([block, holds(block, 2, 1), holds(block, 5, 3), holds(block, 1, 1), holds(block, 3, 4)]).toEqual([
    { top: 2, left: 1, bottom: 5, right: 3 },
    true,
    true,
    false,
    false,
  ]);
});
