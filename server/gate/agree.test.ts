import { createHmac } from 'node:crypto';
import fc from 'fast-check';
import { Client } from 'pg';
import { MemoryRecords } from '../../test/memory-records';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { freshSchema } from '../../test/tables';
import { checkCondition } from '../../core/condition/check';
import { type ConditionScope } from '../../core/condition/scope';
import { compareText } from '../../core/condition/collation';
import { compileCondition } from '../../core/condition/compile';
import type { Dialect } from '../../core/dialect/dialect';
import { mariadb } from '../../core/dialect/mariadb';
import { postgresql } from '../../core/dialect/postgresql';
import { evaluate } from '../../core/condition/evaluate';
import { generalWeights } from '../../core/condition/general-weights';
import { printCondition } from '../../core/condition/print';
import { forPostgres, joined, name, sql, type Sql } from '../../core/sql/sql';
import { type Comparison, type Condition, type Operand } from '../../core/condition/tree';
import { intervalUnits } from '../../core/sql/interval-unit';
import { applyMask, maskSql, maskTakes, type Mask, type MaskContext } from '../../core/mask/mask';
import type { Catalogue } from '../../core/table/catalogue';
import type { Row } from '../../core/table/value';
import { MariadbSource } from '../sources/mariadb';
import { decode } from './view/decode';
import { rawRecord, Tables } from './view/tables';

/** The judges are the databases: whatever memory decides of a row, they must decide too. */
let connection: Connection;
let source: MariadbSource;
let catalogue: Catalogue;

const texts = [
  '',
  'a',
  'A',
  'ä',
  'a ',
  'Straße',
  'STRASSE',
  "o'clock",
  '50%',
  'a_b',
  'a\\b',
  '"',
  '😀',
  'ß',
  's',
  '\t',
  'İ',
  'x;--',
  '\u00a0',
  'ﬁ',
];

const row = fc.record(
  {
    small: fc.option(fc.integer({ min: -3, max: 3 })),
    big: fc.option(fc.constantFrom('9223372036854775807', '9007199254740993', '9007199254740992', '-1', '0')),
    exact: fc.option(
      fc.constantFrom(
        '0.10',
        '0.1',
        '-0.50',
        '12345678901234567890.12',
        '12345678901234567890.13',
        '7.00',
        '249.99',
        '250.00',
        '-250.01',
      ),
    ),
    rough: fc.option(fc.constantFrom(0.1, 0.5, -2, 1e15, 0.30000000000000004)),
    single: fc.option(fc.constantFrom(0.1, 0.5, 16777217)),
    yes: fc.option(fc.constantFrom(0, 1, 2)),
    day: fc.option(fc.constantFrom('2026-11-23', '2024-02-29', '1999-12-31', '1936-11-23', '1936-11-24')),
    moment: fc.option(fc.constantFrom('2026-11-23 00:00:00', '2026-11-23 10:00:00.5', '2024-02-29 23:59:59')),
    loose: fc.option(fc.constantFrom(...texts)),
    strict: fc.option(fc.constantFrom(...texts)),
    state: fc.option(fc.constantFrom('asked', 'planned', 'at lab')),
    other_id: fc.option(fc.integer({ min: 1, max: 4 })),
    kinds: fc.option(fc.subarray(['UV', 'softener', 'iron filter']).map((chosen) => chosen.join(','))),
    odd: fc.option(
      fc.constantFrom(
        'rowan@example.org',
        'a@b@example.org',
        '@x',
        'none',
        ' Rowan  Tarn ',
        'Åse\tÖ',
        '4111 1111 1111 1111',
        '378282246310005',
        '123',
        'AF1 4QT',
        '90210-1234',
        '03601',
        '01632 960 417',
        '',
      ),
    ),
  },
  { noNullPrototype: true },
);

const children: [number, number | null, number | null, string | null][] = [
  [1, 1, 1, 'a'],
  [2, 1, null, null],
  [3, 2, 3, 'B'],
  [4, null, 1, 'a'],
  [5, 60, 2, 'b'],
  [6, 5, 1, 'A '],
];

const others: [number, string | null, number | null][] = [
  [1, 'a', null],
  [2, null, 1],
  [3, 'Ä', 2],
  [4, 'b', 3],
];

beforeAll(async () => {
  connection = await freshSchema(inject('database'), 'agree');
  await connection.query(
    `CREATE TABLE other (id INT PRIMARY KEY, word VARCHAR(20), far_id INT, FOREIGN KEY (far_id) REFERENCES other (id))`,
  );
  await connection.batch('INSERT INTO other VALUES (?, ?, ?)', others);
  await connection.query(`CREATE TABLE thing (id INT AUTO_INCREMENT PRIMARY
    KEY, small INT, big BIGINT, exact DECIMAL(30,2), rough DOUBLE, single FLOAT, yes BOOLEAN, day DATE, moment
    DATETIME(6),
    loose VARCHAR(40), strict VARCHAR(40) COLLATE utf8mb4_bin, state ENUM('asked','planned','at lab'), other_id INT,
    kinds SET('softener','UV','iron filter'), odd VARCHAR(40), FOREIGN KEY (other_id) REFERENCES other (id))`);
  const rows = fc.sample(row, { numRuns: 60, seed: 4 });
  await connection.batch(
    `INSERT INTO thing (${Object.keys(rows[0]!).join(', ')}) VALUES (${Object.keys(rows[0]!)
      .map(() => '?')
      .join(', ')})`,
    rows.map((each) => Object.values(each)),
  );
  await connection.query(
    'CREATE TABLE child (id INT PRIMARY KEY, thing_id INT, size INT, word VARCHAR(20), FOREIGN KEY (thing_id) ' +
      'REFERENCES thing (id))',
  );
  await connection.batch('INSERT INTO child VALUES (?, ?, ?, ?)', children);
  source = new MariadbSource(inject('database'), 'agree');
  catalogue = await source.catalogue();
});

afterAll(async () => {
  await source?.close();
  await connection?.end();
});

const context = {
  facts: {
    id: 2,
    email: 'A',
    organisation: null,
    'thing.small': 1,
    'thing.loose': 'ä',
    'thing.day': '2024-02-29',
    'thing.exact': '0.10',
    'thing.big': 9007199254740993n,
    'other.word': 'uv',
  },
  today: '2026-11-23',
  now: '2026-11-23 10:00:00',
};

const columns = [
  'small',
  'big',
  'exact',
  'rough',
  'single',
  'yes',
  'day',
  'moment',
  'loose',
  'strict',
  'state',
  'other.word',
  'other.far.word',
  'other.id',
];

const pathOperand = (paths: string[]) =>
  fc
    .constantFrom(...paths)
    .map((path): Extract<Operand, { kind: 'column' }> => ({ kind: 'column', path: path.split('.') }));

const anyConstant: fc.Arbitrary<Operand> = fc.oneof(
  {
    weight: 2,
    arbitrary: fc
      .constantFrom(...texts, '2026-11-23', '2024-02-29', '2026-11-23 10:00:00.5', 'asked', 'planned')
      .map((text): Operand => ({ kind: 'text', text })),
  },
  {
    weight: 2,
    arbitrary: fc
      .constantFrom(
        '0',
        '1',
        '-2',
        '0.1',
        '0.10',
        '7',
        '0.5',
        '9007199254740993',
        '9223372036854775808',
        '12345678901234567890.12',
        '16777217',
      )
      .map((digits): Operand => ({ kind: 'number', digits })),
  },
  fc.boolean().map((value): Operand => ({ kind: 'boolean', value })),
  fc.constantFrom('today' as const, 'now' as const).map((what): Operand => ({ kind: 'clock', what })),
  {
    weight: 2,
    arbitrary: fc
      .constantFrom(
        ['id'],
        ['email'],
        ['organisation'],
        ['thing', 'small'],
        ['thing', 'loose'],
        ['thing', 'day'],
        ['thing', 'exact'],
        ['thing', 'big'],
        ['other', 'word'],
      )
      .map((fact): Operand => ({ kind: 'member', fact: [...fact] })),
  },
);

const anyShifted = (dates: string[]): fc.Arbitrary<Operand> =>
  fc.record({
    kind: fc.constant('shifted' as const),
    of: fc.oneof(
      pathOperand(dates),
      fc.constantFrom('today' as const, 'now' as const).map((what) => ({ kind: 'clock' as const, what })),
    ) as fc.Arbitrary<Extract<Operand, { kind: 'clock' }>>,
    count: fc.constantFrom(-400, -30, -1, 1, 2, 1000),
    unit: fc.constantFrom(...intervalUnits),
  });

const anyPattern = fc
  .array(fc.constantFrom('%', '_', 'a', 'S', '\\%', '\\_', '\\\\', 'ß', '😀', ' '), { maxLength: 5 })
  .map((parts): Operand => ({ kind: 'text', text: parts.join('') }));

const anyLeaf = (paths: string[], dates: string[], scope: ConditionScope): fc.Arbitrary<Condition> => {
  const anyOperand = fc.oneof(
    { weight: 5, arbitrary: pathOperand(paths) },
    { weight: 5, arbitrary: anyConstant },
    ...(dates.length ? [{ weight: 1, arbitrary: anyShifted(dates) }] : []),
  );
  return fc
    .oneof(
      {
        weight: 3,
        arbitrary: fc.record({
          kind: fc.constant('compare' as const),
          left: anyOperand,
          comparison: fc.constantFrom<Comparison>('=', '<>', '<', '<=', '>', '>='),
          right: anyOperand,
        }),
      },
      fc.record({
        kind: fc.constant('in' as const),
        left: anyOperand,
        list: fc.array(anyOperand, { minLength: 1, maxLength: 3 }),
      }),
      fc.record({ kind: fc.constant('between' as const), left: anyOperand, low: anyOperand, high: anyOperand }),
      fc.record({ kind: fc.constant('like' as const), left: anyOperand, pattern: anyPattern }),
      fc.record({ kind: fc.constant('null' as const), left: anyOperand }),
      fc.record({
        kind: fc.constant('has' as const),
        value: fc.oneof(
          fc.constantFrom('UV', 'softener').map((text) => ({ kind: 'text' as const, text })),
          fc
            .constantFrom(['other', 'word'], ['organisation'])
            .map((fact) => ({ kind: 'member' as const, fact: [...fact] })),
        ),
        column: pathOperand(['kinds']),
      }),
    )
    .filter((leaf) => checkCondition(leaf, scope).length === 0);
};

/** Groups and negations over leaves, and EXISTS over conditions of the related table. */
function anyCondition(leaf: fc.Arbitrary<Condition>, related: fc.Arbitrary<Condition> | null): fc.Arbitrary<Condition> {
  return fc.letrec<{ condition: Condition }>((tie) => ({
    condition: fc.oneof(
      { maxDepth: 3 },
      { weight: 6, arbitrary: leaf },
      {
        weight: 4,
        arbitrary: fc.record({
          kind: fc.constantFrom('all' as const, 'any' as const),
          parts: fc.array(tie('condition'), { minLength: 2, maxLength: 3 }),
        }),
      },
      { weight: 2, arbitrary: fc.record({ kind: fc.constant('not' as const), part: tie('condition') }) },
      ...(related
        ? [
            {
              weight: 1,
              arbitrary: fc.record({
                kind: fc.constant('exists' as const),
                relation: fc.constant(['child'] as string[]),
                where: fc.option(related),
              }),
            },
          ]
        : []),
    ),
  })).condition;
}

async function memoryOf(known: Catalogue): Promise<MemoryRecords> {
  const rows: Record<string, Row[]> = {};
  for (const each of known.tables) {
    const raw = await source.rows(
      sql`SELECT ${joined(
        each.columns.map((column) => mariadb.read(sql`t0.${name(column.name)}`, column)),
        sql`, `,
      )} FROM ${name(each.name)} t0 ORDER BY t0.id`,
    );
    rows[each.name] = raw.map((values) =>
      Object.fromEntries(each.columns.map((column, i) => [column.name, decode(column, values[i])])),
    );
  }
  return new MemoryRecords(known, rows);
}

/**
 * Runs each condition in memory and in a database over the same rows; the outcomes, unknown included, must be the same.
 */
async function agree(
  known: Catalogue,
  memory: MemoryRecords,
  paths: string[],
  dates: string[],
  dialect: Dialect,
  runs: number,
  ask: (statement: Sql) => Promise<unknown[]>,
): Promise<void> {
  const scope: ConditionScope = {
    catalogue: known,
    table: known.tables.find((each) => each.name === 'thing')!,
    member: true,
  };
  const childScope = { ...scope, table: known.tables.find((each) => each.name === 'child')! };
  const related = anyCondition(anyLeaf(['size', 'word', 'thing.small', 'id'], [], childScope), null);
  let pairs = 0;
  let unknown = 0;
  await fc.assert(
    fc.asyncProperty(anyCondition(anyLeaf(paths, dates, scope), related), async (condition) => {
      const tables = new Tables(known, scope.table);
      const compiled = compileCondition(condition, rawRecord(tables), { scope, context, dialect });
      const answers = await ask(sql`SELECT ${compiled} FROM ${tables.sql()} ORDER BY t0.id`);
      memory.rows.thing!.forEach((values, i) => {
        const outcome = evaluate(condition, scope, memory.record('thing', values), context);
        const answer = answers[i];
        const database = answer === null ? null : Boolean(Number(answer));
        expect([printCondition(condition), i, outcome]).toEqual([printCondition(condition), i, database]);
        pairs++;
        if (outcome === null) unknown++;
      });
    }),
    { numRuns: runs },
  );
  expect(pairs).toBeGreaterThanOrEqual(2000);
  expect(unknown).toBeGreaterThan(100);
}

describe('memory and MariaDB', () => {
  it('agree on at least 2,000 (condition, row) pairs, unknown included', async () => {
    await agree(catalogue, await memoryOf(catalogue), columns, ['day', 'moment'], mariadb, 500, async (statement) =>
      (await source.rows(statement)).map((each) => each[0]),
    );
  });

  it('weigh every character of utf8mb4_general_ci alike', async () => {
    const rows = await connection.query<{ seq: number; weight: string }[]>(
      'SELECT seq, HEX(WEIGHT_STRING(CONVERT(CHAR(seq USING utf32) USING utf8mb4) COLLATE utf8mb4_general_ci)) ' +
        'weight FROM seq_1_to_65535 WHERE seq NOT BETWEEN 55296 AND 57343',
    );
    const wrong = rows.filter(({ seq, weight }) => Number.parseInt(weight, 16) !== (generalWeights.get(seq) ?? seq));
    expect([rows.length, wrong]).toEqual([63487, []]);
  });

  it('sort texts alike', async () => {
    for (const collation of ['utf8mb4_general_ci', 'utf8mb4_bin']) {
      for (const a of texts) {
        for (const b of texts) {
          const [answer] = await connection.query<{ c: number }[]>(
            `SELECT STRCMP(? COLLATE ${collation}, ? COLLATE ${collation}) c`,
            [a, b],
          );
          expect([collation, a, b, Math.sign(compareText(collation, a, b))]).toEqual([
            collation,
            a,
            b,
            Number(answer!.c),
          ]);
        }
      }
    }
  });
});

/** The same rows in PostgreSQL; texts there compare by the order of C. */
async function withPostgres(
  work: (known: Catalogue, memory: MemoryRecords, ask: (statement: Sql) => Promise<unknown[][]>) => Promise<void>,
): Promise<void> {
  const known: Catalogue = {
    ...catalogue,
    database: 'postgresql',
    tables: catalogue.tables.map((each) => ({
      ...each,
      columns: each.columns.map((column) => ({
        ...column,
        nativeType: column.type,
        ...(column.collation ? { collation: 'C' } : {}),
      })),
    })),
  };
  const memory = await memoryOf(catalogue);
  const client = new Client(inject('postgres'));
  await client.connect();
  try {
    await client.query(`CREATE TEMPORARY TABLE other (id INT, word TEXT, far_id INT); CREATE TEMPORARY TABLE child (id
      INT, thing_id INT, size INT, word TEXT);
        CREATE TEMPORARY TABLE thing (id INT, small INT, big BIGINT, exact DECIMAL(30,2), rough DOUBLE PRECISION, single
      DOUBLE PRECISION, yes BOOLEAN, day DATE, moment TIMESTAMP(6), loose TEXT, strict TEXT, state TEXT, other_id INT,
      kinds TEXT[], odd TEXT)`);
    for (const each of known.tables) {
      const names = each.columns.map((column) => column.name);
      for (const values of memory.rows[each.name]!)
        await client.query(
          `INSERT INTO ${each.name} (${names.join(', ')}) VALUES (${names.map((_, i) => `$${i + 1}`).join(', ')})`,
          names.map((column) => values[column]),
        );
    }
    await work(known, memory, async (statement) => {
      const { text, values } = forPostgres(statement);
      return (await client.query<unknown[]>({ text, values: [...values], rowMode: 'array' })).rows;
    });
  } finally {
    await client.end();
  }
}

describe('memory and PostgreSQL', () => {
  it('agree on at least 2,000 (condition, row) pairs, unknown included', async () => {
    await withPostgres((known, memory, ask) =>
      agree(known, memory, columns, ['day', 'moment'], postgresql, 300, async (statement) =>
        (await ask(statement)).map((each) => each[0]),
      ),
    );
  });
});

describe('masks in SQL', () => {
  const key = new TextEncoder().encode('a key of this portal');
  const maskContext: MaskContext = {
    today: '2026-11-23',
    standIn: { key, hmac: (text) => createHmac('sha256', key).update(text, 'utf8').digest('hex') },
  };

  /** Every mask on every column that it takes, in the database and in memory. */
  async function maskAlike(
    known: Catalogue,
    memory: MemoryRecords,
    dialect: Dialect,
    ask: (statement: Sql) => Promise<unknown[][]>,
  ): Promise<void> {
    const texty: Mask[] = [
      { style: 'all' },
      { style: 'keep last', count: 1 },
      { style: 'keep last', count: 3, separators: true },
      { style: 'keep first', count: 2 },
      { style: 'keep both ends', first: 1, last: 2 },
      { style: 'keep both ends', first: 2, last: 2, separators: true },
      { style: 'card', first: 6, last: 4 },
      { style: 'card', first: 0, last: 0 },
      { style: 'e-mail', show: 'domain' },
      { style: 'e-mail', show: 'first letter' },
      { style: 'initials' },
      { style: 'area', count: 3 },
      { style: 'ZIP area' },
      { style: 'stand-in' },
    ];
    const numbers: Mask[] = [
      { style: 'step', size: '250' },
      { style: 'step', size: '0.5' },
      { style: 'step', edges: ['-1', '0.5', '250'] },
      { style: 'round', digits: 0 },
      { style: 'round', digits: 1 },
      { style: 'round', digits: -2 },
    ];
    const cases: [string, Mask[]][] = [
      ['loose', texty],
      ['strict', texty],
      ['odd', texty],
      ['state', [{ style: 'stand-in' }]],
      ['big', [{ style: 'keep last', count: 4 }, { style: 'stand-in' }, ...numbers]],
      ['small', numbers],
      ['exact', [...numbers, { style: 'stand-in' }]],
      ['rough', numbers],
      ['single', numbers],
      ['day', [{ style: 'year' }, { style: 'month' }, { style: 'age' }, { style: 'stand-in' }]],
      ['moment', [{ style: 'year' }, { style: 'month' }, { style: 'stand-in' }]],
    ];
    let compared = 0;
    for (const [columnName, masks] of cases) {
      const column = known.tables
        .find((each) => each.name === 'thing')!
        .columns.find((each) => each.name === columnName)!;
      const raw = dialect.read(sql`t0.${name(columnName)}`, column);
      for (const mask of masks) {
        if (!maskTakes(mask, column)) continue;
        const answers = await ask(
          sql`SELECT ${maskSql(mask, raw, column, { ...maskContext, dialect })} AS c0 FROM thing t0 ORDER BY t0.id`,
        );
        memory.rows.thing!.forEach((row, i) => {
          expect([columnName, mask, row[columnName], answers[i]![0]]).toEqual([
            columnName,
            mask,
            row[columnName],
            applyMask(mask, row[columnName]!, column, maskContext),
          ]);
          compared++;
        });
      }
    }
    expect(compared).toBeGreaterThan(3000);
  }

  it('give the same bytes as in memory, in MariaDB', async () =>
    maskAlike(catalogue, await memoryOf(catalogue), mariadb, (statement) => source.rows(statement)));
  it('give the same bytes as in memory, in PostgreSQL', () =>
    withPostgres((known, memory, ask) => maskAlike(known, memory, postgresql, ask)));
});

describe('statements', () => {
  it('never carry a value or an unquoted name in their text', async () => {
    const odd = await freshSchema(inject('database'), 'masks');
    await odd.query('CREATE TABLE `we``ird "t;able` (id INT PRIMARY KEY, `co``l; DROP TABLE x --` VARCHAR(40))');
    await odd.query('INSERT INTO `we``ird "t;able` VALUES (1, ?), (2, ?)', ["' OR 1=1 --", 'plain']);
    const other = new MariadbSource(inject('database'), 'masks');
    try {
      const known = await other.catalogue();
      const weird = known.tables[0]!;
      const condition: Condition = {
        kind: 'compare',
        left: { kind: 'column', path: [weird.columns[1]!.name] },
        comparison: '=',
        right: { kind: 'text', text: "' OR 1=1 --" },
      };
      const tables = new Tables(known, weird);
      const compiled = compileCondition(condition, rawRecord(tables), {
        scope: { catalogue: known, table: weird, member: true },
        context,
      });
      const statement = sql`SELECT t0.id FROM ${tables.sql()} WHERE ${compiled}`;
      expect(statement.text).toBe('SELECT t0.id FROM `we``ird "t;able` `t0` WHERE (`t0`.`co``l; DROP TABLE x --` = ?)');
      expect(await other.rows(statement)).toEqual([[1]]);
    } finally {
      await other.close();
      await odd.end();
    }
  });
});
