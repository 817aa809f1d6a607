import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
import { sql } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
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
  const order = { of: 'live', seed: 1, writes: true };
  const { state, result } = await builder.ended(`${bench}/jobs`, `${bench}/proof-runs`, order);
  const proof = result as ProofTold;
  expect([state, proof.differences, proof.differed, proof.tooLarge]).toEqual(['done', [], 0, []]);
  const { list, filter, record, file, write } = proof.questions;
  expect(Math.min(list, filter, record, file)).toBeGreaterThan(1500);
  expect(write).toBeGreaterThan(300);
  expect(proof.cells).toBeGreaterThan(50_000);
  expect(proof.unjudged).toBeLessThan(200);
  const { runs } = (await builder.get(`${bench}/proof-runs`)).body as { runs: object[] };
  expect(runs).toMatchObject([{ version: 1, differed: 0, people: proof.people, madeBy: 'builder@example.org' }]);
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
      questions: 2000,
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
