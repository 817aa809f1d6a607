import type { Connection } from 'mariadb';
import { afterAll, beforeAll, beforeEach, expect, inject, it } from 'vitest';
import { freshSchema } from '../../test/tables';
import { openStore, type Store } from './store';
import { ShapeLease } from './shape-lease';

/** Who may change the shape of tables, among servers that may be stopped at any moment. */
const times = { holds: 2000, renewedEvery: 50, grace: 1000 };
let store: Store;
let plain: Connection;

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'leases');
  store = await openStore(inject('database'), 'leases');
});
afterAll(async () => {
  await store?.close();
  await plain?.end();
});
beforeEach(() => plain.query('DELETE FROM shape_leases'));

const take = (patience: number, schema = 'records') => ShapeLease.take(store.sequelize, schema, patience, times);
const lastYear = "held_until = '2025-01-01 00:00:00.000'";

it('is one server’s at a time, of each schema, until it is given back', async () => {
  const all = await Promise.all(Array.from({ length: 8 }, () => take(0)));
  const [one, ...others] = all.filter((lease) => lease !== null);
  expect(others).toEqual([]);
  const elsewhere = await take(0, 'others');
  expect(elsewhere).not.toBeNull();
  const waiting = take(60_000);
  await one!.check();
  await one!.giveBack();
  const next = await waiting;
  await next!.check();
  await expect(one!.check()).rejects.toThrow('another server went on');
  // Who has it no more takes nobody else's away.
  await one!.giveBack();
  await next!.check();
  await Promise.all([next!.giveBack(), elsewhere!.giveBack()]);
});

it('stays with whoever says so, however late it is by the clock', async () => {
  const lease = await take(0);
  await plain.query(`UPDATE shape_leases SET ${lastYear}`);
  expect(await take(times.grace + 500)).toBeNull();
  await lease!.check();
  await lease!.giveBack();
});

it('goes to another once its holder is gone, who then changes nothing any more', async () => {
  const lease = await take(0);
  // It is stopped, and says nothing.
  await plain.query(`UPDATE shape_leases SET holder = 'stopped', ${lastYear}`);
  const [next, later] = await Promise.all([take(60_000), take(0)]);
  expect([next === null, later]).toEqual([false, null]);
  await expect(lease!.check()).rejects.toThrow('another server went on');
  // In a transaction it can't be taken before that ends.
  await store.sequelize.transaction(async (transaction) => {
    await next!.check(transaction);
    await plain.query('SET innodb_lock_wait_timeout = 1');
    await expect(plain.query(`UPDATE shape_leases SET ${lastYear}`)).rejects.toThrow('Lock wait timeout');
  });
  await Promise.all([next!.giveBack(), lease!.giveBack()]);
});
