import { readFileSync, writeFileSync } from 'node:fs';
import { createConnection, type Connection } from 'mariadb';
import { parseCondition } from '../core/condition/parse';
import type { PortalDefinition } from '../core/definition/definition';
import { demoPassword, loadDemo } from '../demo/load';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import type { ChangeReport } from '../server/versions/change-report';
import { openStore } from '../server/store/store';
import { Client } from '../test/server';
import { round, type Figure } from './figures';
import { withMariadb } from './local-databases';
import { withServers } from './put-together';

const members = 10_000;
const visits = 1_000_000;
const jobs = '/builder/portals/alder-fen/jobs';
const bench = '/builder/portals/alder-fen';

/**
 * What a builder waits for who presses Publish: the change report as its job tells it, of a change that loses each
 * sampler the visits that they only planned and masks every fee, for 10,000 members of the demo grown to a million
 * visits. The reference is the aim. What it tells as lost is held against a count in plain SQL.
 */
export function changeReport(): Promise<Figure[]> {
  return withMariadb(['stone_porch', 'alder_fen'], async (address) => {
    const store = await openStore(address, 'stone_porch');
    await loadDemo(address, 'alder_fen', store, 'stone_porch');
    await store.close();
    await withPlain(address, growPeople);
    return withServers(address, async (start) => {
      const { port, process: server } = await start('./server-ours.ts');
      const builder = new Client(`http://127.0.0.1:${port}`);
      await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
      const told = await builder.ended(jobs, `${bench}/members/refresh`, {});
      if (told.state !== 'done') throw new Error(JSON.stringify(told));
      console.log('growing to a million visits …');
      const lost = await withPlain(address, growVisits);
      const draft = (await builder.get(`${bench}/definition`)).body as PortalDefinition;
      const written = await builder.send('PUT', `${bench}/definition`, changed(draft));
      if (written.status !== 200) throw new Error(JSON.stringify(written.body));
      const taken: number[] = [];
      const peaks: number[] = [];
      for (let i = 0; i < 4; i++) {
        const before = memoryOf(server.pid!, 'VmRSS');
        // The peak is counted anew from here (proc(5), clear_refs).
        writeFileSync(`/proc/${server.pid}/clear_refs`, '5');
        const from = performance.now();
        const { state, result } = await builder.ended(jobs, `${bench}/change-report`, { from: null, to: null });
        taken.push((performance.now() - from) / 1000);
        peaks.push(memoryOf(server.pid!, 'VmHWM') - before);
        if (state !== 'done') throw new Error(JSON.stringify(result));
        hold(result as ChangeReport, lost);
      }
      // The first is what somebody waits for who presses once.
      console.log(
        'seconds and MiB of each:',
        taken.map((each, n) => `${each.toFixed(2)}/${peaks[n]!.toFixed(0)}`).join(' '),
      );
      return [
        figure(`change report for ${members} members on a million rows, the first`, taken[0]!, 6, 's', 'under 6 s'),
        figure('memory growth of the server meanwhile, the most', Math.max(...peaks), 150, 'MiB', 'under 150 MiB'),
      ];
    });
  });
}

function changed(draft: PortalDefinition): PortalDefinition {
  draft.access.visits!.sampler!.see!.where = parseCondition('sampler_id = :member.samplers.id').condition;
  draft.masks.push({
    id: 'every-fee',
    table: 'visits',
    column: 'fee',
    mask: { style: 'all' },
    to: 'everyone',
    exceptRoles: [],
  });
  return draft;
}

async function withPlain<T>(address: DatabaseAddress, work: (plain: Connection) => Promise<T>): Promise<T> {
  const plain = await createConnection({ ...address, database: 'alder_fen', bigIntAsNumber: true });
  try {
    return await work(plain);
  } finally {
    await plain.end();
  }
}

const numberIn = async (plain: Connection, sql: string): Promise<number> =>
  Number(((await plain.query(sql)) as { n: number }[])[0]!.n);

/** Samplers until the rosters have ten thousand members together. */
async function growPeople(plain: Connection): Promise<void> {
  const known = await numberIn(plain, 'SELECT COUNT(*) n FROM stone_porch.members');
  const last = await numberIn(plain, 'SELECT MAX(id) n FROM samplers');
  await plain.query(
    "INSERT INTO samplers (id, name, email, district, active) SELECT seq, CONCAT('Sampler ', seq), " +
      `CONCAT('s', seq, '@example.org'), 'Saltby', 1 FROM seq_${last + 1}_to_${last + members - known}`,
  );
}

/** Visits until there are a million, each eighth planned by another; gives how many a sampler planned for another. */
async function growVisits(plain: Connection): Promise<number> {
  const first = await numberIn(plain, 'SELECT COUNT(*) n FROM visits');
  const samplers = await numberIn(plain, 'SELECT MAX(id) n FROM samplers');
  for (const statement of [
    'SET SESSION foreign_key_checks = 0, unique_checks = 0',
    'CREATE TEMPORARY TABLE planners (n INT PRIMARY KEY) SELECT ROW_NUMBER() OVER (ORDER BY member_id) n, member_id ' +
      "FROM stone_porch.memberships WHERE roster_table = 'samplers'",
    'INSERT INTO wells (id, code, owner_id, address, postcode, parish, latitude, longitude, state) SELECT ' +
      "seq, CONCAT('B', seq), 1 + seq * 7919 % 420, '1 Long Dyke', 'AF1', 'Saltby', 53, 0.1, 'active' FROM " +
      'seq_521_to_200000',
    `INSERT INTO visits (well_id, sampler_id, planned_by, asked_on, planned_for, state, seal_number, fee, paid)
     SELECT 1 + seq * 7907 % 200000, 1 + seq * 6007 % ${samplers}, p.member_id, '2025-01-01',
      TIMESTAMPADD(MINUTE, seq % 1500000, '2023-11-24'), 'planned', CONCAT('T', seq), 60, seq % 2
     FROM seq_1_to_${visits - first} LEFT JOIN planners p ON seq % 8 = 0 AND p.n = 1 + seq * 31 % ${samplers}`,
    'ANALYZE TABLE samplers, wells, visits',
  ])
    await plain.query(statement);
  return numberIn(
    plain,
    `SELECT COUNT(*) n FROM visits v JOIN stone_porch.memberships m ON m.member_id = v.planned_by AND
      m.roster_table = 'samplers' WHERE NOT v.sampler_id <=> CAST(m.row_key AS UNSIGNED)`,
  );
}

/** Throws where the report tells something else than plain SQL counted. */
function hold({ people, groups }: ChangeReport, lost: number): void {
  const told = groups.reduce((sum, { change }) => sum + change.rows.lost, 0);
  if (people < members || told !== lost) throw new Error(`${people} people lose ${told} rows, not ${lost}`);
}

const memoryOf = (pid: number, what: 'VmRSS' | 'VmHWM'): number =>
  Number(new RegExp(`${what}:\\s+(\\d+)`).exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]) / 1024;

const figure = (name: string, ours: number, reference: number, unit: string, aim: string): Figure => ({
  name,
  ours: round(ours, 2),
  reference,
  unit,
  ratio: round(ours / reference),
  aim,
});
