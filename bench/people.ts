import { randomBytes } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { createConnection, type Connection } from 'mariadb';
import { demoDefinition } from '../demo/definition';
import { loadTables } from '../demo/load';
import { readDefinition } from '../sections/definition';
import { openServices } from '../server/open-services';
import { findMembers, type WhichMembers } from '../server/people/find-members';
import { invite } from '../server/people/invitations';
import { refreshPortal } from '../server/people/refresh-job';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { Portal } from '../server/store/models';
import { Member, OutboxMail } from '../server/store/people-models';
import { publishDraft } from '../server/versions/publish';
import { quantile, round, type Figure } from './figures';
import { withMariadb } from './local-databases';

const many = 100_000;
const few = 1000;
const invited = 10_000;

/** Members that follow a roster of 100,000 rows: refreshed, listed, invited. */
export function people(): Promise<Figure[]> {
  return withMariadb(['people_own', 'people'], async (address) => {
    const plain = await connect(address, 'people');
    const services = await openServices({ database: address, ownSchema: 'people_own', secretKey: randomBytes(32) });
    try {
      await loadTables(address, 'people');
      const definition = readDefinition(demoDefinition('people'));
      const portal = await Portal.create({
        slug: 'people',
        draft: JSON.stringify(definition),
        revision: 1,
        publishedVersion: null,
      });
      await publishDraft(services.store.sequelize, portal.id, 1, '', 'bench');
      await portal.reload();
      await grow(plain, few);
      await refreshPortal(services, portal);
      const { source: runner, catalogue } = await services.sources.of(definition);
      const everybody: WhichMembers = { search: '', roster: null, state: null, role: null };
      const page = () => findMembers({ runner, catalogue, definition }, portal.id, everybody, 0, 50);
      const small = await medianOf(60, page);
      await grow(plain, many);
      console.log(`making ${many} members …`);
      await refreshPortal(services, portal);
      await plain.query('ANALYZE TABLE people_own.members, people_own.memberships, people.owners');
      const large = await medianOf(60, page);

      const before = await peakMemory();
      const refreshed = { ours: [] as number[], reference: [] as number[] };
      for (let i = 0; i < 7; i++) {
        refreshed.ours.push(await timeOf(() => refreshPortal(services, portal)));
        refreshed.reference.push(await timeOf(() => comparePlainly(plain, portal.id)));
      }
      const grown = (await peakMemory()) - before;
      const compared = figure(
        `refresh of ${many} rows, nothing changed, against one plain SQL comparison`,
        quantile(refreshed.ours, 0.5),
        quantile(refreshed.reference, 0.5),
        '3 or less',
      );
      const sent = await inviteTimes(services, portal, { runner, catalogue, definition }, plain);
      return [
        compared,
        { ...figure('memory growth meanwhile, against the aim', grown, 64, '1 or less'), unit: 'MiB' },
        figure(`a page of People among ${many}, against ${few}`, large, small, '1.2 or less'),
        figure(
          `${invited} invitations queued, against plain INSERTs of the same rows`,
          sent.ours,
          sent.reference,
          '3 or less',
        ),
      ];
    } finally {
      await services.close();
      await plain.end();
    }
  });
}

const figure = (name: string, ours: number, reference: number, aim: string): Figure => ({
  name,
  ours: round(ours),
  reference: round(reference),
  unit: 'ms',
  ratio: round(ours / reference),
  aim,
});

/** What somebody would write by hand: which rows are nobody's, or differ from their member. */
async function comparePlainly(plain: Connection, portalId: number): Promise<void> {
  for (const table of ['owners', 'samplers', 'lab_staff', 'staff'])
    await plain.query(
      `SELECT COUNT(*) FROM people.${table} o
        LEFT JOIN people_own.memberships r ON r.portal_id = ? AND r.roster_table = ? AND r.row_key = CAST(o.id AS CHAR)
        LEFT JOIN people_own.members m ON m.id = r.member_id
        WHERE m.id IS NULL OR m.email <> LOWER(TRIM(o.email)) OR m.name <> o.name OR NOT m.on_roster`,
      [portalId, table],
    );
}

type Services = Awaited<ReturnType<typeof openServices>>;

/** Queues invitations for ten thousand, takes them back, and inserts the same rows by plain statements. */
async function inviteTimes(
  services: Services,
  portal: Portal,
  source: Parameters<typeof invite>[0]['source'],
  plain: Connection,
): Promise<{ ours: number; reference: number }> {
  const members = (await Member.findAll({ attributes: ['id'], order: [['id', 'ASC']], limit: invited })).map(
    ({ id }) => id,
  );
  const order = { kind: 'invitation' as const, members, afterDays: 0, again: true };
  const inviting = { portal, source, outbox: services.outbox, base: 'https://portal.example.org' };
  const times = { ours: [] as number[], reference: [] as number[] };
  for (let i = 0; i < 5; i++) {
    await plain.query('DELETE FROM people_own.outbox');
    await plain.query('DELETE FROM people_own.links');
    times.ours.push(
      await timeOf(() =>
        services.store.sequelize.transaction((transaction) => invite(inviting, order, i + 1, transaction)),
      ),
    );
    const [mails, links] = [
      await plain.query<unknown[][]>({ sql: 'SELECT * FROM people_own.outbox', rowsAsArray: true }),
      await plain.query<unknown[][]>({ sql: 'SELECT * FROM people_own.links', rowsAsArray: true }),
    ];
    if (mails.length !== invited || (await OutboxMail.count()) !== invited) throw new Error('not all were queued');
    await plain.query('DELETE FROM people_own.outbox');
    await plain.query('DELETE FROM people_own.links');
    times.reference.push(
      await timeOf(async () => {
        await plain.beginTransaction();
        for (const [table, rows] of [
          ['outbox', mails],
          ['links', links],
        ] as const)
          for (let from = 0; from < rows.length; from += 500) {
            const some = rows.slice(from, from + 500);
            const marks = some.map((row) => `(${row.map(() => '?').join(', ')})`).join(', ');
            await plain.query(`INSERT INTO people_own.${table} VALUES ${marks}`, some.flat());
          }
        await plain.query('UPDATE people_own.members SET invited_at = NOW() WHERE id IN (?)', [members]);
        await plain.commit();
      }),
    );
  }
  return { ours: quantile(times.ours, 0.5), reference: quantile(times.reference, 0.5) };
}

/** As many owners as wanted, each with an e-mail of their own. */
async function grow(plain: Connection, to: number): Promise<void> {
  const [row] = await plain.query<{ n: bigint }[]>('SELECT COUNT(*) n FROM owners');
  const from = Number(row!.n) + 1;
  await plain.query(
    `INSERT INTO owners (name, email, postal_address, parish)
      SELECT CONCAT('Owner ', seq), CONCAT('owner', seq, '@many.example.org'), 'x', 'Saltby' FROM seq_${from}_to_${to}`,
  );
}

async function timeOf(work: () => Promise<unknown>): Promise<number> {
  const from = performance.now();
  await work();
  return performance.now() - from;
}

async function medianOf(times: number, work: () => Promise<unknown>): Promise<number> {
  const taken: number[] = [];
  for (let i = 0; i < times; i++) taken.push(await timeOf(work));
  return quantile(taken.slice(times / 3), 0.5);
}

/** The most memory that this process has had so far, in MiB. */
async function peakMemory(): Promise<number> {
  return Number(/VmHWM:\s+(\d+)/.exec(readFileSync('/proc/self/status', 'utf8'))![1]) / 1024;
}

function connect(address: DatabaseAddress, database: string): Promise<Connection> {
  const { host, port, socketPath, user, password } = address;
  return createConnection({ host, port, socketPath, user, password, database });
}
