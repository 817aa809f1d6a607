import { Client as PgClient } from 'pg';
import type { Connection } from 'mariadb';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { columnsUsed } from '../../core/condition/analyse';
import type { Condition } from '../../core/condition/tree';
import { conditionsOf } from '../../core/access/grant-conditions';
import { nameColumns } from '../../core/definition/name-columns';
import { findTable, type Catalogue } from '../../core/table/catalogue';
import { demoPassword } from '../../demo/load';
import { loadDemoIntoPostgres } from '../../test/demo-in-postgres';
import { Client, demoServer } from '../../test/server';
import { freshSchema } from '../../test/tables';
import { apart, definition, Kind, changeable, people } from './non-interference.fixture';
import { questionsOf } from './non-interference-questions.fixture';
import { isThorough } from '../../test/thorough';

/**
 * Non-interference (J. A. Goguen and J. Meseguer, Security policies and security models, 1982), over HTTP: everything
 * is asked as a person, then all that they can't see is changed by plain SQL, and everything is asked again. No answer
 * may differ by a byte. Over the demo's seven kinds of person and one for whom every style of mask is laid, on both
 * databases. What a person sees is taken from the answers themselves.
 */
let demo: Awaited<ReturnType<typeof demoServer>>;

let plain: Connection;

let client: PgClient;

let builder: Client;

interface Side {
  name: string;
  slug: string;
  run: (text: string, values?: unknown[]) => Promise<unknown>;
  rows: (text: string) => Promise<Record<string, unknown>[]>;
}

const sides: Side[] = [];

const wild = (side: Side, table: string, column: string, kind: Kind): string => {
  const maria = side.name === 'MariaDB';
  const chance = maria ? 'RAND()' : 'random()';
  if ('text' in kind)
    return maria
      ? `LEFT(MD5(CONCAT(id, ' ', RAND())), ${kind.text})`
      : `LEFT(md5(id || ' ' || random()), ${kind.text})`;
  if ('date' in kind)
    return maria
      ? "DATE_ADD('1950-01-01', INTERVAL FLOOR(RAND() * 25000) DAY)"
      : "DATE '1950-01-01' + (random() * 25000)::int";
  if ('moment' in kind)
    return maria
      ? "DATE_ADD('2020-01-01', INTERVAL FLOOR(RAND() * 3000000) MINUTE)"
      : "TIMESTAMP '2020-01-01' + (random() * 3000000)::int * INTERVAL '1 minute'";
  if ('decimal' in kind) return `ROUND(${maria ? chance : `${chance}::numeric`} * ${kind.decimal}, 1)`;
  if ('truth' in kind) return maria ? 'RAND() > 0.5' : 'random() > 0.5';
  const listed = kind.choice.map((choice) => `'${choice}'`).join(', ');
  return maria
    ? `ELT(1 + FLOOR(RAND() * ${kind.choice.length}), ${listed})`
    : `(ARRAY[${listed}]::${table}_${column}[])[1 + floor(random() * ${kind.choice.length})::int]`;
};

beforeAll(async () => {
  await (await freshSchema(inject('database'), 'unseen_own')).end();
  plain = await freshSchema(inject('database'), 'unseen');
  demo = await demoServer(inject('database'), 'unseen', 'unseen_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  const admin = new PgClient(inject('postgres'));
  await admin.connect();
  await admin.query('CREATE DATABASE unseen');
  await admin.end();
  client = new PgClient({ ...inject('postgres'), database: 'unseen' });
  await client.connect();
  await loadDemoIntoPostgres(client);
  await client.query(
    "CREATE ROLE unseeing LOGIN PASSWORD 'ford the fen'; GRANT USAGE ON SCHEMA public TO unseeing; GRANT " +
      'SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO unseeing; GRANT USAGE ON ALL SEQUENCES ' +
      'IN SCHEMA public TO unseeing',
  );
  expect(
    (
      await builder.send('PUT', '/builder/connections', {
        name: 'far',
        kind: 'postgresql',
        host: '127.0.0.1',
        port: inject('postgres').port,
        database: 'unseen',
        user: 'unseeing',
        password: 'ford the fen',
        tls: 'off',
      })
    ).status,
  ).toBe(200);
  await plain.query('USE unseen');
  sides.push(
    {
      name: 'MariaDB',
      slug: 'unseen-near',
      run: (text, values) => plain.query(text, values),
      rows: (text) => plain.query({ sql: text, dateStrings: true, decimalAsNumber: false }),
    },
    {
      name: 'PostgreSQL',
      slug: 'unseen-far',
      run: (text, values = []) => {
        let i = 0;
        return client.query(
          text.replaceAll('?', () => `$${++i}`),
          values,
        );
      },
      rows: async (text) => (await client.query<Record<string, unknown>>(text)).rows,
    },
  );
  for (const side of sides) {
    // Fewer of what there is most of, so that it is soon changed.
    for (const text of ['DELETE FROM results WHERE sample_id % 12 <> 0', 'DELETE FROM samples WHERE id % 12 <> 0'])
      await side.run(text);
    // Some of what is written is the number of a card.
    await side.run(
      "UPDATE test_requests SET message = CONCAT('4111 11', id + 10, '11 1111 11', id + 10) WHERE id < 60",
    );
    const far = side.name === 'PostgreSQL';
    expect(
      (
        await builder.post('/builder/portals', {
          slug: side.slug,
          name: side.slug,
          ...(far ? { connection: 'far' } : {}),
          schema: far ? 'public' : 'unseen',
          timeZone: 'Europe/London',
        })
      ).status,
    ).toBe(201);
    const bench = `/builder/portals/${side.slug}`;
    expect(
      (
        await builder.send(
          'PUT',
          `${bench}/definition`,
          definition(
            side.slug,
            far ? { kind: 'postgresql', connection: 'far', schema: 'public' } : { kind: 'mariadb', schema: 'unseen' },
          ),
        )
      ).status,
    ).toBe(200);
    await builder.ended(`${bench}/jobs`, `${bench}/members/refresh`);
    for (const email of Object.values(people)) {
      const { id } = (await builder.get(`${bench}/members?search=${email}`)).body.members[0];
      await builder.send('PUT', `${bench}/members/${id}/password`, { password: demoPassword });
    }
    expect(
      (await builder.post(`${bench}/versions`, { revision: (await builder.get(bench)).body.revision, note: '' }))
        .status,
    ).toBe(201);
  }
});

afterAll(async () => {
  await demo?.server.close();
  await Promise.all([plain?.end(), client?.end()]);
});

async function answersOf(member: Client, asked: [string, string, unknown?][]): Promise<string[]> {
  const answers: string[] = [];
  const ask = async ([method, path, body]: [string, string, unknown?]) => {
    const response = await fetch(`${demo.base}/api${path}`, {
      method,
      headers: { ...member.headers(), 'content-type': 'application/json' },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
    if (response.status >= 500) throw new Error(`${method} ${path}: ${response.status} ${await response.text()}`);
    // The moment that a form goes by is the clock's.
    const text = (await response.text()).replaceAll(/"now":"\d{4}-[\d: -]{14}"/g, '"now":""');
    return `${response.status} ${text}`;
  };
  for (let i = 0; i < asked.length; i += 3) answers.push(...(await Promise.all(asked.slice(i, i + 3).map(ask))));
  return answers;
}

/** By table: the ids of the records in view; and of each column those in which it is seen, or seen masked. */
async function seenBy(
  member: Client,
  at: string,
): Promise<Map<string, { whole: Map<string, Set<string>>; masked: Map<string, Set<string>> }>> {
  const seen = new Map<string, { whole: Map<string, Set<string>>; masked: Map<string, Set<string>> }>();
  for (const table of Object.keys(changeable)) {
    const of = { whole: new Map<string, Set<string>>(), masked: new Map<string, Set<string>>() };
    seen.set(table, of);
    const info = await member.get(`${at}/tables/${table}`);
    if (info.status !== 200) continue;
    const columns = (info.body.columns as { path: string }[]).map((column) => column.path);
    for (let after = ''; ;) {
      const { body } = await member.get(
        `${at}/records/${table}?columns=${columns.join(',')}&size=200&counted=false${after && `&after=${after}`}`,
      );
      for (const record of body.records as { id: string; values: object; masked: string[] }[])
        for (const column of Object.keys(record.values)) {
          const to = record.masked.includes(column) ? of.masked : of.whole;
          if (!to.has(column)) to.set(column, new Set());
          to.get(column)!.add(record.id);
        }
      if (body.next === null) break;
      after = body.next as string;
    }
  }
  return seen;
}

/** What they are called by the rows that make them a member is told to them, as soon as the rosters are read again. */
async function addOwnNames(side: Side, seen: Awaited<ReturnType<typeof seenBy>>, email: string): Promise<void> {
  for (const roster of definition('x', { kind: 'mariadb', schema: 'unseen' }).rosters) {
    const known = seen.get(roster.table);
    if (!known) continue;
    const own = await side.rows(`SELECT id FROM ${roster.table} WHERE ${roster.email} = '${email}'`);
    for (const column of nameColumns(roster))
      known.whole.set(column, new Set([...(known.whole.get(column) ?? []), ...own.map(({ id }) => String(id))]));
  }
}

/**
 * Changes all that the person doesn't see, and what they see masked so that the mask shows the same; gives how many
 * cells.
 */
async function changeUnseen(
  side: Side,
  seen: Awaited<ReturnType<typeof seenBy>>,
): Promise<{ hidden: number; masked: number }> {
  const changed = { hidden: 0, masked: 0 };
  for (const [table, columns] of Object.entries(changeable)) {
    const total = Number(Object.values((await side.rows(`SELECT COUNT(*) AS n FROM ${table}`))[0]!)[0]);
    for (const [column, [kind, alike]] of Object.entries(columns)) {
      const { whole, masked } = seen.get(table)!;
      const known = [...(whole.get(column) ?? []), ...(masked.get(column) ?? [])];
      if (known.length < total) {
        await side.run(
          `UPDATE ${table} SET ${column} = ${wild(side, table, column, kind)} WHERE id NOT IN ` +
            `(${known.length ? known.join(', ') : '0'})`,
        );
        changed.hidden += total - known.length;
      }
      const veiled = [...(masked.get(column) ?? [])].slice(0, 40);
      if (!alike || veiled.length === 0) continue;
      for (const row of await side.rows(
        `SELECT id, ${side.name === 'MariaDB' ? column : `${column}::text`} AS v FROM ${table} WHERE id IN ` +
          `(${veiled.join(', ')}) AND ${column} IS NOT NULL`,
      )) {
        await side.run(`UPDATE ${table} SET ${column} = ? WHERE id = ?`, [alike(String(row.v)), Number(row.id)]);
        changed.masked++;
      }
    }
  }
  return changed;
}

describe("what a person can't see", () => {
  it('is changed only where no right asks it', async () => {
    const { catalogue } = (await builder.get('/builder/portals/unseen-near')).body as { catalogue: Catalogue };
    const { access, fences = [], rosters, lifecycles = [] } = definition('x', { kind: 'mariadb', schema: 'unseen' });
    const conditions: [string, Condition][] = [
      ...Object.entries(access).flatMap(([table, grants]) =>
        Object.values(grants).flatMap((grant) =>
          conditionsOf(grant).map((where): [string, Condition] => [table, where]),
        ),
      ),
      ...fences.map((fence): [string, Condition] => [fence.table, fence.where]),
      ...rosters.flatMap((roster) =>
        (roster.roles ?? []).map((rule): [string, Condition] => [roster.table, rule.where]),
      ),
      ...lifecycles.flatMap((lifecycle) =>
        lifecycle.moves.flatMap((move) => (move.where ? [[lifecycle.table, move.where] as [string, Condition]] : [])),
      ),
    ];
    const used = new Set(
      conditions.flatMap(([table, where]) =>
        columnsUsed(where, { catalogue, table: findTable(catalogue, table)!, member: true }).map(
          (use) => `${use.table}.${use.column}`,
        ),
      ),
    );
    expect(used.size).toBeGreaterThan(15);
    expect(
      Object.entries(changeable)
        .flatMap(([table, columns]) => Object.keys(columns).map((column) => `${table}.${column}`))
        .filter((column) => used.has(column)),
    ).toEqual([]);
  });

  for (const [turn, [who, email]] of Object.entries(people).entries()) {
    it(`tells ${who} nothing, whatever they ask`, async () => {
      // A third of the questions, on the two databases by turns; all on both where there is time.
      for (const [place, side] of sides.entries()) {
        if (!isThorough && place !== turn % sides.length) continue;
        const at = `/portals/${side.slug}`;
        const member = demo.client();
        expect((await member.post(`${at}/sign-in`, { email, password: demoPassword })).status).toBe(200);
        const asked = (await questionsOf(member, at)).filter((_, i) => isThorough || i % 3 === turn % 3);
        const before = await answersOf(member, asked);
        const seen = await seenBy(member, at);
        await addOwnNames(side, seen, email);
        const changed = await changeUnseen(side, seen);
        // The rosters are read again by the clock; here before anything is asked.
        const bench = `/builder/portals/${side.slug}`;
        await builder.ended(`${bench}/jobs`, `${bench}/members/refresh`);
        const after = await answersOf(member, asked);
        const different = asked.flatMap((question, i) =>
          before[i] === after[i]
            ? []
            : [
                `${side.name}: ${question[0]} ${question[1]} ${JSON.stringify(question[2] ?? '')}: ` +
                  `${apart(before[i]!, after[i]!)}`,
              ],
        );
        expect(different.slice(0, 5)).toEqual([]);
        // There was something to learn, and much was answered.
        expect(changed.hidden).toBeGreaterThan(who.startsWith('programme') ? 300 : 10_000);
        if (who.startsWith('one before')) expect(changed.masked).toBeGreaterThan(300);
        expect(before.filter((answer) => answer.startsWith('200')).length).toBeGreaterThan(5);
      }
    }, 240_000);
  }

  it("would be told by a question that is not the view's: the workplace's own answers change", async () => {
    for (const side of sides) {
      const bench = `/builder/portals/${side.slug}/all/records`;
      const look = async () =>
        (await Promise.all(Object.keys(changeable).map((table) => builder.get(`${bench}/${table}`)))).map((answer) =>
          JSON.stringify(answer.body),
        );
      const before = await look();
      await changeUnseen(
        side,
        new Map(Object.keys(changeable).map((table) => [table, { whole: new Map(), masked: new Map() }])),
      );
      expect((await look()).every((answer, i) => answer !== before[i])).toBe(true);
    }
  });
});
