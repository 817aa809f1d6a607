import { chmodSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { TestProject } from 'vitest/node';
import { bundledServer } from '../start/bundle.mjs';
import { startMariadb } from '../start/local-mariadb';
import { startPostgres, type LocalPostgres } from '../start/local-postgres';
import { copied, copyDemo } from './demo-copy';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';

declare module 'vitest' {
  export interface ProvidedContext {
    database: DatabaseAddress;
    postgres: LocalPostgres['address'];
    /** A file with the demo, to be made again by `demoServer`. */
    demo: string;
  }
}

/** As many as `vitest.config.ts` has. */
const workers = 4;

/** Schemas that tests may make and drop, one for each file. */
export const testSchemas = [
  copied.records,
  copied.own,
  'carries',
  'odd_people',
  'odd_people_own',
  'tortured',
  'tortured_own',
  'agree',
  'pages',
  'begun',
  'foreign',
  'foreign_own',
  'proof_odd',
  'proof',
  'proof_own',
  'health',
  'health_own',
  'begun_own',
  'led',
  'led_own',
  'pages_own',
  'lists',
  'lists_own',
  'views',
  'actions',
  'approve',
  'assumed',
  'assumed_own',
  'nameless',
  'nameless_own',
  'follow',
  'outside',
  'outside_own',
  'timed',
  'timed_own',
  'opened',
  'opened_own',
  'actions_own',
  'forms',
  'forms_own',
  'views_own',
  'disclosure',
  'generated',
  'history',
  'past',
  'reviews',
  'talk',
  'then',
  'hung',
  'hung_own',
  'open',
  'open_own',
  'open_data',
  'faces',
  'faces_own',
  'rehearsed',
  'rehearsed_own',
  'laid',
  'laid_own',
  'visitor',
  'visitor_own',
  'disclosure_own',
  'generated_own',
  'history_own',
  'past_own',
  'reviews_own',
  'talk_own',
  'then_own',
  'numbers',
  'numbers_own',
  'masks',
  'http',
  'http_own',
  'drafts',
  'drafts_own',
  'figures',
  'judge',
  'any_pages',
  'manual',
  'adversary',
  'adversary_twin',
  'compare',
  'promises',
  'docs',
  'both',
  'union',
  'api',
  'api_own',
  'conn',
  'conn_own',
  'imports',
  'leases',
  'connecting',
  'kept',
  'relate',
  'sealed',
  'sealed_own',
  'keyed',
  'keyed_own',
  'relate_own',
  'bring',
  'jobs',
  'jobs_own',
  'grid',
  'grid_own',
  'kept',
  'kept_own',
  'asked_own',
  'across',
  'further',
  'further_own',
  'further_lab',
  'access',
  'access_own',
  'reasons',
  'demo',
  'closed',
  'closed_own',
  'stops',
  'stops_own',
  'twin',
  'twin_own',
  'passing',
  'shares',
  'shares_own',
  'scripts_itself',
  'scripts_ours',
  'types',
  'unseen',
  'unseen_own',
  'beside',
  'people',
  'stewards',
  'stewards_own',
  'keeping',
  'keeping_own',
  'coming',
  'coming_own',
  'open_door',
  'open_door_own',
  'sight',
  'sight_own',
  'people_own',
  'mails',
  'mails_own',
  'codes',
  'codes_own',
  'provided',
  'bench_door',
  'provided_own',
  'bench_door_own',
  'proofs',
  'proofs_own',
  'colleagues',
  'colleagues_own',
  'rules',
  'refusals',
  'refusals_own',
  'csv_lines',
  'one_statement',
  'transactions',
  ...['gate', 'writes', 'odd', 'shapes', 'shapes_own', 'asked'].flatMap((name) =>
    Array.from({ length: workers }, (_, i) => `${name}_${i + 1}`),
  ),
];

/**
 * A real MariaDB and a real PostgreSQL for the tests of the server, in folders of their own that are gone afterwards.
 */
export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  // Threads of the servers that are started here begin sooner.
  await bundledServer();
  const folder = mkdtempSync(join(tmpdir(), 'stone-porch-test-'));
  // PostgreSQL runs as another user, who must be able to pass through.
  chmodSync(folder, 0o711);
  const stops: (() => Promise<void>)[] = [];
  const stopAll = async () => {
    await Promise.all(stops.map((stop) => stop()));
    rmSync(folder, { recursive: true, force: true });
  };
  try {
    // Each of them waits for itself for the most part.
    const begun = [
      startPostgres(folder),
      startMariadb(folder, testSchemas, ['--innodb-flush-log-at-trx-commit=0', '--skip-innodb-doublewrite']),
    ] as const;
    for (const each of begun) stops.push(async () => (await each.catch(() => null))?.stop());
    const [postgres, database] = await Promise.all(begun);
    project.provide('database', database.address);
    project.provide('postgres', postgres.address);
    const demo = join(folder, 'demo.json');
    writeFileSync(demo, JSON.stringify(await copyDemo(database.address, join(folder, 'tables'))));
    project.provide('demo', demo);
  } catch (error) {
    // Without what it gives back nobody would end them.
    await stopAll();
    throw error;
  }
  return stopAll;
}
