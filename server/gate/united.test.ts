import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { Random } from '../../test/judge/random';
import { freshSchema } from '../../test/tables';
import type { Person } from '../../core/access/person';
import { parseCondition } from '../../core/condition/parse';
import { emptyDefinition, type PortalDefinition } from '../../core/definition/definition';
import type { Catalogue } from '../../core/table/catalogue';
import { MariadbSource } from '../sources/mariadb';
import type { Sql } from '../../core/sql/sql';
import type { Runner } from '../sources/source';
import { list, page, type ListAnswer, type ListQuestion } from './read/list';
import type { Visit } from './view/visit';
import { tries } from '../../test/thorough';

/**
 * The united form of an OR must give the same rows in the same order as the plain one, on every page in both
 * directions.
 */
let plain: Connection;
let source: MariadbSource;
let catalogue: Catalogue;
const when = (text: string) => parseCondition(text).condition;

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'union');
  await plain.query('CREATE TABLE areas (id INT PRIMARY KEY, word VARCHAR(20))');
  await plain.query("INSERT INTO areas SELECT seq, ELT(seq, 'fen', 'marsh', 'hill') FROM seq_1_to_3");
  await plain.query(
    'CREATE TABLE jobs (a INT, b INT, maker INT NULL, doer INT NULL, due DATE NULL, area_id INT NULL, size INT ' +
      'NULL, PRIMARY KEY (a, b), KEY (maker), KEY (doer), FOREIGN KEY (area_id) REFERENCES areas (id))',
  );
  await plain.query(
    'INSERT INTO jobs SELECT seq DIV 50, seq, NULLIF(seq * 31 % 400, 0), NULLIF(seq * 17 % 500, 0), IF(seq % 7 ' +
      "= 0, NULL, DATE_ADD('2026-01-01', INTERVAL seq * 13 % 90 DAY)), NULLIF(seq % 4, 0), seq % 11 FROM " +
      'seq_1_to_20000',
  );
  await plain.query('ANALYZE TABLE jobs PERSISTENT FOR ALL');
  source = new MariadbSource(inject('database'), 'union');
  catalogue = await source.catalogue();
});

afterAll(async () => {
  await source?.close();
  await plain?.end();
});

const definition = (where: string): PortalDefinition => ({
  ...emptyDefinition({ slug: 'union', name: 'Union', timeZone: 'UTC', colour: '#1f5f85' }, 'union'),
  roles: [
    { id: 'one', name: 'One' },
    { id: 'two', name: 'Two' },
  ],
  access: {
    jobs: {
      one: { see: { where: when(where), columns: ['a', 'b', 'maker', 'doer', 'due', 'area_id'] } },
      two: { see: { where: when('size = 3 AND maker > 390'), columns: ['b', 'size'] } },
    },
    areas: { one: { see: { where: when("word <> 'hill'"), columns: ['word'] } } },
  },
});

const as = (roles: string[], where: string, id: number): Visit => ({
  definition: definition(where),
  catalogue,
  person: { kind: 'member', id, email: null, organisation: null, roles, rows: {} } satisfies Person,
  moment: new Date('2026-02-01T00:00:00Z'),
});

describe('an OR in the policy or in a filter', () => {
  it('gives the same pages united as plainly', async () => {
    const random = new Random(7);
    let united = 0;
    // Measured so that the one form always, or never, reads less.
    const runner = (prefersUnited: boolean): Runner => ({
      rows: (statement) => source.rows(statement),
      write: (statement) => source.write(statement),
      measure: async (statement: Sql) => {
        const isUnited = statement.text.includes(' UNION ');
        if (isUnited && prefersUnited) united++;
        return { rows: await source.rows(statement), reads: isUnited === prefersUnited ? 1 : 2 };
      },
    });
    const only: Runner = { rows: (statement) => source.rows(statement), write: (statement) => source.write(statement) };
    for (let i = 0; i < tries(16, 40); i++) {
      const policy = random.pick([
        'maker = :member.id OR doer = :member.id',
        "maker = 3 OR doer IN (3, 4) OR area.word = 'fen' AND size = 2",
        'size < 9',
        "due > '2026-03-01' AND (maker < 20 OR doer < 20)",
      ]);
      const visit = as(random.chance(0.4) ? ['one', 'two'] : ['one'], policy, 1 + random.below(380));
      const where = random.chance(0.5)
        ? []
        : [
            when(
              random.pick(['maker = 5 OR doer = 6', "due IS NULL OR maker > 200 OR area.word = 'marsh'", 'doer > 100']),
            ),
          ];
      const sort = random.pick([
        [],
        [{ path: ['due'], descending: true }],
        [
          { path: ['area', 'word'], descending: false },
          { path: ['maker'], descending: true },
        ],
      ]);
      const question: ListQuestion = {
        columns: [['a'], ['b'], ['due'], ['size'], ['area', 'word']],
        sort,
        where,
        search: '',
        after: null,
        before: null,
        size: 9,
      };
      let [after, before]: [string | null, string | null] = [null, null];
      for (let turn = 0; turn < 5; turn++) {
        const asked: ListQuestion = { ...question, after, before };
        const [one, other]: ListAnswer[] = [
          await list(only, visit, 'jobs', asked),
          await list(runner(true), visit, 'jobs', asked),
        ];
        expect([policy, where, sort, other]).toEqual([policy, where, sort, one]);
        [after, before] = turn === 3 ? [null, one!.previous] : [one!.next, null];
        if (after === null && before === null) break;
      }
    }
    expect(united).toBeGreaterThan(10);
  });

  it('is united where that reads less on the data at hand, and asked plainly where not', async () => {
    const statements: string[] = [];
    const spy: Runner = {
      rows: (statement) => {
        statements.push(statement.text);
        return source.rows(statement);
      },
      write: (statement) => source.write(statement),
      measure: (statement) => source.measure(statement),
    };
    const question: ListQuestion = {
      columns: [['a'], ['maker']],
      sort: [],
      where: [],
      search: '',
      after: null,
      before: null,
      size: 5,
    };
    const pageOf = async (policy: string) => {
      // Measured for one person, then used for another under the same definition.
      const visit = as(['one'], policy, 9);
      await page(spy, visit, 'jobs', question);
      statements.length = 0;
      await page(spy, { ...visit, person: { ...visit.person, id: 10 } }, 'jobs', question);
      return statements[0]!.includes(' UNION ');
    };
    // Few rows by two indexes against walking the key; and nearly every row, where the key's first rows will do.
    expect(await pageOf('maker = :member.id OR doer = :member.id')).toBe(true);
    expect(await pageOf('maker > :member.id OR doer > :member.id')).toBe(false);
  });
});
