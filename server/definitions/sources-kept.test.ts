import { createConnection } from 'mariadb';
import { expect, inject, it } from 'vitest';
import { raw } from '../../core/sql/sql';
import { Sources } from './definitions';

/** Of how many schemas a server keeps what it knows, and connections that wait. */
it('keeps what was used last: what it knew of the others goes, and their connections before', async () => {
  const sources = new Sources(inject('database'), { ownSchema: 'kept_own', connections: 2 });
  const plain = await createConnection(inject('database'));
  const waiting = async () =>
    (
      await plain.query<[{ n: bigint }]>("SELECT COUNT(*) n FROM information_schema.PROCESSLIST WHERE DB = 'imports'")
    )[0].n;
  try {
    const used = sources.get('imports');
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
    expect(sources.get('imports')).toBe(used);
    await used.rows(raw('SELECT 1'));
    visit(30, 129);
    expect(sources.get('imports')).toBe(used);
    visit(129, 230);
    expect(sources.get('imports')).not.toBe(used);
    expect(await used.rows(raw('SELECT 1'))).toEqual([[1]]);
  } finally {
    await sources.close();
    await plain.end();
  }
});
