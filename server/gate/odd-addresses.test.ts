import { raw } from '../../core/sql/sql';
import { mariadb } from '../../core/dialect/mariadb';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { column, person } from '../../test/wells';
import type { Table } from '../../core/table/catalogue';
import { BadQuestion } from './view/errors';
import { behind, readCursor, writeCursor, type OrderTerm } from './view/order';
import { readRecordId, recordId } from './view/record-id';
import { ViewSql } from './view/view-sql';
import { columnInfos } from '../columns/column-info';
import { source, visit, withOddTables } from './odd-tables.fixture';

withOddTables();

describe('addresses and places', () => {
  const pair: Table = {
    name: 'pair',
    key: ['a', 'b'],
    relations: [],
    columns: [column('a', 'text', { nullable: false }), column('b', 'whole number', { nullable: false })],
  };

  it('come back as they were written', () => {
    fc.assert(
      fc.property(
        fc.string({ minLength: 1, maxLength: 20 }).filter((text) => text.isWellFormed() && !text.includes('\0')),
        fc.integer(),
        (a, b) => {
          expect(readRecordId(pair, recordId([a, b]))).toEqual([a, b]);
        },
      ),
    );
    for (const id of ['', 'a', 'a,b', 'a,1,2', '%E0%A4%A,1', `${'x'.repeat(2000)},1`])
      expect(readRecordId(pair, id)).toBeNull();
  });

  it("are refused when they don't fit the order", () => {
    const terms: OrderTerm[] = [
      { sql: raw('d'), column: column('d', 'decimal'), descending: false },
      { sql: raw('id'), column: column('id', 'whole number'), descending: false },
    ];
    expect(readCursor(writeCursor(['1.50', 7n]), terms)).toEqual(['1.50', '7']);
    expect(behind(terms, ['1.50', 7], mariadb).text).toBe(
      '(d > CAST(? AS DECIMAL(3,2)) OR (d = CAST(? AS DECIMAL(3,2)) AND id > ?))',
    );
    for (const place of [['1.50'], ['x', 7], ['1.50', '7; DROP'], [true, 7], [['1'], 7]])
      expect(() => readCursor(Buffer.from(JSON.stringify(place)).toString('base64url'), terms)).toThrow(BadQuestion);
  });
});

describe('what the browser is told of columns', () => {
  it("has nothing of those that the person doesn't see", async () => {
    const columns = ['code', 'note', 'parent_record.note', 'nothing'];
    const narrow = visit();
    narrow.definition.access.named = { desk: { see: { where: 'every row', columns: ['code', 'note'] } } };
    narrow.definition.masks.push({
      id: 'm',
      table: 'named',
      column: 'note',
      mask: { style: 'all' },
      to: 'everyone',
      exceptRoles: [],
    });
    const seen = await columnInfos({ ...narrow, source }, 'named', columns);
    expect(seen.map((each) => [each.path, each.asked, each.sortable, each.veiled])).toEqual([
      ['code', 'value', true, false],
      ['note', null, false, true],
      ['parent_record.note', null, false, true],
    ]);
    expect(await columnInfos({ ...visit(person([])), source }, 'named', columns)).toEqual([]);
    expect(
      new ViewSql(narrow)
        .askCatalogue()
        .tables.find((each) => each.name === 'named')!
        .columns.map((each) => each.name),
    ).toEqual(['code']);
  });
});
