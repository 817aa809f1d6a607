import { afterAll, beforeAll, describe, expect, inject, it, vi } from 'vitest';
import type { Connection } from 'mariadb';
import { parseCondition } from '../../core/condition/parse';
import type { PortalDefinition, TableNotes } from '../../core/definition/definition';
import type { Catalogue } from '../../core/table/catalogue';
import { freshSchema } from '../../test/tables';
import { person, wellsDefinition } from '../../test/wells';
import { MariadbSource } from '../sources/mariadb';
import { correct, createCorrectable } from './write/correct';
import type { Visit } from './view/visit';

/**
 * A record that is made by one statement alone: it stands as plain SQL reads it, and whatever has to be looked at or
 * done beside it begins a transaction.
 */
const schema = 'one_statement';
let plain: Connection;
let source: MariadbSource;
let catalogue: Catalogue;

const kinds: [column: string, type: string, value: unknown][] = [
  ['tiny', 'TINYINT UNSIGNED', 255],
  ['huge', 'BIGINT UNSIGNED', '18446744073709551615'],
  ['exact', 'DECIMAL(30,10)', '12345678901234567890.0123456789'],
  ['rounded', 'DECIMAL(9,2)', '1.5'],
  ['rough', 'DOUBLE', 0.1],
  ['single', 'FLOAT', 0.1],
  ['day', 'DATE', '2026-11-23'],
  ['moment', 'DATETIME(3)', '2026-11-23 10:00:00.250'],
  ['whole', 'DATETIME', '2026-11-23 10:00:00'],
  ['clock', 'TIME', '09:30'],
  ['season', 'YEAR', '2026'],
  ['several', "SET('a', 'it''s', 'c')", ['c', 'a']],
  ['choice', "ENUM('x', 'y')", 'y'],
  ['yes', 'BOOLEAN', true],
  ['padded', 'CHAR(6)', 'ab'],
  ['western', 'VARCHAR(9) CHARACTER SET latin1', 'é'],
  ['text', 'TEXT', 'a\nb'],
  ['document', 'JSON', '{"a": [1, 2]}'],
  ['nothing', 'VARCHAR(9)', null],
];
const fills = kinds.map(([column]) => column);

beforeAll(async () => {
  plain = await freshSchema(inject('database'), schema);
  for (const statement of [
    `CREATE TABLE kinds (id INT AUTO_INCREMENT PRIMARY KEY, ${kinds.map(([c, type]) => `${c} ${type}`).join(', ')},
      stored INT AS (tiny + 1) STORED, reckoned INT AS (tiny * 2) VIRTUAL, triggered VARCHAR(20),
      stands VARCHAR(9) NOT NULL DEFAULT 'as it is', stamped TIMESTAMP DEFAULT CURRENT_TIMESTAMP)`,
    "CREATE TRIGGER puts_in BEFORE INSERT ON kinds FOR EACH ROW SET NEW.triggered = CONCAT(NEW.padded, '!')",
    'CREATE TABLE log (n INT)',
    'CREATE TRIGGER notes AFTER INSERT ON kinds FOR EACH ROW INSERT INTO log VALUES (NEW.id)',
  ])
    await plain.query(statement);
  source = new MariadbSource(inject('database'), schema);
  catalogue = await source.catalogue();
});
afterAll(async () => {
  await source?.close();
  await plain?.end();
});

const visit = (grant: object = {}, notes: TableNotes = {}, changed: Partial<PortalDefinition> = {}): Visit => ({
  definition: {
    ...wellsDefinition({ kinds: { desk: { create: { columns: fills, keepIn: 'every row' }, ...grant } } }),
    source: { kind: 'mariadb', schema },
    tables: { kinds: notes },
    ...changed,
  },
  catalogue,
  person: person(['desk']),
  moment: new Date(),
});

interface Pool {
  getConnection(how: object): Promise<Connection>;
  releaseConnection(connection: Connection): void;
}

/** Makes a record and says what was sent to the database for it. */
async function made(who: Visit, values: Record<string, unknown>) {
  const log: string[] = [];
  const { connectionManager: pool } = (source as unknown as { sequelize: { connectionManager: Pool } }).sequelize;
  const own = new Map<Connection, Connection>();
  const [take, release] = [pool.getConnection.bind(pool), pool.releaseConnection.bind(pool)];
  vi.spyOn(pool, 'getConnection').mockImplementation(async (how) => {
    const connection = await take(how);
    const watched = new Proxy(connection, {
      get: (of, name) => {
        const value = Reflect.get(of, name) as unknown;
        if (typeof value !== 'function') return value;
        return (...given: unknown[]) => {
          log.push(/^[A-Z]+/.exec(String(given[0]))?.[0] ?? String(name));
          return (value as (...all: unknown[]) => unknown).apply(of, given);
        };
      },
    });
    own.set(watched, connection);
    return watched;
  });
  vi.spyOn(pool, 'releaseConnection').mockImplementation((connection) => release(own.get(connection) ?? connection));
  try {
    return { ...(await createCorrectable(source, who, 'kinds', values)), log };
  } finally {
    vi.restoreAllMocks();
  }
}

describe('a record that its maker does not see', () => {
  const all = Object.fromEntries(kinds.map(([column, , value]) => [column, value]));

  it('is made by one statement, and stands as the database reads it, whatever is in it', async () => {
    const { correctable, log, made: told } = await made(visit(), all);
    expect([log, told]).toEqual([['INSERT'], { id: null, record: null }]);
    // It is corrected only where what is read now is what was noted then.
    expect(await correct(source, visit(), 'kinds', correctable!, {})).toEqual(correctable);
    const [row] = await plain.query<{ triggered: string; reckoned: number }[]>(
      `SELECT triggered, reckoned FROM kinds WHERE id = ${correctable!.id}`,
    );
    expect(row).toEqual({ triggered: 'ab!', reckoned: 510 });
    await plain.query(`UPDATE kinds SET stands = 'another' WHERE id = ${correctable!.id}`);
    await expect(correct(source, visit(), 'kinds', correctable!, {})).rejects.toThrow('taken up by now');
  });

  it('is made in a transaction where anything is looked at or done beside it', async () => {
    const { condition } = parseCondition('tiny > 3');
    const around = (...between: string[]) => ['beginTransaction', 'INSERT', ...between, 'commit'];
    const keepIn = visit({ create: { columns: fills, keepIn: condition! } });
    expect((await made(keepIn, { tiny: 4 })).log).toEqual(around('SELECT', 'SELECT'));
    await expect(made(keepIn, { tiny: 3 })).rejects.toThrow('not be yours to make');
    const rule = visit({}, { rules: [{ id: 'r1', does: 'required', columns: ['text'] }] });
    expect((await made(rule, { text: 'a' })).log).toEqual(around('SELECT', 'SELECT'));
    await expect(made(rule, { tiny: 5 })).rejects.toMatchObject({ fields: { text: expect.any(String) } });
    const seen = visit({ see: { where: 'every row', columns: ['tiny'] } });
    expect((await made(seen, { tiny: 6 })).log).toEqual(around('SELECT', 'SELECT'));
    const [{ n }] = await plain.query<[{ n: bigint }]>('SELECT COUNT(*) n FROM kinds WHERE tiny IN (3, 5)');
    expect(Number(n)).toBe(0);
  });
});
