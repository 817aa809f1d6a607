import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import Joi from 'joi';
import { Client } from 'pg';
import { MariadbSource } from '../../server/sources/mariadb';
import { startMariadb } from '../../start/local-mariadb';
import { startPostgres } from '../../start/local-postgres';
import { freshSchema } from '../tables';
import { Judge, makeRoles } from './judge';
import { loadIntoMariadb } from './load';

/**
 * `npm run judge -- --cases N --seed S`: as many cases as wanted against PostgreSQL's row security. Says the seed
 * first, and of each difference its own.
 */
const { values } = parseArgs({
  options: {
    cases: { type: 'string', default: '3000' },
    seed: { type: 'string', default: String(Math.floor(Math.random() * 2 ** 31)) },
  },
});
const { error, value } = Joi.object<{ cases: number; seed: number }>({
  cases: Joi.number().integer().min(1).required(),
  seed: Joi.number().integer().min(0).required(),
}).validate(values);
if (error) {
  console.error(`${error.message}. Use: npm run judge -- --cases 3000 --seed 1`);
  process.exit(1);
}

const folder = mkdtempSync(join(tmpdir(), 'stone-porch-judge-'));
chmodSync(folder, 0o711);
const postgres = await startPostgres(folder);
const mariadb = await startMariadb(
  folder,
  ['judge'],
  ['--innodb-flush-log-at-trx-commit=0', '--skip-innodb-doublewrite'],
);
const client = new Client(postgres.address);
const connection = await freshSchema(mariadb.address, 'judge');
const source = new MariadbSource(mariadb.address, 'judge');
let wrong = 0;
try {
  await client.connect();
  const judge = new Judge(source, (scenario) => loadIntoMariadb(scenario, connection, source), client);
  await makeRoles(client);
  console.log(`seed ${value.seed}`);
  for (let seed = value.seed, said = 0; judge.cases < value.cases; seed++) {
    for (const difference of await judge.play(seed)) {
      wrong++;
      if (wrong <= 5) console.log(JSON.stringify(difference));
    }
    if (judge.cases - said >= 1000) {
      said = judge.cases;
      console.log(`${judge.cases} cases, ${wrong} different`);
    }
  }
  console.log(
    `${judge.cases} cases, ${judge.cells} cells, ${wrong} different; outcomes ${JSON.stringify(judge.outcomes)}`,
  );
} finally {
  await client.end();
  await source.close();
  await connection.end();
  await Promise.all([postgres.stop(), mariadb.stop()]);
  rmSync(folder, { recursive: true, force: true });
}
process.exit(wrong === 0 ? 0 : 1);
