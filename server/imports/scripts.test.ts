import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { Random } from '../../core/proof/random';
import { freshSchema } from '../../test/tables';
import { MariadbSource } from '../sources/mariadb';
import { parseCondition } from '../../core/condition/parse';
import { runScript } from '../shaping/run-script';
import { readScript } from '../formats/sql-script';
import { tries } from '../../test/thorough';

let itself: Connection;
let ours: Connection;
let source: MariadbSource;

beforeAll(async () => {
  itself = await freshSchema(inject('database'), 'scripts_itself');
  ours = await freshSchema(inject('database'), 'scripts_ours');
  source = new MariadbSource(inject('database'), 'scripts_ours');
});

afterAll(async () => {
  await source?.close();
  await itself?.end();
  await ours?.end();
});

/**
 * A script of up to three tables: numbered keys, NULL and DEFAULT in the rows, relations with what happens at their
 * ends, remarks, a next number.
 */
function randomScript(random: Random): string {
  const pick = <T>(list: readonly T[]): T => list[random.int(0, list.length - 1)]!;
  const maybe = (text: string, share = 0.5) => (random.int(1, 100) <= share * 100 ? text : '');
  const tables = ['parents', 'children', 'things'].slice(0, random.int(1, 3));
  const isDump = random.int(0, 3) === 0;
  const kinds = [
    { type: 'VARCHAR(20)', values: ["'x'", "''", "'O''Neil'", "'a\\\\b'", "'line\\n'", "'ä'"], initial: "'new'" },
    { type: 'BIGINT', values: ['0', '-7', '12', "'5'"], initial: '3' },
    { type: 'DECIMAL(8,3)', values: ['1.5', '-0.125', '12'], initial: '2.25' },
    { type: "ENUM('on','off')", values: ["'on'", "'off'"], initial: "'off'" },
    { type: 'DATE', values: ["'2026-02-03'"], initial: "'2025-01-01'" },
    { type: 'TINYINT(1)', values: ['1', '0', 'TRUE'], initial: '1' },
  ];
  const creates: string[] = [];
  const inserts: string[] = [];
  tables.forEach((table, at) => {
    const others = Array.from({ length: random.int(1, 3) }, (_, i) => ({
      name: `c${i}`,
      ...pick(kinds),
      required: random.int(0, 3) === 0,
      hasInitial: random.int(0, 1) === 0,
    }));
    const leads = at > 0 ? [{ name: 'up', to: tables[random.int(0, at - 1)]! }] : [];
    const parts = others.map(
      ({ name, type, required, hasInitial, initial }) =>
        `\`${name}\` ${type}${required ? ' NOT NULL' : maybe(' NULL')}` +
        `${hasInitial ? ` DEFAULT ${initial}` : ''}${maybe(` COMMENT 'of ''${name}'''`, 0.3)}`,
    );
    const up = leads.map(
      ({ name, to }) =>
        `${name} BIGINT NULL, FOREIGN KEY (${name}) REFERENCES ${to} ` +
        `(id)${pick(['', ' ON DELETE CASCADE', ' ON DELETE SET NULL', ' ON DELETE CASCADE ON UPDATE CASCADE'])}`,
    );
    const key = `id BIGINT${isDump ? '(20)' : ''} NOT NULL AUTO_INCREMENT${maybe(" COMMENT 'number'", 0.2)}`;
    parts.splice(random.int(0, parts.length), 0, key);
    const keys = random.int(0, 3) === 0 ? ['KEY some (c0)'] : [];
    creates.push(
      `${maybe('-- made by hand\n', 0.3)}CREATE TABLE \`${table}\` ` +
        `(${[...parts, ...up, 'PRIMARY KEY (`id`)', ...keys].join(', ')}) ` +
        `ENGINE=InnoDB${maybe(` AUTO_INCREMENT=${random.int(2, 40)}`, 0.3)}${maybe(` COMMENT='all ${table}'`, 0.3)};`,
    );
    let explicit = 50;
    for (let statement = random.int(0, 4); statement > 0; statement--) {
      const given = others
        .filter((each) => (each.required && !each.hasInitial) || random.int(0, 3) > 0)
        .map((each) => each.name);
      const named = [...(random.int(0, 1) === 0 ? ['id'] : []), ...given, ...leads.map((lead) => lead.name)].toSorted(
        () => random.int(-1, 1),
      );
      if (named.length === 0) continue;
      const rows = Array.from(
        { length: random.int(1, 4) },
        () =>
          `(${named
            .map((column) => {
              if (column === 'id') return pick(['NULL', '0', 'DEFAULT', String((explicit += random.int(1, 3)))]);
              if (column === 'up') return pick(['NULL', '1', '2', '3', '51', '52']);
              const of = others.find((each) => each.name === column)!;
              return pick([
                ...of.values,
                ...(of.required ? [] : ['NULL']),
                ...(of.hasInitial || !of.required ? ['DEFAULT'] : []),
              ]);
            })
            .join(', ')})`,
      );
      inserts.push(`INSERT INTO ${table} (${named.join(', ')}) VALUES ${rows.join(',\n')};`);
    }
  });
  const lines = isDump
    ? [
        '/*!40101 SET NAMES utf8mb4 */;',
        'SET FOREIGN_KEY_CHECKS = 0;',
        ...creates.toReversed(),
        `LOCK TABLES ${tables.map((table) => `${table} WRITE`).join(', ')};`,
        ...inserts,
        'UNLOCK TABLES;',
        'SET FOREIGN_KEY_CHECKS = 1;',
      ]
    : [...creates, ...inserts];
  return lines.join('\n');
}

/** What a database holds: the tables as it would write them, and the rows by their order of keys. */
async function held(connection: Connection): Promise<Record<string, unknown>> {
  const tables = (
    await connection.query<{ TABLE_NAME: string }[]>(
      'SELECT TABLE_NAME FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE() ORDER BY 1',
    )
  ).map((row) => row.TABLE_NAME);
  const found: Record<string, unknown> = {};
  for (const table of tables) {
    const [made] = await connection.query<{ 'Create Table': string }[]>(`SHOW CREATE TABLE \`${table}\``);
    // What a constraint or an index is called is the database's own affair; the order of its lines too.
    const text = made!['Create Table'].replaceAll(/CONSTRAINT `[^`]+` /g, '').replaceAll(/KEY `[^`]+` \(/g, 'KEY (');
    found[table] = {
      columns: text.split('\n').filter((line) => line.startsWith('  `')),
      rest: text
        .split('\n')
        .filter((line) => !line.startsWith('  `'))
        .map((line) => line.replace(/,$/, ''))
        .toSorted(),
      rows: await connection.query(`SELECT * FROM \`${table}\` ORDER BY id`),
    };
  }
  return found;
}

async function emptied(connection: Connection): Promise<void> {
  await connection.query('SET FOREIGN_KEY_CHECKS = 0');
  for (const row of await connection.query<{ TABLE_NAME: string }[]>(
    'SELECT TABLE_NAME FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE()',
  ))
    await connection.query(`DROP TABLE \`${row.TABLE_NAME}\``);
  await connection.query('SET FOREIGN_KEY_CHECKS = 1');
}

describe('a script', () => {
  it(
    'makes what MariaDB itself makes of it, and is refused where MariaDB refuses it',
    { timeout: 240_000 },
    async () => {
      const random = new Random(27);
      let refused = 0;
      for (let i = 0; i < tries(40, 200); i++) {
        await emptied(itself);
        await emptied(ours);
        const text = randomScript(random);
        // MariaDB runs it by itself, a statement at a time; what it refuses leaves nothing here.
        let problem: string | null = null;
        for (const statement of text.split(/;(?:\n|$)/).filter((each) => each.trim() !== '')) {
          try {
            await itself.query(statement);
          } catch (error) {
            problem = String(error);
            break;
          }
        }
        await itself.query('UNLOCK TABLES');
        await itself.query('SET FOREIGN_KEY_CHECKS = 1');
        const script = readScript(text, 'MariaDB');
        const looked = await runScript(source, await source.catalogue(true), script, false).catch(
          (error: unknown) => error,
        );
        expect(await held(ours), 'a look leaves nothing').toEqual({});
        const done = await runScript(source, await source.catalogue(true), script, true).catch(
          (error: unknown) => error,
        );
        expect(looked instanceof Error, 'what is refused is known at the look').toBe(done instanceof Error);
        // A dump switches MariaDB's own look at parents off for good; here they are looked at when all is there.
        const orphans = problem === null && done instanceof Error && script.parentsLater;
        if (orphans) expect(String(done), text).toContain("isn't there");
        else
          expect([done instanceof Error, text, done instanceof Error ? String(done) : ''], String(problem)).toEqual([
            problem !== null,
            text,
            done instanceof Error ? String(done) : '',
          ]);
        if (done instanceof Error) {
          refused++;
          expect(await held(ours)).toEqual({});
        } else expect(await held(ours), text).toEqual(await held(itself));
      }
      expect(refused).toBeGreaterThan(5);
      expect(refused).toBeLessThan(tries(30, 150));
    },
  );

  it(
    'may be a dump: its own lines are passed over by name, what is not taken is named with its word, and faults ' +
      'are found at the look',
    async () => {
      await emptied(ours);
      const dump = readScript(
        '/*!40101 SET NAMES utf8mb4 */;\n/*!40014 SET @OLD=@@FOREIGN_KEY_CHECKS, FOREIGN_KEY_CHECKS=0 */;\nDROP ' +
          'TABLE IF EXISTS `a`;\nCREATE TABLE a (id INT PRIMARY KEY, b INT, FOREIGN KEY (b) REFERENCES b (id));\n' +
          'CREATE TABLE b (id INT PRIMARY KEY);\nLOCK TABLES a WRITE;\n/*!40000 ALTER TABLE `a` DISABLE KEYS */;\n' +
          'INSERT INTO a VALUES (1, 2);\nUNLOCK TABLES;\nINSERT INTO b VALUES (2);',
        'MariaDB',
      );
      expect(dump.remarks).toEqual([
        "Passed over, as a dump's own lines: SET NAMES, SET, DROP TABLE IF EXISTS, LOCK TABLES, ALTER TABLE … " +
          'KEYS, UNLOCK TABLES.',
      ]);
      expect(await runScript(source, await source.catalogue(true), dump, true)).toEqual({
        tables: ['a', 'b'],
        rows: 2,
      });
      const look = async (text: string) => {
        try {
          await runScript(source, await source.catalogue(true), readScript(text, 'MariaDB'), false);
          return 'taken';
        } catch (error) {
          return (error as Error).message;
        }
      };
      expect(
        await look(
          "CREATE TABLE c (id INT PRIMARY KEY,\n state ENUM('on', 'off'));\nINSERT INTO c VALUES (1, 'on'),\n " +
            "(2, 'broken')",
        ),
      ).toMatch(/^Line 3, rows of c: row 2: state, “broken”: /);
      expect(
        await look(
          'CREATE TABLE c (id INT PRIMARY KEY, a INT REFERENCES a (id));\nINSERT INTO c VALUES (1, 1), (2, ' +
            'NULL), (3, 9)',
        ),
      ).toBe("Line 2, rows of c: row 3 can't be kept: it leads to a record that isn't there.");
      expect(await look('CREATE TABLE c (id INT PRIMARY KEY);\nINSERT INTO c VALUES (1), (1)')).toMatch(
        /^Line 2, rows of c: row 2 can't be kept: a value that must be the only one is there already/,
      );
      expect(await look('CREATE TABLE c (id INT PRIMARY KEY);\nCREATE TRIGGERS nonsense')).toMatch(
        /^Line 2, column \d+: “\w+” is not understood there/,
      );
      expect(
        await look(
          'CREATE TABLE c (id INT PRIMARY KEY);\n/*!50003 CREATE TRIGGER t AFTER INSERT ON c FOR EACH ROW DELETE ' +
            'FROM a */',
        ),
      ).toMatch(/^Line 2: CREATE TRIGGER is not taken/);

      expect(await look('CREATE TABLE c (id INT PRIMARY KEY, n INT, twice INT AS (n * 2))')).toMatch(
        /^Line 1: c.twice is computed by the database/,
      );
      expect(await look('CREATE TABLE mysql.user (id INT PRIMARY KEY)')).toMatch(/^Line 1: mysql.user names a schema/);
      expect(await look('CREATE TABLE c (id INT PRIMARY KEY, m INT REFERENCES stone_porch.members (id))')).toMatch(
        /^Line 1: stone_porch.members names a schema/,
      );
      for (const [text, said] of [
        ["s SET('a', 'b,c')", /c.s has an empty choice, or one with a comma/],
        ["s ENUM('a', 'A')", /c.s has a choice twice/],
      ] as const)
        expect(await look(`CREATE TABLE c (id INT PRIMARY KEY, ${text})`)).toMatch(said);
      for (const next of ['-5', '99999999999999999999'])
        expect(await look(`CREATE TABLE c (id INT PRIMARY KEY) AUTO_INCREMENT=${next}`)).toMatch(
          /^Line 1: c can't go on with the number/,
        );
      expect(await look('CREATE TEMPORARY TABLE c (id INT PRIMARY KEY)')).toMatch(/^Line 1: a temporary table/);
      expect(await look('CREATE TABLE c (id INT PRIMARY KEY);\nINSERT IGNORE INTO c VALUES (1)')).toMatch(
        /^Line 2: INSERT IGNORE/,
      );
      expect(
        readScript(
          'CREATE TABLE c (id INT PRIMARY KEY, u CHAR(36) DEFAULT UUID(), t VARCHAR(90));\nINSERT INTO c VALUES ' +
            "(1, 'x', 'SET FOREIGN_KEY_CHECKS=0')",
          'MariaDB',
        ),
      ).toMatchObject({ parentsLater: false, remarks: ['The initial value of c.u is computed; it is left out.'] });
      // What is taken but for a part of it is listed before anything is made, and what is listed is made.
      const keyed = readScript(
        'CREATE TABLE c (code text PRIMARY KEY, n int CHECK (n > 0), note text, CONSTRAINT few CHECK (n < 9));\n' +
          "INSERT INTO c VALUES ('a', 1, 'x')",
        'PostgreSQL',
      );
      expect(keyed.remarks).toEqual([
        'The check of c.n is left out: nothing here would hold values against it.',
        'A check of c is left out: nothing here would hold values against it.',
        'c.code has an index, so it becomes a text of 255 characters.',
      ]);
      expect((await runScript(source, await source.catalogue(true), keyed, false)).rows).toBe(1);
      expect(await runScript(source, await source.catalogue(true), keyed, true)).toEqual({ tables: ['c'], rows: 1 });
      expect(await ours.query('SELECT * FROM c')).toEqual([{ code: 'a', n: 1, note: 'x' }]);
      await ours.query('DROP TABLE c');
      expect(
        await look('CREATE TABLE d (id INT PRIMARY KEY);\nINSERT INTO d VALUES (1) ON DUPLICATE KEY UPDATE id = 2'),
      ).toMatch(/^Line 2: “ON DUPLICATE KEY UPDATE” is not taken/);
      expect(await look('CREATE TABLE d (id INT PRIMARY KEY);\nINSERT INTO d SELECT 1')).toMatch(
        /^Line 2: INSERT of a “SELECT” is not taken/,
      );
      expect(await held(ours).then((all) => Object.keys(all))).toEqual(['a', 'b']);
    },
  );

  it('keeps every sign of its texts, and tells nothing of what a ceiling closes', async () => {
    await emptied(ours);
    const odd = ['what?', ':name ?', "it''s \\\\ here", "a\\' OR 1=1; DROP TABLE a; --", '%_ ü 🪨', '/*! 1 */'];
    const text =
      `CREATE TABLE odd (id INT PRIMARY KEY, t VARCHAR(90) DEFAULT 'why?' COMMENT 'who? ''me''');\nINSERT INTO ` +
      `odd (id, t) VALUES ${odd.map((each, i) => `(${i}, '${each}')`).join(', ')}, (99, DEFAULT)`;
    await emptied(itself);
    for (const statement of text.split(';\n')) await itself.query(statement);
    await runScript(source, await source.catalogue(true), readScript(text, 'MariaDB'), true);
    expect(await ours.query('SELECT * FROM odd ORDER BY id')).toEqual(
      await itself.query('SELECT * FROM odd ORDER BY id'),
    );
    const plain = await source.catalogue(true);
    const probe = readScript(
      'CREATE TABLE probe (id INT PRIMARY KEY, o INT REFERENCES odd (id));\nINSERT INTO probe VALUES (1, 3)',
      'MariaDB',
    );
    for (const ceiling of [{ where: parseCondition('id < 2').condition }, { columns: { id: 'nothing' as const } }]) {
      await expect(
        runScript(source, { ...plain, tables: plain.tables.map((table) => ({ ...table, ceiling })) }, probe, false),
      ).rejects.toMatchObject({ fields: { o: "odd is under a ceiling, so a script can't lead to it." } });
    }
    expect((await runScript(source, plain, probe, false)).rows).toBe(1);
  });
});
