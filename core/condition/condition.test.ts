import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyCondition } from '../../test/any-condition';
import { wellsCatalogue } from '../../test/wells';
import { readCondition } from './check';
import { compareText, likeText } from './collation';
import type { Value } from '../table/value';
import { compileCondition, type RecordSql } from './compile';
import { describeCondition } from './describe';
import { evaluate, trace } from './evaluate';
import { moveBy } from './interval';
import { parseCondition } from './parse';
import type { RecordReader } from './prepare';
import { printCondition } from './print';
import { tellingPart } from './telling';
import { name, sql } from '../sql/sql';

const wells = wellsCatalogue.tables[1]!;
const scope = { catalogue: wellsCatalogue, table: wells, member: true };

const context = {
  facts: { id: 7, 'owners.id': 17, 'owners.parish': null },
  today: '2026-11-23',
  now: '2026-11-23 10:00:00',
};

/** A record in memory: columns by their path, related records as lists by the relation's path. */
const recordOf = (row: Record<string, unknown>): RecordReader => ({
  value: (path) => (row[path.join('.')] ?? null) as Value,
  exists: (condition, holds) =>
    ((row[condition.relation.join('.')] ?? []) as Record<string, unknown>[]).some(
      (related) => holds(recordOf(related)) === true,
    ),
});

const plainSql: RecordSql = {
  column: (path) => name(path.join('.')),
  exists: (relation, where) => sql`EXISTS (SELECT 1 FROM ${name(relation.join('.'))} WHERE ${where(plainSql)})`,
};

const check = (text: string, row: Record<string, unknown>) =>
  evaluate(readCondition(text, scope), scope, recordOf(row), context);

describe('text form', () => {
  it('gives the same tree back for every tree', () => {
    fc.assert(
      fc.property(anyCondition, (tree) => {
        expect(parseCondition(printCondition(tree)).condition).toEqual(tree);
      }),
      { numRuns: 2000 },
    );
  });

  it('reads the examples of the language', () => {
    for (const text of [
      "owner_id = :member.owners.id AND state IN ('active', 'resting')",
      'sampler_id = :member.samplers.id OR owner_id = :member.id',
      'owner.parish = :member.samplers.district',
      'NOT (owner_id = 1) AND note IS NOT NULL',
      'depth_m BETWEEN 10 AND 20.5',
      "code NOT LIKE 'AF\\_%'",
      "'UV' NOT IN treatment",
      'owner.birth_date < :today - INTERVAL 18 YEAR',
      "NOT EXISTS (visits WHERE visits.planned_for > :now + INTERVAL 2 HOUR AND visits.well.state = 'active')",
      'EXISTS (owner.wells)',
      'EXISTS (visits WHERE visits.fee > 5 OR visits.fee IS NULL)',
    ]) {
      expect(printCondition(readCondition(text, scope))).toBe(text);
    }
  });

  it.each([
    ['onwer_id = 1', 'line 1, column 1: there is no column onwer_id in wells; did you mean owner_id?'],
    [
      "owner_id = 1 AND\n  ownr.parish = 'x'",
      'line 2, column 3: there is no relation ownr in wells; did you mean owner?',
    ],
    ['owner_id = :member.ownres.id', 'line 1, column 12: there is no table ownres; did you mean owners?'],
    ["owner_id = 'x'", "line 1, column 12: owner_id is a number and can't be compared with 'x'"],
    ["state = 'activ'", "line 1, column 9: state has no choice 'activ'; did you mean active?"],
    ["state < 'active'", 'line 1, column 1: state has no order; compare it with = or <>'],
    ["note LIKE 'a\\'", 'line 1, column 11: the pattern ends in a single \\; write \\\\ for the sign itself'],
    [
      'EXISTS (visit WHERE visit.fee > 5)',
      'line 1, column 9: there is no to-many relation visit in wells; did you mean visits?',
    ],
    [
      'EXISTS (visits WHERE visits.feee > 5)',
      'line 1, column 22: there is no column feee in visits; did you mean fee?',
    ],
    [
      'depth_m < :today - INTERVAL 3 DAY',
      "line 1, column 11: depth_m is a number and can't be compared with :today - INTERVAL 3 DAY",
    ],
    [
      'owner.birth_date > :today - INTERVAL 3 HOUR',
      'line 1, column 20: :today is a date without time; move it by days or more',
    ],
    ["note = 'a' - INTERVAL 3 DAY", 'line 1, column 12: an interval can only follow a column or a fact such as :today'],
    ['owner.birth_date > :today - 3', 'line 1, column 29: expected INTERVAL, as in :today - INTERVAL 30 DAY, not "3"'],
    ["'UV' IN note", 'line 1, column 9: note is text; a single column after IN must hold several choices'],
    ["'UW' IN treatment", "line 1, column 1: treatment has no choice 'UW'; did you mean UV?"],
    [
      'code = :record.code',
      "line 1, column 8: :record.code can only stand in the filter of a section on a record's page",
    ],
    ["note = 'open", "line 1, column 8: this text has no closing quote '"],
    ['(owner_id = 1', 'line 1, column 14: expected ")", not the end'],
    ['1 = 1', 'line 1, column 1: a comparison needs a column of the table'],
    ['owner_id = 1; DROP TABLE wells', 'line 1, column 13: ";" can\'t stand here'],
  ])('says where %s is wrong', (text, message) => {
    expect(() => readCondition(text, scope)).toThrow(message);
  });

  it('refuses what would exhaust it', () => {
    expect(() => parseCondition(`${'('.repeat(5000)}a = 1`)).toThrow('nested');
    expect(() => parseCondition('x'.repeat(30_000))).toThrow('characters at most');
  });
});

describe('evaluation', () => {
  it('has three values, and a fact that is missing lets nobody in', () => {
    expect(check('owner_id = :member.owners.id', { owner_id: 17 })).toBe(true);
    expect(check('owner_id = :member.samplers.id', { owner_id: 17 })).toBe(null);
    expect(check('NOT (owner_id = :member.samplers.id)', { owner_id: 17 })).toBe(null);
    expect(check('owner_id = :member.samplers.id OR owner_id = 17', { owner_id: 17 })).toBe(true);
    expect(check('owner_id IN (1, :member.samplers.id)', { owner_id: 2 })).toBe(null);
    expect(check('owner_id NOT IN (1, 2)', {})).toBe(null);
  });

  it('keeps decimals exact and follows relations', () => {
    expect(check('depth_m = 0.1', { depth_m: '0.10000000000000000001' })).toBe(false);
    expect(check('depth_m >= 42.5', { depth_m: '42.50' })).toBe(true);
    expect(check("owner.parish = 'saltby'", { 'owner.parish': 'SALTBY  ' })).toBe(true);
    expect(check('owner.birth_date < :today', { 'owner.birth_date': '2026-11-22' })).toBe(true);
  });

  it("asks for related records, choices, moved dates and the page's record", () => {
    const well = {
      treatment: ['UV'],
      visits: [
        { fee: '10.00', asked_on: '2026-11-01' },
        { fee: null, asked_on: null },
      ],
    };
    expect(check('EXISTS (visits WHERE visits.fee > 5)', well)).toBe(true);
    expect(check('EXISTS (visits WHERE visits.fee > 50)', well)).toBe(false);
    expect(check('NOT EXISTS (visits WHERE visits.fee < 5)', well)).toBe(true);
    expect(check('EXISTS (visits)', {})).toBe(false);
    expect(check('EXISTS (visits WHERE visits.asked_on >= :today - INTERVAL 22 DAY)', well)).toBe(true);
    expect(check('EXISTS (visits WHERE visits.asked_on >= :today - INTERVAL 21 DAY)', well)).toBe(false);
    expect([
      check("'UV' IN treatment", well),
      check("'softener' IN treatment", well),
      check("'UV' NOT IN treatment", {}),
    ]).toEqual([true, false, null]);
    expect([
      moveBy('2024-01-31', 1, 'MONTH'),
      moveBy('2024-02-29', -1, 'YEAR'),
      moveBy('2026-11-23 00:30:00.5', -1, 'HOUR'),
      moveBy('9999-12-31', 1, 'DAY'),
    ]).toEqual(['2024-02-29', '2023-02-28', '2026-11-22 23:30:00.5', null]);
    const onPage = { ...scope, record: wells };
    const same = readCondition('note = :record.note', onPage);
    expect([
      evaluate(same, onPage, recordOf({ note: 'x' }), { ...context, record: { note: 'X' } }),
      evaluate(same, onPage, recordOf({ note: 'x' }), context),
    ]).toEqual([true, null]);
  });

  it('traces the values that were compared', () => {
    const result = trace(
      readCondition("owner_id = :member.owners.id OR state = 'closed'", scope),
      scope,
      recordOf({ owner_id: 18, state: 'active' }),
      context,
    );
    expect(result.outcome).toBe(false);
    expect(result.parts?.map((part) => part.values)).toEqual([
      [18, 17],
      ['active', 'closed'],
    ]);
  });

  it('compares text as the collations do', () => {
    expect(compareText('utf8mb4_general_ci', 'Ärger', 'arger ')).toBe(0);
    expect(compareText('utf8mb4_bin', 'a', 'A')).toBeGreaterThan(0);
    expect(compareText('utf8mb4_general_ci', 'a\t', 'a')).toBeLessThan(0);
    expect(likeText('utf8mb4_general_ci', 'a%b', 'A\\%_')).toBe(true);
    expect(likeText('utf8mb4_general_ci', 'aaaaaaaaaaaaaaaaaaaaaaaaaaaaab', `${'%a'.repeat(20)}%c`)).toBe(false);
    expect(() => compareText('utf8mb4_unicode_ci', 'a', 'b')).toThrow('not known in memory');
  });
});

describe('compilation', () => {
  const compiled = (text: string) => compileCondition(readCondition(text, scope), plainSql, { scope, context });

  it('binds every value and quotes every name', () => {
    const { text, params } = compiled("note = 'x'' OR 1=1 --' AND owner_id = :member.owners.id AND code LIKE '%\"%'");
    expect(text).toBe('((`note` = ?) AND (`owner_id` = ?) AND (`code` LIKE ?))');
    expect(params).toEqual(["x' OR 1=1 --", 17, '%"%']);
    expect(name('a`b; DROP TABLE x').text).toBe('`a``b; DROP TABLE x`');
    expect(sql`SELECT ${name('a')}`.params).toEqual([]);
  });

  it('writes NULL for a fact that is missing', () => {
    expect(compiled('owner_id = :member.samplers.id').text).toBe('(`owner_id` = NULL)');
  });
});

describe('description', () => {
  it('is plain English', () => {
    expect(
      describeCondition(
        readCondition(
          "NOT EXISTS (visits WHERE visits.asked_on > :today - INTERVAL 1 DAY) AND 'UV' IN treatment",
          scope,
        ),
      ),
    ).toBe('there is none of its visits where asked on is more than 1 day before today, and treatment includes "UV"');
    expect(
      describeCondition(
        readCondition('sampler_id = :member.samplers.id OR owner.parish = :member.samplers.district', scope),
      ),
    ).toBe("sampler is the member's row in samplers, or owner's parish is the member's district in samplers");
    expect(describeCondition(readCondition("note IS NOT NULL AND (state = 'active' OR depth_m > 5)", scope))).toBe(
      'note is filled, and (state is "active", or depth m is more than 5)',
    );
  });
});

it('what tells most of a condition stands first, and is short', () => {
  const told = (text: string) => tellingPart(parseCondition(text).condition);
  expect([
    told('well.owner_id = :member.owners.id'),
    told("state = 'open' and assigned_to = :member.id"),
    told('assigned_to = :member.id or planned_by = :member.id'),
    told("state in ('asked', 'planned')"),
    told('exists (visits where state = 1)'),
    told('is_public = true'),
    told('is_public = false'),
    told('not (depth > 3)'),
  ]).toEqual([
    "own well's owner",
    'state open, own assigned to',
    'own assigned to or own planned by',
    'state asked, planned',
    'with visits',
    'is public',
    'is public no',
    `not ${describeCondition(parseCondition('depth > 3').condition)}`,
  ]);
});
