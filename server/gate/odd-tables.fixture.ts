import { afterAll, beforeAll, inject } from 'vitest';
import type { Connection } from 'mariadb';
import { freshSchema, schemaOfWorker } from '../../test/tables';
import { person, wellsDefinition } from '../../test/wells';
import type { Grant, PortalDefinition } from '../../core/definition/definition';
import type { Catalogue } from '../../core/table/catalogue';
import { MariadbSource } from '../sources/mariadb';
import type { ListQuestion } from './read/list';
import type { Visit } from './view/visit';

/**
 * Tables as they are found in the world: keys of text or of two columns, views, relations to themselves, every type.
 */
const schema = schemaOfWorker('odd');

export let plain: Connection;

export let source: MariadbSource;

export let catalogue: Catalogue;

export const everything: ListQuestion = {
  columns: [],
  sort: [],
  where: [],
  search: '',
  after: null,
  before: null,
  size: 3,
};

export const grant = (columns: string[]): Grant => ({
  see: { where: 'every row', columns },
  edit: { where: 'as seen', columns },
});

export const definition = (): PortalDefinition => ({
  ...wellsDefinition({
    pair: { desk: grant(['a', 'b', 'note']) },
    named: { desk: grant(['code', 'parent', 'note']) },
    seen: { desk: grant(['code']) },
    kinds: {
      desk: grant(['tiny', 'huge', 'exact', 'rough', 'single', 'moment', 'clock', 'several', 'yes', 'raw', 'made']),
    },
  }),
  source: { kind: 'mariadb', schema },
});

export const visit = (who = person(['desk'])): Visit => ({
  definition: definition(),
  catalogue,
  person: who,
  moment: new Date(),
});

/** To be called once in each file that uses these: several files may share one process. */
export function withOddTables(): void {
  beforeAll(async () => {
    plain = await freshSchema(inject('database'), schema);
    for (const statement of [
      'CREATE TABLE pair (a VARCHAR(20), b INT, note TEXT, PRIMARY KEY (a, b))',
      'CREATE TABLE named (code VARCHAR(20) PRIMARY KEY, parent VARCHAR(20), note VARCHAR(20) UNIQUE, FOREIGN ' +
        'KEY (parent) REFERENCES named (code))',
      'CREATE TABLE odd_names (id INT PRIMARY KEY, `first name` VARCHAR(20), `and` INT, `a.b` VARCHAR(9), state ' +
        "ENUM('back\\\\slash', 'it''s', 'plain'), tags SET('x\\\\y', 'z'))",
      'CREATE VIEW seen AS SELECT code, note FROM named',
      `CREATE TABLE kinds (id INT PRIMARY KEY, tiny TINYINT UNSIGNED, huge BIGINT UNSIGNED, exact DECIMAL(30,10), rough
        DOUBLE, single FLOAT, moment DATETIME(3), clock TIME, several SET('a','it''s','c'), yes BOOLEAN, raw BLOB,
        made INT GENERATED ALWAYS AS (tiny + 1) STORED, stamped TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP ON UPDATE
        CURRENT_TIMESTAMP)`,
    ])
      await plain.query(statement);
    await plain.batch('INSERT INTO pair VALUES (?, ?, ?)', [
      ['x', 1, 'one'],
      ['x', 2, null],
      ['a,b', 3, 'comma'],
      ['50%/ü', 4, 'odd'],
      ['', 5, 'empty'],
      ['y', -6, 'below'],
    ]);
    await plain.batch('INSERT INTO named VALUES (?, ?, ?)', [
      ['root', null, 'top'],
      ['leaf', 'root', 'low'],
      ['other', 'root', null],
    ]);
    await plain.query(
      'INSERT INTO kinds (id, tiny, huge, exact, rough, single, moment, clock, several, yes, raw) VALUES (1, ' +
        "255, 18446744073709551615, '12345678901234567890.0123456789', 0.1, 0.1, '2026-11-23 10:00:00.250', " +
        "'09:30:00', 'a,it''s', 2, 'bytes')",
    );
    source = new MariadbSource(inject('database'), schema);
    catalogue = await source.catalogue();
  });

  afterAll(async () => {
    await source?.close();
    await plain?.end();
  });
}
