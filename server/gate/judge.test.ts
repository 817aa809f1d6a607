import { Client } from 'pg';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { Judge, makeRoles, type Difference } from '../../test/judge/judge';
import { loadIntoMariadb, loadIntoPostgres } from '../../test/judge/load';
import { freshSchema } from '../../test/tables';
import { MariadbSource } from '../sources/mariadb';
import { PostgresSource } from '../sources/postgres';
import { tries } from '../../test/thorough';

/**
 * PostgreSQL's row security (CREATE POLICY, PostgreSQL 15) judges the gate over MariaDB and over PostgreSQL. A seed
 * that failed is played again with `npm run judge -- --seed <n> --cases 1`.
 */
let connection: Connection;
let mariadb: MariadbSource;
let postgres: PostgresSource;
let ours: Client;
let judging: Client;

beforeAll(async () => {
  connection = await freshSchema(inject('database'), 'judge');
  mariadb = new MariadbSource(inject('database'), 'judge');
  judging = new Client(inject('postgres'));
  await judging.connect();
  for (const database of ['judge_ours', 'judge_theirs']) await judging.query(`CREATE DATABASE ${database}`);
  await judging.end();
  judging = new Client({ ...inject('postgres'), database: 'judge_theirs' });
  ours = new Client({ ...inject('postgres'), database: 'judge_ours' });
  await Promise.all([judging.connect(), ours.connect()]);
  await makeRoles(judging);
  postgres = new PostgresSource({ ...inject('postgres'), database: 'judge_ours' }, 'public');
});
afterAll(async () => {
  await Promise.all([judging?.end(), ours?.end(), mariadb?.close(), postgres?.close(), connection?.end()]);
});

async function hold(judge: Judge, cases: number, first: number, what: string): Promise<void> {
  const differences: Difference[] = [];
  for (let seed = first; judge.cases < cases; seed++) differences.push(...(await judge.play(seed)));
  console.log(
    `judge of ${what}: seeds from ${first}, ${judge.cases} cases, ${judge.cells} cells, outcomes ` +
      `${JSON.stringify(judge.outcomes)}, actions done ${judge.acted}`,
  );
  expect(differences.slice(0, 3)).toEqual([]);
  // A judge that never lets anything through, or never refuses, would prove nothing.
  for (const outcome of ['done', 'untouched', 'refused', 'held', 'no such record'])
    expect([outcome, (judge.outcomes[outcome] ?? 0) > cases / 50]).toEqual([outcome, true]);
  expect(judge.cells).toBeGreaterThan(cases);
  expect(judge.acted).toBeGreaterThan(cases / 20);
}

describe("PostgreSQL's row security", () => {
  it(
    'sees, changes and refuses the same records as the gate over MariaDB case by case',
    { timeout: 300_000 },
    async () => {
      await hold(
        new Judge(mariadb, (scenario) => loadIntoMariadb(scenario, connection, mariadb), judging),
        tries(400, 3000),
        20261123,
        'MariaDB',
      );
    },
  );

  it(
    'sees, changes and refuses the same records as the gate over PostgreSQL case by case',
    { timeout: 300_000 },
    async () => {
      await hold(
        new Judge(postgres, (scenario) => loadIntoPostgres(scenario, ours, postgres), judging),
        tries(200, 1000),
        1,
        'PostgreSQL',
      );
    },
  );
});
