import pg from 'pg';
import { afterEach, beforeEach, expect, inject, it } from 'vitest';
import { raw } from '../../core/sql/sql';
import { PostgresSource } from './postgres';

/** A database that ends connections while they are used: whoever asked is told, and the server goes on. */
const lost: unknown[] = [];
const note = (error: unknown) => void lost.push(error);

beforeEach(() => void process.on('uncaughtException', note));
afterEach(() => void process.off('uncaughtException', note));

it('takes it that connections end in the middle of a question, between two, and while nobody uses them', async () => {
  const admin = new pg.Client(inject('postgres'));
  await admin.connect();
  const address = { ...inject('postgres'), application_name: 'ended' };
  const source = new PostgresSource(address, 'public', 3);
  const endAll = () =>
    admin.query("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name = 'ended'");
  const begun = (what: string) =>
    expect
      .poll(
        async () =>
          (
            await admin.query(
              "SELECT 1 FROM pg_stat_activity WHERE application_name = 'ended' AND query LIKE $1 AND state <> 'idle'",
              [what],
            )
          ).rowCount,
      )
      .toBeGreaterThan(0);
  try {
    const asked = source.transaction((runner) => runner.rows(raw('SELECT pg_sleep(60)')), { keep: false });
    await Promise.all([begun('%pg_sleep%').then(endAll), expect(asked).rejects.toThrow()]);
    let goOn = (): void => undefined;
    const gone = new Promise<void>((resolve) => (goOn = resolve));
    const between = source.transaction(
      async (runner) => {
        await runner.rows(raw('SELECT 17'));
        await gone;
        return runner.rows(raw('SELECT 18'));
      },
      { keep: false },
    );
    await Promise.all([
      begun('%17%')
        .then(endAll)
        .then(() => goOn()),
      expect(between).rejects.toThrow(),
    ]);
    expect(await source.transaction((runner) => runner.rows(raw('SELECT 1')), { keep: false })).toEqual([[1]]);
    await endAll();
    await expect
      .poll(() => source.transaction((runner) => runner.rows(raw('SELECT 1')), { keep: false }).catch(() => null))
      .toEqual([[1]]);
    expect(lost).toEqual([]);
  } finally {
    await source.close();
    await admin.end();
  }
});
