import { createConnection } from 'mariadb';
import { expect, inject, it } from 'vitest';
import { raw } from '../../core/sql/sql';
import { MariadbSource } from '../sources/mariadb';
import { Sources } from './definitions';

/** Of how many schemas a server keeps what it knows, and connections that wait. */
it('keeps what was used last: what it knew of the others goes, and their connections before', async () => {
  const sources = new Sources(inject('database'), { ownSchema: 'kept_own', connections: 2 });
  const plain = await createConnection(inject('database'));
  const waiting = async () =>
    (await plain.query<[{ n: bigint }]>("SELECT COUNT(*) n FROM information_schema.PROCESSLIST WHERE DB = 'kept'"))[0]
      .n;
  try {
    const used = sources.get('kept');
    await used.rows(raw('SELECT 1'));
    const visit = (from: number, to: number) => {
      for (let n = from; n < to; n++) sources.get(`elsewhere_${n}`);
    };
    visit(0, 29);
    await used.rows(raw('SELECT 1'));
    expect(await waiting()).toBe(1n);
    visit(29, 30);
    await expect.poll(waiting).toBe(0n);
    // It is known still, and whoever has it goes on with it.
    expect(sources.get('kept')).toBe(used);
    await used.rows(raw('SELECT 1'));
    visit(30, 129);
    expect(sources.get('kept')).toBe(used);
    visit(129, 230);
    expect(sources.get('kept')).not.toBe(used);
    expect(await used.rows(raw('SELECT 1'))).toEqual([[1]]);
  } finally {
    await sources.close();
    await plain.end();
  }
});

it('ends connections that wait, and none that anybody has', async () => {
  const source = new MariadbSource(inject('database'), 'kept', 8);
  try {
    const all = <T>(work: () => Promise<T>) => Promise.all(Array.from({ length: 8 }, work));
    for (let turn = 0; turn < 10; turn++) {
      // Eight that wait.
      await all(() => source.rows(raw('SELECT SLEEP(0.02)')));
      source.endIdle();
      await all(() =>
        source.transaction(async (runner) => {
          const first = await runner.rows(raw('SELECT CONNECTION_ID(), SLEEP(0.02)'));
          expect(await runner.rows(raw('SELECT CONNECTION_ID(), SLEEP(0)'))).toEqual(first);
        }),
      );
    }
  } finally {
    await source.close();
  }
});
