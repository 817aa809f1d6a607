import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { parseCondition } from '../../core/condition/parse';
import type { PortalDefinition } from '../../core/definition/definition';
import { sql } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { readDefinition } from '../../sections/definition';
import { demoServer, type Client } from '../../test/server';
import { freshSchema } from '../../test/tables';
import { tries } from '../../test/thorough';
import { viewSql } from '../gate/gate';
import { Portal } from '../store/models';
import { asEverybody } from './as-everybody';
import { proveOn, type ProofTold } from './proof-run';

/**
 * The builder's certificate. What core works out in memory is held elsewhere against MariaDB, PostgreSQL and its row
 * security; here it is that a gate that is broken on purpose is found out.
 */

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
const bench = '/builder/portals/alder-fen';

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'proof', 'proof_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
});
afterAll(async () => demo?.server.close());

it('asks thousands of questions as everybody, none is answered other than core says, and that is kept', async () => {
  const order = { of: 'live', seed: 1, writes: true, questions: tries(3000, 10_000) };
  const ending = builder.ended(`${bench}/jobs`, `${bench}/proof-runs`, order);
  const isRunning = async () => ((await builder.get(`${bench}/jobs`)).body as { jobs: object[] }).jobs.length > 0;
  await expect.poll(isRunning).toBe(true);
  expect((await builder.post(`${bench}/proof-runs`, order)).status).toBe(409);
  const { state, result } = await ending;
  const proof = result as ProofTold;
  expect([state, proof.differences, proof.differed, proof.tooLarge]).toEqual(['done', [], 0, []]);
  const { list, filter, record, file, write } = proof.questions;
  expect(Math.min(list, filter, record, file)).toBeGreaterThan(tries(500, 1500));
  expect(write).toBeGreaterThan(tries(100, 300));
  expect(proof.cells).toBeGreaterThan(tries(15_000, 50_000));
  expect(proof.unjudged).toBeLessThan(200);
  const { runs } = (await builder.get(`${bench}/proof-runs`)).body as { runs: object[] };
  expect(runs).toMatchObject([
    {
      version: 1,
      madeBy: 'builder@example.org',
      told: { differed: 0, people: proof.people, seed: 1, wanted: order.questions },
    },
  ]);
  expect(JSON.stringify(runs)).not.toContain('Brannock');
});

/** The gate's own way of writing statements, of which a test breaks one piece. */
type Breakable = Record<'rows' | 'cell' | 'way', (...args: never[]) => unknown>;

const broken: [string, (gate: Breakable, whole: Breakable) => void][] = [
  ['row filters are lost', (gate) => (gate.rows = () => sql`TRUE`)],
  [
    'one lens shows what another masks',
    (gate, whole) => {
      gate.cell = function (this: unknown, ...args: never[]) {
        const cell = whole.cell.apply(this as never, args) as { which: unknown; cases: object[] } | null;
        return cell && { ...cell, which: null, cases: cell.cases.slice(0, 1) };
      };
    },
  ],
  ['what relations lead to is told whether or not the way there is open', (gate) => (gate.way = () => [])],
];

it.each(broken)('finds out a gate in which %s', async (_, breaks) => {
  const services = demo.server.services;
  const portal = (await Portal.findOne())!;
  const definition = structuredClone(await services.definitions.draft(portal)) as PortalDefinition;
  const { visitOf, people } = await asEverybody(services, { portalId: portal.id, ownerId: null }, definition);
  const gate = Object.getPrototypeOf(viewSql(visitOf(people[0]!))) as Breakable;
  const whole = Object.fromEntries(['rows', 'cell', 'way'].map((name) => [name, gate[name as 'rows']]));
  try {
    breaks(gate, whole as unknown as Breakable);
    const proof = await proveOn(services, { portalId: portal.id, ownerId: null }, definition, {
      seed: 2,
      writes: false,
      questions: tries(600, 2000),
      most: 14,
    });
    expect(proof.differed).toBeGreaterThan(0);
    expect(proof.differences.length).toBeLessThanOrEqual(50);
    // Where it is said, and nothing of what stands there.
    expect(JSON.stringify(proof.differences)).not.toMatch(/@example\.org|Brannock/);
  } finally {
    Object.assign(gate, whole);
  }
});

it('judges what memory can, of keys and texts that sort in unknown ways, and says where nobody is', async () => {
  const sql = await freshSchema(inject('database'), 'proof_odd');
  await sql.query(`CREATE TABLE books (code VARCHAR(20) COLLATE utf8mb4_unicode_ci PRIMARY KEY, n INT,
    word VARCHAR(20) COLLATE utf8mb4_unicode_ci)`);
  await sql.query(`CREATE TABLE loans (x INT, y INT, code VARCHAR(20) COLLATE utf8mb4_unicode_ci,
    PRIMARY KEY (x, y), FOREIGN KEY (code) REFERENCES books (code))`);
  await sql.query('CREATE TABLE notes (text VARCHAR(20), n INT)');
  const words = ['ä b', 'Z 1', 'a', 'straße', 'Strasse 2', 'Ö x', 'o', 'z'];
  await sql.batch(
    'INSERT INTO books VALUES (?, ?, ?)',
    words.map((word, i) => [word, i, word]),
  );
  await sql.batch(
    'INSERT INTO loans VALUES (?, ?, ?)',
    words.map((word, i) => [i % 3, i, i === 2 ? null : word.replace('a', 'A')]),
  );
  await sql.query("INSERT INTO notes VALUES ('one', 1), ('two', 2), ('two', 2)");
  await sql.end();
  const { services } = demo.server;
  const demoDefinition = await services.definitions.draft((await Portal.findOne())!);
  const see = (where: string, columns: string[]) => ({ see: { where: parseCondition(where).condition, columns } });
  const anyone = { id: 'anyone', name: 'Anyone', for: 'visitors' as const };
  const odd = readDefinition({
    ...JSON.parse(JSON.stringify({ ...emptied(demoDefinition), source: { kind: 'mariadb', schema: 'proof_odd' } })),
    roles: [anyone],
    access: {
      books: { anyone: see('n > 1', ['code', 'n', 'word']) },
      loans: { anyone: see("code_record.word <> 'a'", ['x', 'y', 'code']) },
      notes: { anyone: see('n > 0', ['text']) },
    },
  });
  const portal = await Portal.create({ slug: 'odd', draft: JSON.stringify(odd), revision: 1, publishedVersion: null });
  const at = { portalId: portal.id, ownerId: null };
  const proof = await proveOn(services, at, odd, { seed: 3, writes: true, questions: 600 });
  expect([proof.differences, proof.people]).toEqual([[], 1]);
  expect(proof.unjudged).toBeGreaterThan(0);
  expect(proof.questions.list + proof.questions.record).toBeGreaterThan(150);
  const nobody = proveOn(services, at, { ...odd, roles: [] }, { seed: 3, writes: false });
  await expect(nobody).rejects.toThrow('There is nobody to ask as');
});

/** A definition with nothing in it but what every one has. */
function emptied({ format, formatVersion, portal }: PortalDefinition & { format?: string; formatVersion?: number }) {
  const { slug: _slug, face: _face, ...rest } = portal;
  return {
    format,
    formatVersion,
    portal: { ...rest, slug: 'odd' },
    tables: {},
    rosters: [],
    masks: [],
    sheets: {},
    pages: [],
  };
}
