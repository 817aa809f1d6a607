import { list as gateList, type ListQuestion, type Visit } from '../server/gate/gate';
import { Client } from 'pg';
import { bound, sql, type Sql } from '../core/sql/sql';
import { MariadbSource } from '../server/sources/mariadb';
import type { RawRow, Runner } from '../server/sources/source';
import { quantile, round, type Figure } from './figures';
import { withMariadb, withPostgres } from './local-databases';
import { inTurns } from './timing';
import { makeVisits, sampler, visitColumns, visitsDefinition } from './visits';

const visits = 1_000_000;
const samplers = 1000;
const pageSize = 50;

const question: ListQuestion = {
  columns: visitColumns.map((column) => [column]),
  sort: [],
  where: [],
  search: '',
  after: null,
  before: null,
  size: pageSize,
};

/**
 * A page of a member's own visits of a million, database time: the statement that the gate sends against the best that
 * we could write by hand, against the plain OR, and against the same rows under PostgreSQL's row security. All on one
 * connection each, prepared.
 */
export async function policy(): Promise<Figure[]> {
  return withMariadb(['policy'], async (address) =>
    withPostgres(async (other) => {
      console.log('making a million visits in both …');
      const plain = await makeVisits(address, 'policy', visits, samplers);
      const source = new MariadbSource(address, 'policy', 1);
      const postgres = new Client(other);
      await postgres.connect();
      try {
        await copyToPostgres(plain, postgres);
        const catalogue = await source.catalogue();
        const visit = (id: number): Visit => ({
          definition: visitsDefinition('policy'),
          catalogue,
          person: sampler(id),
          moment: new Date(),
        });
        const one = visit(1);
        const ours = new Map<number, Sql>();
        const gate = (id: number) => ({ ...one, person: sampler(id) });
        // The gate measures both forms at its first use and then keeps to one; its statements are caught on their way.
        await gateList(source, gate(1), 'visits', question);
        for (let id = 1; id <= 400; id++) ours.set(id, await caught(source, gate(id)));
        const byHand = (id: number): Sql =>
          sql`SELECT v.* FROM ((SELECT id FROM visits WHERE sampler_id = ${bound(id)} ORDER BY id LIMIT 51)
            UNION (SELECT id FROM visits WHERE planned_by = ${bound(id)} ORDER BY id
            LIMIT 51)) u STRAIGHT_JOIN visits v ON v.id = u.id ORDER BY v.id LIMIT 51`;
        const plainOr = (id: number): Sql =>
          sql`SELECT * FROM visits WHERE sampler_id = ${bound(id)} OR planned_by = ${bound(id)} ORDER BY id LIMIT 51`;
        const rowSecurity = async (id: number) => {
          await postgres.query({
            name: 'who',
            text: 'SELECT set_config($1, $2, FALSE)',
            values: ['bench.sampler', String(id)],
          });
          return (
            await postgres.query<unknown[]>({
              name: 'page',
              text:
                'SELECT id, sampler_id, planned_by, planned_for, state, access_note, fee FROM visits ORDER BY id ' +
                'LIMIT 51',
              rowMode: 'array',
            })
          ).rows;
        };
        for (const id of [1, 7, 399]) {
          const wanted = (await source.rows(plainOr(id))).map((row) => Number(row[0]));
          const answers = {
            ours: (await source.rows(ours.get(id)!)).map((row) => Number(row[1])),
            byHand: (await source.rows(byHand(id))).map((row) => Number(row[0])),
            rowSecurity: (await rowSecurity(id)).map((row) => Number(row[0])),
          };
          for (const [name, got] of Object.entries(answers))
            if (JSON.stringify(got) !== JSON.stringify(wanted)) throw new Error(`${name} gives other rows for ${id}`);
        }
        const pick = (i: number) => 1 + ((i * 37) % 400);
        const times = await inTurns(
          {
            ours: (i) => source.rows(ours.get(pick(i))!),
            byHand: (i) => source.rows(byHand(pick(i))),
            plainOr: (i) => source.rows(plainOr(pick(i))),
            rowSecurity: (i) => rowSecurity(pick(i)),
          },
          600,
        );
        const median = (name: keyof typeof times) => quantile(times[name], 0.5);
        const figure = (name: string, reference: keyof typeof times, aim: string, turned = false): Figure => ({
          name,
          ours: round(median('ours')),
          reference: round(median(reference)),
          unit: 'ms',
          ratio: round(turned ? median(reference) / median('ours') : median('ours') / median(reference)),
          aim,
        });
        return [
          figure('page of own rows, against SQL by hand', 'byHand', '1.05 or less'),
          figure('page of own rows, against PostgreSQL row security', 'rowSecurity', '1 or less'),
          figure('OR filter, times as fast as the plain OR', 'plainOr', '3 or more', true),
        ];
      } finally {
        await postgres.end();
        await source.close();
        await plain.end();
      }
    }),
  );
}

/** The page's statement as the gate sends it. */
async function caught(source: MariadbSource, visit: Visit): Promise<Sql> {
  const statements: Sql[] = [];
  const spy: Runner = {
    rows: (statement) => {
      statements.push(statement);
      return source.rows(statement);
    },
    write: (statement) => source.write(statement),
    measure: (statement) => source.measure(statement),
  };
  await gateList(spy, visit, 'visits', question);
  return statements.find((statement) => !statement.text.includes('COUNT(*)'))!;
}

async function copyToPostgres(mariadb: Awaited<ReturnType<typeof makeVisits>>, postgres: Client): Promise<void> {
  await postgres.query(
    'CREATE TABLE visits (id INT PRIMARY KEY, sampler_id INT, planned_by BIGINT, planned_for TIMESTAMP, state ' +
      'TEXT NOT NULL, access_note TEXT, fee NUMERIC(8,2))',
  );
  const step = 20_000;
  for (let from = 0; from < visits; from += step) {
    const rows = await mariadb.query<RawRow[]>(
      {
        sql:
          'SELECT id, sampler_id, planned_by, planned_for, state, access_note, fee FROM visits WHERE id > ? AND ' +
          'id <= ?',
        rowsAsArray: true,
        dateStrings: true,
      },
      [from, from + step],
    );
    const columns = rows[0]!.map((_, i) => rows.map((row) => row[i]));
    await postgres.query(
      'INSERT INTO visits SELECT * FROM unnest($1::int[], $2::int[], $3::bigint[], $4::timestamp[], ' +
        '$5::text[], $6::text[], $7::numeric[])',
      columns,
    );
  }
  for (const statement of [
    'CREATE INDEX ON visits (sampler_id, id)',
    'CREATE INDEX ON visits (planned_by, id)',
    'CREATE INDEX ON visits (planned_for)',
    'VACUUM ANALYZE visits',
    'ALTER TABLE visits ENABLE ROW LEVEL SECURITY',
    `CREATE POLICY own ON visits FOR SELECT USING (sampler_id = current_setting('bench.sampler')::int OR ` +
      `planned_by = current_setting('bench.sampler')::bigint)`,
    'CREATE ROLE member',
    'GRANT SELECT ON visits TO member',
    'SET ROLE member',
  ])
    await postgres.query(statement);
}
