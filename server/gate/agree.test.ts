import { createHmac } from 'node:crypto';
import fc from 'fast-check';
import { Client } from 'pg';
import { MemoryRecords } from '../../test/memory-records';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { freshSchema } from '../../test/tables';
import type { ConditionScope } from '../../core/condition/scope';
import { compareText } from '../../core/condition/collation';
import { compileCondition } from '../../core/condition/compile';
import type { Dialect } from '../../core/dialect/dialect';
import { mariadb } from '../../core/dialect/mariadb';
import { postgresql } from '../../core/dialect/postgresql';
import { evaluate } from '../../core/condition/evaluate';
import { generalWeights } from '../../core/condition/general-weights';
import { checkCondition } from '../../core/condition/check';
import { parseCondition } from '../../core/condition/parse';
import { notTrue } from '../../core/condition/not-true';
import { printCondition } from '../../core/condition/print';
import { forPostgres, joined, name, sql, type Sql } from '../../core/sql/sql';
import type { Condition } from '../../core/condition/tree';
import { applyMask, maskSql, maskTakes, type Mask, type MaskContext } from '../../core/mask/mask';
import type { Catalogue } from '../../core/table/catalogue';
import type { Row } from '../../core/table/value';
import { MariadbSource } from '../sources/mariadb';
import { decode } from './view/decode';
import { rawRecord, Tables } from './view/tables';
import { texts, row, children, others, context, columns, anyLeaf, anyCondition } from './any-row.fixture';

/** The judges are the databases: whatever memory decides of a row, they must decide too. */
let connection: Connection;

let source: MariadbSource;

let catalogue: Catalogue;

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

/** What is not true of a row, as MariaDB's IS NOT TRUE has it (ISO/IEC 9075-2, boolean test), and never unknown. */
async function agreeNotTrue(known: Catalogue, paths: string[], dates: string[]): Promise<void> {
  const table = known.tables.find((each) => each.name === 'thing')!;
  const scope: ConditionScope = { catalogue: known, table, member: true };
  let both = 0;
  await fc.assert(
    fc.asyncProperty(anyCondition(anyLeaf(paths, dates, scope), null), async (condition) => {
      // One that the check refuses gives nothing: a lens asks it before anything is made of it.
      fc.pre(checkCondition(notTrue(condition), scope).length === 0);
      const tables = new Tables(known, table);
      const compiled = (of: Condition) => compileCondition(of, rawRecord(tables), { scope, context, dialect: mariadb });
      const rows = await source.rows(
        sql`SELECT (${compiled(condition)}) IS NOT TRUE, (${compiled(notTrue(condition))}) FROM ${tables.sql()}`,
      );
      for (const [theirs, ours] of rows) {
        expect([printCondition(condition), Number(ours)]).toEqual([printCondition(condition), Number(theirs)]);
        both++;
      }
    }),
    {
      numRuns: 150,
      // An approximate column beside an exact number: together they would lose the digit that tells.
      examples: [[parseCondition('big IN (9007199254740993, rough)').condition]],
    },
  );
  expect(both).toBeGreaterThan(2000);
}

describe('memory and MariaDB', () => {
  it('agree on at least 2,000 (condition, row) pairs, unknown included', async () => {
    await agree(catalogue, await memoryOf(catalogue), columns, ['day', 'moment'], mariadb, 500, async (statement) =>
      (await source.rows(statement)).map((each) => each[0]),
    );
  });

  it('take for not true what IS NOT TRUE takes for it', async () => {
    await agreeNotTrue(catalogue, columns, ['day', 'moment']);
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
      { style: 'keep last', count: 2, separators: true, sign: '*' },
      { style: 'all', sign: '#' },
      { style: 'card', first: 4, last: 4, sign: 'x' },
      { style: 'e-mail', show: 'domain', sign: '█' },
      { style: 'area', count: 2, sign: 'x' },
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
