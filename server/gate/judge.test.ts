import { Client } from 'pg';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { Judge, type Difference } from '../../test/judge/judge';
import { freshSchema } from '../../test/tables';
import { MariadbSource } from '../sources/mariadb';

/** PostgreSQL's row security (CREATE POLICY, PostgreSQL 15) judges the gate over MariaDB. A seed that failed is played again with `npm run judge -- --seed <n> --cases 1`. */
let connection: Connection;
let source: MariadbSource;
let postgres: Client;

beforeAll(async () => {
  connection = await freshSchema(inject('database'), 'judge');
  source = new MariadbSource(inject('database'), 'judge');
  postgres = new Client(inject('postgres'));
  await postgres.connect();
  await postgres.query('DROP DATABASE IF EXISTS judge');
});
afterAll(async () => {
  await postgres?.end();
  await source?.close();
  await connection?.end();
});

describe('PostgreSQL\'s row security', () => {
  it('sees, changes and refuses the same records in at least 3,000 cases', { timeout: 300_000 }, async () => {
    const judge = new Judge(source, connection, postgres);
    await judge.prepare();
    const differences: Difference[] = [];
    const first = 20261123;
    for (let seed = first; judge.cases < 3000; seed++) differences.push(...(await judge.play(seed)));
    console.log(`judge: seeds from ${first}, ${judge.cases} cases, ${judge.cells} cells, outcomes ${JSON.stringify(judge.outcomes)}`);
    expect(differences.slice(0, 3)).toEqual([]);
    // A judge that never lets anything through, or never refuses, would prove nothing.
    for (const outcome of ['done', 'untouched', 'refused', 'held', 'no such record']) expect([outcome, (judge.outcomes[outcome] ?? 0) > 100]).toEqual([outcome, true]);
    expect(judge.cells).toBeGreaterThan(5000);
  });
});
