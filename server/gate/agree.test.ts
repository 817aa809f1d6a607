import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { freshSchema } from '../../test/tables';
import { checkCondition, type ConditionScope } from '../../core/condition/check';
import { compareText } from '../../core/condition/collation';
import { compileCondition } from '../../core/condition/compile';
import { evaluate } from '../../core/condition/evaluate';
import { generalWeights } from '../../core/condition/general-weights';
import { printCondition } from '../../core/condition/print';
import { and, joined, name, sql } from '../../core/condition/sql';
import type { Comparison, Condition, Operand } from '../../core/condition/tree';
import { applyMask, maskSql, type Mask } from '../../core/mask/mask';
import type { Catalogue, Table } from '../../core/table/catalogue';
import type { Value } from '../../core/table/value';
import { MariadbSource } from '../sources/mariadb';
import { decode } from './decode';
import { rawColumn, Tables } from './tables';

/** The judge is MariaDB itself: whatever memory decides of a row, the database must decide too. */
let connection: Connection;
let source: MariadbSource;
let catalogue: Catalogue;
let table: Table;

const texts = ['', 'a', 'A', 'ä', 'a ', 'Straße', 'STRASSE', 'o\'clock', '50%', 'a_b', 'a\\b', '"', '😀', 'ß', 's', '\t', 'İ', 'x;--', '\u00a0', 'ﬁ'];
const row = fc.record({
  small: fc.option(fc.integer({ min: -3, max: 3 })), big: fc.option(fc.constantFrom('9223372036854775807', '9007199254740993', '9007199254740992', '-1', '0')),
  exact: fc.option(fc.constantFrom('0.10', '0.1', '-0.50', '12345678901234567890.12', '12345678901234567890.13', '7.00')), rough: fc.option(fc.constantFrom(0.1, 0.5, -2, 1e15, 0.30000000000000004)), single: fc.option(fc.constantFrom(0.1, 0.5, 16777217)),
  yes: fc.option(fc.constantFrom(0, 1, 2)), day: fc.option(fc.constantFrom('2026-11-23', '2024-02-29', '1999-12-31')), moment: fc.option(fc.constantFrom('2026-11-23 00:00:00', '2026-11-23 10:00:00.5', '2024-02-29 23:59:59')),
  loose: fc.option(fc.constantFrom(...texts)), strict: fc.option(fc.constantFrom(...texts)), state: fc.option(fc.constantFrom('asked', 'planned', 'at lab')), other_id: fc.option(fc.integer({ min: 1, max: 4 })),
}, { noNullPrototype: true });

beforeAll(async () => {
  connection = await freshSchema(inject('database'), 'agree');
  await connection.query(`CREATE TABLE other (id INT PRIMARY KEY, word VARCHAR(20), far_id INT, FOREIGN KEY (far_id) REFERENCES other (id))`);
  await connection.query(`INSERT INTO other VALUES (1, 'a', NULL), (2, NULL, 1), (3, 'Ä', 2), (4, 'b', 3)`);
  await connection.query(`CREATE TABLE thing (id INT AUTO_INCREMENT PRIMARY KEY, small INT, big BIGINT, exact DECIMAL(30,2), rough DOUBLE, single FLOAT, yes BOOLEAN, day DATE, moment DATETIME(6),
    loose VARCHAR(40), strict VARCHAR(40) COLLATE utf8mb4_bin, state ENUM('asked','planned','at lab'), other_id INT, FOREIGN KEY (other_id) REFERENCES other (id))`);
  const rows = fc.sample(row, { numRuns: 60, seed: 4 });
  await connection.batch(`INSERT INTO thing (${Object.keys(rows[0]!).join(', ')}) VALUES (${Object.keys(rows[0]!).map(() => '?').join(', ')})`, rows.map((each) => Object.values(each)));
  source = new MariadbSource(inject('database'), 'agree');
  catalogue = await source.catalogue();
  table = catalogue.tables.find((each) => each.name === 'thing')!;
});
afterAll(async () => {
  await source?.close();
  await connection?.end();
});

const context = { facts: { id: 2, email: 'A', organisation: null, 'thing.small': 1, 'thing.loose': 'ä', 'thing.day': '2024-02-29', 'thing.exact': '0.10', 'thing.big': 9007199254740993n }, today: '2026-11-23', now: '2026-11-23 10:00:00' };
const columns = ['small', 'big', 'exact', 'rough', 'single', 'yes', 'day', 'moment', 'loose', 'strict', 'state', 'other.word', 'other.far.word', 'other.id'];
const anyOperand: fc.Arbitrary<Operand> = fc.oneof(
  { weight: 4, arbitrary: fc.constantFrom(...columns).map((path): Operand => ({ kind: 'column', path: path.split('.') })) },
  { weight: 2, arbitrary: fc.constantFrom(...texts, '2026-11-23', '2024-02-29', '2026-11-23 10:00:00.5', 'asked', 'planned').map((text): Operand => ({ kind: 'text', text })) },
  { weight: 2, arbitrary: fc.constantFrom('0', '1', '-2', '0.1', '0.10', '7', '0.5', '9007199254740993', '9223372036854775808', '12345678901234567890.12', '16777217').map((digits): Operand => ({ kind: 'number', digits })) },
  fc.boolean().map((value): Operand => ({ kind: 'boolean', value })),
  fc.constantFrom('today' as const, 'now' as const).map((what): Operand => ({ kind: 'clock', what })),
  { weight: 2, arbitrary: fc.constantFrom(['id'], ['email'], ['organisation'], ['thing', 'small'], ['thing', 'loose'], ['thing', 'day'], ['thing', 'exact'], ['thing', 'big'], ['other', 'word']).map((fact): Operand => ({ kind: 'member', fact: [...fact] })) },
);
const anyPattern = fc.array(fc.constantFrom('%', '_', 'a', 'S', '\\%', '\\_', '\\\\', 'ß', '😀', ' '), { maxLength: 5 }).map((parts): Operand => ({ kind: 'text', text: parts.join('') }));

const scope = (): ConditionScope => ({ catalogue, table, member: true });
const anyLeaf: fc.Arbitrary<Condition> = fc.oneof(
  { weight: 3, arbitrary: fc.record({ kind: fc.constant('compare' as const), left: anyOperand, comparison: fc.constantFrom<Comparison>('=', '<>', '<', '<=', '>', '>='), right: anyOperand }) },
  fc.record({ kind: fc.constant('in' as const), left: anyOperand, list: fc.array(anyOperand, { minLength: 1, maxLength: 3 }) }),
  fc.record({ kind: fc.constant('between' as const), left: anyOperand, low: anyOperand, high: anyOperand }),
  fc.record({ kind: fc.constant('like' as const), left: anyOperand, pattern: anyPattern }),
  fc.record({ kind: fc.constant('null' as const), left: anyOperand }),
).filter((leaf) => checkCondition(leaf, scope()).length === 0);

/** A column together with what fits it, so that every pair of types is met often. */
function anyCondition(): fc.Arbitrary<Condition> {
  return fc.letrec<{ condition: Condition }>((tie) => ({
    condition: fc.oneof({ maxDepth: 3 }, { weight: 3, arbitrary: anyLeaf }, { weight: 2, arbitrary: fc.record({ kind: fc.constantFrom('all' as const, 'any' as const), parts: fc.array(tie('condition'), { minLength: 2, maxLength: 3 }) }) },
      { weight: 1, arbitrary: fc.record({ kind: fc.constant('not' as const), part: tie('condition') }) }),
  })).condition;
}

async function rawRows(): Promise<Map<string, Value>[]> {
  const tables = new Tables(catalogue, table);
  const paths = columns.map((path) => path.split('.'));
  const rows = await source.rows(sql`SELECT ${joined(paths.map((path) => tables.raw(path)), sql`, `)} FROM ${tables.sql()} ORDER BY t0.id`);
  return rows.map((raw) => new Map(columns.map((path, i) => {
    const parts = path.split('.');
    const at = parts.length === 1 ? table : catalogue.tables.find((each) => each.name === 'other')!;
    return [path, decode(at.columns.find((column) => column.name === parts.at(-1))!, raw[i])];
  })));
}

describe('memory and MariaDB', () => {
  it('agree on at least 2,000 (condition, row) pairs, unknown included', async () => {
    const rows = await rawRows();
    let pairs = 0;
    let unknown = 0;
    await fc.assert(fc.asyncProperty(anyCondition(), async (condition) => {
      const tables = new Tables(catalogue, table);
      const compiled = compileCondition(condition, scope(), (path) => tables.raw(path), context);
      const answers = await source.rows(sql`SELECT ${compiled} FROM ${tables.sql()} ORDER BY t0.id`);
      rows.forEach((values, i) => {
        const memory = evaluate(condition, scope(), (path) => values.get(path.join('.')) ?? null, context);
        const answer = answers[i]![0];
        const database = answer === null ? null : Number(answer) !== 0;
        expect([printCondition(condition), i, memory]).toEqual([printCondition(condition), i, database]);
        pairs++;
        if (memory === null) unknown++;
      });
    }), { numRuns: 400 });
    expect(pairs).toBeGreaterThanOrEqual(2000);
    expect(unknown).toBeGreaterThan(100);
  });

  it('weigh every character of utf8mb4_general_ci alike', async () => {
    const rows = await connection.query<{ seq: number; weight: string }[]>(`SELECT seq, HEX(WEIGHT_STRING(CONVERT(CHAR(seq USING utf32) USING utf8mb4) COLLATE utf8mb4_general_ci)) weight FROM seq_1_to_65535 WHERE seq NOT BETWEEN 55296 AND 57343`);
    const wrong = rows.filter(({ seq, weight }) => Number.parseInt(weight, 16) !== (generalWeights.get(seq) ?? seq));
    expect([rows.length, wrong]).toEqual([63487, []]);
  });

  it('sort texts alike', async () => {
    for (const collation of ['utf8mb4_general_ci', 'utf8mb4_bin']) {
      for (const a of texts) {
        for (const b of texts) {
          const [answer] = await connection.query<{ c: number }[]>(`SELECT STRCMP(? COLLATE ${collation}, ? COLLATE ${collation}) c`, [a, b]);
          expect([collation, a, b, Math.sign(compareText(collation, a, b))]).toEqual([collation, a, b, Number(answer!.c)]);
        }
      }
    }
  });
});

describe('masks in SQL', () => {
  it('give the same bytes as in memory', async () => {
    const masks: [string, Mask][] = [['loose', { style: 'all' }], ['loose', { style: 'keep last', count: 1 }], ['strict', { style: 'keep last', count: 3 }], ['big', { style: 'keep last', count: 4 }], ['day', { style: 'year' }], ['moment', { style: 'year' }]];
    for (const [columnName, mask] of masks) {
      const column = table.columns.find((each) => each.name === columnName)!;
      const raw = rawColumn(name('t0'), column);
      const rows = await source.rows(sql`SELECT ${raw}, ${maskSql(mask, raw)} FROM thing t0`);
      for (const [value, masked] of rows) expect([columnName, mask, masked]).toEqual([columnName, mask, applyMask(mask, decode(column, value))]);
    }
  });
});

describe('statements', () => {
  it('never carry a value or an unquoted name in their text', async () => {
    const odd = await freshSchema(inject('database'), 'masks');
    await odd.query('CREATE TABLE `we``ird "t;able` (id INT PRIMARY KEY, `co``l; DROP TABLE x --` VARCHAR(40))');
    await odd.query('INSERT INTO `we``ird "t;able` VALUES (1, ?), (2, ?)', ['\' OR 1=1 --', 'plain']);
    const other = new MariadbSource(inject('database'), 'masks');
    try {
      const known = await other.catalogue();
      const weird = known.tables[0]!;
      const condition: Condition = { kind: 'compare', left: { kind: 'column', path: [weird.columns[1]!.name] }, comparison: '=', right: { kind: 'text', text: '\' OR 1=1 --' } };
      const tables = new Tables(known, weird);
      const statement = sql`SELECT t0.id FROM ${tables.sql()} WHERE ${joined([compileCondition(condition, { catalogue: known, table: weird, member: true }, (path) => tables.raw(path), context)], and)}`;
      expect(statement.text).toBe('SELECT t0.id FROM `we``ird "t;able` `t0` WHERE (`t0`.`co``l; DROP TABLE x --` = ?)');
      expect(await other.rows(statement)).toEqual([[1]]);
    } finally {
      await other.close();
      await odd.end();
    }
  });
});
