import { randomBytes } from 'node:crypto';
import { csvParse } from 'd3-dsv';
import { afterAll, beforeAll, beforeEach, describe, expect, inject, it } from 'vitest';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { AuditSeals } from '../audit/seals';
import { AuditSeal } from '../store/seal-model';
import { AuditEntry, Builder, Portal } from '../store/models';

/** The audit log, on the demo: what plain statements on its tables change is found. */

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
let portal: number;
const bench = '/builder/portals/alder-fen';
const seals = new AuditSeals(randomBytes(32));
// Lines of an hour to come are never settled for the server, which seals under another key.
const soon = () => new Date(Date.now() + 3_600_000);
const later = () => new Date(Date.now() + 7_200_000);
const run = (text: string) => demo.server.services.store.sequelize.query(text);

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'sealed', 'sealed_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  portal = (await Portal.findOne({ where: { slug: 'alder-fen' }, rejectOnEmpty: true })).id;
});
afterAll(async () => demo?.server.close());

describe('the seals of the audit log', () => {
  beforeEach(async () => {
    await AuditSeal.destroy({ where: {} });
    await AuditEntry.destroy({ where: {} });
    for (let i = 0; i < 1203; i++)
      await AuditEntry.create({ portalId: portal, at: soon(), who: 'Wren', what: 'read as', about: `No. ${i} ` });
  });

  it('hold every line once it has settled, and two servers seal each once', async () => {
    expect(await seals.seal(new Date())).toBe(0);
    const both = await Promise.all([seals.seal(later()), seals.seal(later())]);
    expect(both[0] + both[1]).toBe(1203);
    await AuditEntry.create({ portalId: null, at: soon(), who: 'Wren', what: 'set a ceiling', about: 'of all' });
    const proof = await seals.prove();
    expect(proof).toMatchObject({ seals: 3, lines: 1203, unsealed: 1, faults: [] });
    expect(await seals.seal(later())).toBe(1);
    const { head, ...all } = await seals.prove();
    expect([all.lines, all.faults, head!.number]).toEqual([1204, [], 4]);
    // Under another key nothing is as it was sealed.
    expect((await new AuditSeals(randomBytes(32)).prove()).faults.length).toBeGreaterThan(0);
  });

  it('tell which line was changed, taken out or put in, and which seal was written over', async () => {
    await seals.seal(later());
    const first = Number((await AuditEntry.findOne({ order: [['id', 'ASC']] }))!.id);
    const found = async () => (await seals.prove()).faults.map(({ what, number }) => [what, number]);
    const line = (n: number) => first + n;
    // A sign, a moment, and what most readers would call the same.
    await run(`UPDATE audit_log SET about = 'No. 7' WHERE id = ${line(7)}`);
    await run(`UPDATE audit_log SET at = at + INTERVAL 1 SECOND WHERE id = ${line(600)}`);
    await run(`UPDATE audit_log SET portal_id = NULL WHERE id = ${line(601)}`);
    await run(`DELETE FROM audit_log WHERE id = ${line(1100)}`);
    expect(await found()).toEqual([
      ['changed', line(7)],
      ['changed', line(600)],
      ['changed', line(601)],
      ['missing', line(1100)],
    ]);
    await run(
      `INSERT INTO audit_log (id, portal_id, at, who, what, about)
        SELECT ${line(1100)}, portal_id, at, who, what, about FROM audit_log WHERE id = ${line(1101)}`,
    );
    expect((await found()).at(-1)).toEqual(['changed', line(1100)]);
    await run(`UPDATE audit_seals SET last_id = last_id - 1 WHERE number = 2`);
    expect(await found()).toEqual(
      expect.arrayContaining([
        ['seal broken', 2],
        ['added', line(999)],
      ]),
    );
  });

  it('tell that one of them is gone; that the end was cut off is told by a head that was kept', async () => {
    await seals.seal(later());
    const { head } = await seals.prove();
    await AuditSeal.destroy({ where: { number: 2 } });
    expect((await seals.prove()).faults[0]).toMatchObject({ what: 'seal broken', number: 3 });
    await seals.seal(later());
    await AuditSeal.destroy({ where: { number: 3 } });
    const cut = await seals.prove();
    expect([cut.head!.number < head!.number, cut.unsealed > 0]).toEqual([true, true]);
  });
});

describe('the log', () => {
  beforeAll(async () => {
    await AuditSeal.destroy({ where: {} });
    await AuditEntry.destroy({ where: {} });
    const at = (day: string) => new Date(`${day}T12:00:00Z`);
    const rows: [string, string, string, string][] = [
      ['2026-01-01', 'Wren Ashby <builder@example.org>', 'read as', 'Ines Brannock <ines.brannock@example.org>'],
      ['2026-01-02', 'Wren Ashby <builder@example.org>', 'published', 'version 2: 100% better_ones'],
      ['2026-01-03', '=cmd()', 'made a key', 'Tracker (porch.1 …)'],
    ];
    for (const [day, who, what, about] of rows)
      await AuditEntry.create({ portalId: portal, at: at(day), who, what, about });
    for (let i = 0; i < 130; i++)
      await AuditEntry.create({ portalId: portal, at: at('2026-02-01'), who: 'Wren', what: 'exported', about: `${i}` });
    await AuditEntry.create({
      portalId: null,
      at: at('2026-01-02'),
      who: 'x',
      what: 'set a ceiling',
      about: 'elsewhere',
    });
  });

  const found = async (query: string) =>
    ((await builder.get(`${bench}/log?${query}`)).body.entries as { what: string }[]).map(({ what }) => what);

  it('is found by words, kind and days, page by page, and nothing of other portals', async () => {
    expect(await found('search=ines')).toEqual(['read as']);
    expect(await found('search=100%25')).toEqual(['published']);
    expect(await found('search=_ones')).toEqual(['published']);
    expect(await found('search=0%25_')).toEqual([]);
    expect(await found('what=made%20a%20key')).toEqual(['made a key']);
    expect(await found('from=2026-01-02&to=2026-01-03')).toEqual(['made a key', 'published']);
    expect(await found('search=elsewhere')).toEqual([]);
    expect((await builder.get(`${bench}/log?from=2026-1-2`)).status).toBe(400);
    const first = (await builder.get(`${bench}/log`)).body;
    const second = (await builder.get(`${bench}/log?before=${first.before}`)).body;
    expect([first.entries.length, second.entries.length, second.before]).toEqual([100, 33, null]);
    expect(first.kinds).toEqual(['exported', 'made a key', 'published', 'read as']);
  });

  it('is taken out as a file that no spreadsheet runs', async () => {
    const { body, headers } = await builder.get(`${bench}/log/file?to=2026-01-31`);
    expect(headers.get('content-disposition')).toContain('alder-fen-audit-log.csv');
    const lines = csvParse(body as string);
    expect(lines.map(({ what }) => what)).toEqual(['made a key', 'published', 'read as']);
    expect([lines[0]!.who, lines[0]!.at]).toEqual(["'=cmd()", '2026-01-03T12:00:00.000Z']);
  });

  it('is not searched by words by whoever is kept from personal data, and tells them no address', async () => {
    await Builder.update({ seesPersonal: false }, { where: {} });
    try {
      expect((await builder.get(`${bench}/log?search=ines`)).status).toBe(403);
      expect((await builder.get(`${bench}/log/file?search=ines`)).status).toBe(403);
      const { body } = await builder.get(`${bench}/log?what=read%20as`);
      expect([body.entries.length, JSON.stringify(body).includes('brannock')]).toEqual([1, false]);
      expect((await builder.get(`${bench}/log/file?what=read%20as`)).body).not.toContain('brannock');
    } finally {
      await Builder.update({ seesPersonal: true }, { where: {} });
    }
  });

  it('is proven by the server’s own seals', async () => {
    await demo.server.services.seals.seal(later());
    const { status, body } = await builder.get(`${bench}/log/proof`);
    expect([status, body.faults, body.unsealed]).toEqual([200, [], 0]);
    expect(body.lines).toBeGreaterThan(100);
  });
});

it('has who came in, and from where; who took what out, and nothing of who was refused it', async () => {
  await AuditEntry.destroy({ where: {} });
  const [accounts, owner] = [demo.client(), demo.client()];
  const door = '/portals/alder-fen';
  for (const [who, email] of [
    [accounts, 'philippa.crane@example.org'],
    [owner, 'ines.brannock@example.org'],
  ] as const)
    expect((await who.post(`${door}/sign-in`, { email, password: demoPassword })).status).toBe(200);
  expect((await owner.post(`${door}/sign-in`, { email: 'ines.brannock@example.org', password: 'wrong' })).status).toBe(
    401,
  );
  expect((await accounts.get(`${door}/exports/visits?format=csv`)).status).toBe(200);
  expect((await owner.get(`${door}/exports/visits?format=csv`)).status).toBe(404);
  const { entries } = (await builder.get(`${bench}/log`)).body as {
    entries: { who: string; what: string; about: string }[];
  };
  expect(entries.map(({ who, what, about }) => [who, what, about])).toEqual([
    ['Philippa Crane <philippa.crane@example.org>', 'exported', 'visits, as csv'],
    ['Ines Brannock <ines.brannock@example.org>', 'signed in', 'from 127.0.0.1'],
    ['Philippa Crane <philippa.crane@example.org>', 'signed in', 'from 127.0.0.1'],
  ]);
});

it('has whoever tries addresses of records out, once', async () => {
  const ines = demo.client();
  const email = 'ines.brannock@example.org';
  expect((await ines.post('/portals/alder-fen/sign-in', { email, password: demoPassword })).status).toBe(200);
  const lines = () => AuditEntry.findAll({ where: { what: 'tried addresses out' } });
  for (let i = 0; i < 19; i++) await ines.get(`/portals/alder-fen/records/wells/${900_000 + i}`);
  // Lists that are empty, and records that are there, are no tries.
  await ines.get('/portals/alder-fen/records/wells?size=1');
  expect(await lines()).toEqual([]);
  for (let i = 0; i < 6; i++)
    expect((await ines.get(`/portals/alder-fen/records/wells/${800_000 + i}/comments`)).status).toBe(404);
  await expect
    .poll(async () => (await lines()).map(({ who, about }) => [who, about]))
    .toEqual([[`Ines Brannock <${email}>`, '20 records within ten minutes']]);
});
