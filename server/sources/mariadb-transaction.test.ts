import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { raw, sql } from '../../core/sql/sql';
import { freshSchema } from '../../test/tables';
import { MariadbSource } from './mariadb';
import { OutcomeUnknown } from './outcome-unknown';
import { DatabaseRefusal } from './refusal';
import type { Transaction } from './source';

const schema = 'transactions';
let plain: Connection;
let source: MariadbSource;

beforeAll(async () => {
  plain = await freshSchema(inject('database'), schema);
  await plain.query('CREATE TABLE t (n INT PRIMARY KEY)');
  source = new MariadbSource(inject('database'), schema);
});
afterAll(async () => {
  await source?.close();
  await plain?.end();
});

const kept = async () => (await plain.query<{ n: number }[]>('SELECT n FROM t ORDER BY n')).map(({ n }) => n);
const put = (n: number) => sql`INSERT INTO t VALUES (${raw(String(n))}) RETURNING n`;

describe('a transaction', () => {
  const tried: [what: string, kept: number[], work: (runner: Transaction) => Promise<unknown>, keep?: boolean][] = [
    ['the last statement alone', [1], (runner) => runner.last!(put(1))],
    ['one that comes last', [1, 2], (runner) => runner.rows(put(1)).then(() => runner.last!(put(2)))],
    ['one alone that is only tried', [], (runner) => runner.last!(put(1)), false],
    ['several that are only tried', [], (runner) => runner.write(put(1)).then(() => runner.last!(put(2))), false],
    ['none', [], () => Promise.resolve()],
  ];
  for (const [what, wanted, work, keep = true] of tried)
    it(`keeps what it did: ${what}`, async () => {
      await plain.query('DELETE FROM t');
      await source.transaction(work, { keep });
      expect(await kept()).toEqual(wanted);
    });

  it('takes all back where something fails, and says that it can’t where one was kept alone', async () => {
    await plain.query('DELETE FROM t');
    await source.transaction((runner) => runner.last!(put(7)));
    const fail = () => Promise.reject(new Error('broken'));
    await expect(
      source.transaction(async (runner) => {
        await runner.rows(put(1));
        await runner.last!(put(2));
        await fail();
      }),
    ).rejects.toThrow('broken');
    // What the database refuses leaves nothing, and another statement may come.
    await expect(source.transaction((runner) => runner.last!(put(7)))).rejects.toThrow(DatabaseRefusal);
    await source.transaction((runner) => runner.last!(put(7)).catch(() => runner.rows(put(8))));
    expect(await kept()).toEqual([7, 8]);
    await expect(source.transaction((runner) => runner.last!(put(3)).then(fail))).rejects.toThrow(OutcomeUnknown);
    const after = (runner: Transaction) => runner.last!(put(4)).then(() => runner.rows(put(5)));
    await expect(source.transaction(after)).rejects.toThrow(OutcomeUnknown);
    expect(await kept()).toEqual([3, 4, 7, 8]);
  });

  it('says that it is not known whether one alone was kept whose connection was cut', async () => {
    await plain.query('DELETE FROM t');
    await plain.query('LOCK TABLES t WRITE');
    const cut = expect(source.transaction((runner) => runner.last!(put(1)))).rejects.toThrow(OutcomeUnknown);
    const waiting = "state LIKE 'Waiting for table%' AND info LIKE 'INSERT INTO t %'";
    for (let ids: { id: bigint }[] = []; ids.length === 0;) {
      ids = await plain.query(`SELECT id FROM information_schema.processlist WHERE ${waiting} AND db = '${schema}'`);
      for (const { id } of ids) await plain.query(`KILL CONNECTION ${id}`);
    }
    await cut;
    await plain.query('UNLOCK TABLES');
  });
});
