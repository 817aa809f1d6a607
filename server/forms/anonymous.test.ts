import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { pino } from 'pino';
import type { PortalDefinition } from '../../core/definition/definition';
import { raw } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';

/** An anonymous form, sent by whoever comes and by a member: all that is kept anywhere is read before and after. */

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
const portal = '/portals/alder-fen';
const bench = '/builder/portals/alder-fen';
const lines: string[] = [];

async function publish(change: (draft: PortalDefinition) => void): Promise<void> {
  const { draft } = (await builder.get(bench)).body as { draft: PortalDefinition };
  change(draft);
  const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body as { revision: number };
  expect((await builder.post(`${bench}/versions`, { revision, note: '' })).status).toBe(201);
}

beforeAll(async () => {
  // All that the server writes of itself, however little it is asked to.
  const log = pino({ level: 'trace' }, { write: (line: string) => void lines.push(line) });
  demo = await demoServer(inject('database'), 'nameless', 'nameless_own', null, log);
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  // What is done by the clock, at its time, would stand among what came.
  await publish((draft) => void delete draft.brought);
  const source = demo.server.services.sources.get('nameless');
  const running = raw('SELECT COUNT(*) FROM nameless_own.timed_runs WHERE ended_at IS NULL');
  while (Number((await source.rows(running))[0]![0]) > 0);
});
afterAll(async () => demo?.server.close());

/** Every row of every table of both schemas, as text. */
async function everything(): Promise<Map<string, string[]>> {
  const source = demo.server.services.sources.get('nameless');
  const tables = await source.rows(
    raw(
      'SELECT TABLE_SCHEMA, TABLE_NAME FROM information_schema.TABLES ' +
        "WHERE TABLE_SCHEMA IN ('nameless', 'nameless_own')",
    ),
  );
  const all = new Map<string, string[]>();
  for (const [schema, table] of tables) {
    const rows = await source.rows(raw(`SELECT * FROM \`${String(schema)}\`.\`${String(table)}\``));
    all.set(`${String(schema)}.${String(table)}`, rows.map((row) => JSON.stringify(row)).toSorted());
  }
  return all;
}

function newOf(before: Map<string, string[]>, after: Map<string, string[]>): [string, string][] {
  return [...after].flatMap(([table, rows]) => {
    const known = new Set(before.get(table));
    return rows.filter((row) => !known.has(row)).map((row): [string, string] => [table, row]);
  });
}

const ticketFor = (ago: number) => demo.server.services.publicForms.ticket(1, 'doubt', new Date(Date.now() - ago));

it('keeps what a visitor enters, once however often it is sent, and not a word or moment besides', async () => {
  const at = `${portal}/public/pages/doubt/form/form`;
  const before = await everything();
  lines.length = 0;
  const body = {
    values: { parish: 'Harrow End', what: 'smell', words: 'It smells of eggs.' },
    ticket: ticketFor(60_000),
    press: 'anonymous-press-of-this-test',
  };
  const answers = await Promise.all([1, 2, 3].map(() => demo.client().post(at, body)));
  expect(answers.map((answer) => [answer.status, answer.body])).toEqual(
    Array.from({ length: 3 }, () => [200, { id: null, says: expect.stringContaining('Thank you'), receipt: null }]),
  );
  const kept = newOf(before, await everything());
  expect(kept).toEqual([
    ['nameless.doubts', expect.stringMatching(/^\["[0-9a-f]{32}","Harrow End","smell","It smells of eggs\."\]$/)],
  ]);
  expect(lines.length).toBeGreaterThan(0);
  expect(lines.join('')).not.toMatch(/smells|Harrow|127\.0\.0\.1|anonymous-press|user-agent/i);
});

it('keeps nothing of the member who sends it either', async () => {
  const owner = demo.client();
  await owner.post(`${portal}/sign-in`, { email: 'ines.brannock@example.org', password: demoPassword });
  const at = `${portal}/pages/doubt/form/form`;
  await owner.get(`${portal}/me`);
  const before = await everything();
  const body = {
    values: { parish: 'Sedge', what: 'something near it', words: 'My neighbour is careless.' },
    press: 'anonymous-press-of-a-member',
  };
  expect((await owner.post(at, body)).status).toBe(200);
  const kept = newOf(before, await everything());
  expect(kept.map(([table]) => table)).toEqual(['nameless.doubts']);
  expect(kept[0]![1]).not.toMatch(/brannock|owner|\d{4}-\d\d-\d\d/i);
  // The desk reads it, as everybody who may.
  const desk = demo.client();
  await desk.post(`${portal}/sign-in`, { email: 'odile.fennimore@example.org', password: demoPassword });
  const { body: read } = await desk.get(`${portal}/records/doubts?size=50`);
  const words = read.records.map(({ values }: { values: { words: string } }) => values.words);
  expect(words).toEqual(expect.arrayContaining(['It smells of eggs.', 'My neighbour is careless.']));
});

it('is not there where something would tell who sent it, or when', async () => {
  const form = async () => {
    const { pages } = (await demo.client().get(`${portal}/public/me`)).body as {
      pages: { id: string; sections: { form?: object | null }[] }[];
    };
    return pages.find(({ id }) => id === 'doubt')!.sections[0]!.form;
  };
  expect(await form()).toMatchObject({ anonymous: true });
  await publish((draft) => {
    draft.stamps = [
      ...(draft.stamps ?? []),
      {
        id: 'who',
        table: 'doubts',
        column: 'words',
        on: 'create',
        to: 'everyone',
        value: { kind: 'member', fact: ['email'] },
      },
    ];
  });
  expect(await form()).toBeNull();
  const answer = await demo.client().post(`${portal}/public/pages/doubt/form/form`, {
    values: { parish: 'Harrow End', what: 'taste', words: 'Again' },
    ticket: ticketFor(60_000),
  });
  expect(answer.status).toBe(404);
  const findings = async () => JSON.stringify((await builder.get(`${bench}/findings`)).body);
  expect(await findings()).toContain('a stamp notes in words who made it, or when');
  await publish((draft) => {
    draft.stamps = draft.stamps!.filter(({ id }) => id !== 'who');
  });
  expect(await form()).toMatchObject({ anonymous: true });
  // Ids that look random, and hold the moment and the machine.
  const source = demo.server.services.sources.get('nameless');
  await source.write(raw('ALTER TABLE doubts MODIFY id CHAR(36) NOT NULL DEFAULT (UUID())'));
  await source.catalogue(true);
  await publish(() => undefined);
  expect(await form()).toBeNull();
  expect(await findings()).toContain('what the database puts into id by itself tells when one was made, or by whom');
});
