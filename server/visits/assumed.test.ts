import { RateLimiterMemory, type RateLimiterRes } from 'rate-limiter-flexible';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, inject, it, vi } from 'vitest';
import type { Connection } from 'mariadb';
import type { PortalDefinition } from '../../core/definition/definition';
import { fingerprint } from '../../core/dialect/fingerprint';
import { demoPassword } from '../../demo/load';
import { Client, demoServer, type Answer } from '../../test/server';
import { freshSchema } from '../../test/tables';
import { Assumed, RostersBeside } from '../gate/gate';
import { MariadbSource } from '../sources/mariadb';
import { LastSaid } from './last-said';

/**
 * A list is read by what was known of whoever asks, in one statement with the proof that it holds. Whatever is changed
 * behind the server's back, with plain SQL, the answer is the one of a request that assumes nothing.
 */
let demo: Awaited<ReturnType<typeof demoServer>>;
let plain: Connection;
let builder: Client;
let mara: Client;
const bench = '/builder/portals/alder-fen';
const visits = '/records/visits?columns=planned_for,state,access_note&sort=-planned_for&size=5';
const who = "email = 'mara.lindqvist@example.org'";

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'assumed');
  await (await freshSchema(inject('database'), 'assumed_own')).end();
  demo = await demoServer(inject('database'), 'assumed', 'assumed_own');
  // With an index of addresses each request is told of rows that came; else it is looked up every few seconds.
  for (const roster of ['owners', 'samplers', 'lab_staff'])
    await plain.query(`ALTER TABLE assumed.${roster} ADD KEY by_address (email)`);
  demo.server.services.sources.forget();
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  mara = demo.client();
});
afterEach(() => void vi.restoreAllMocks());
afterAll(async () => {
  await demo?.server.close();
  await plain?.end();
});

/** Asks when nothing can be assumed. */
async function unassumed<T>(ask: () => Promise<T>): Promise<T> {
  const assume = vi.spyOn(LastSaid.prototype, 'assume').mockReturnValue(null);
  try {
    return await ask();
  } finally {
    assume.mockRestore();
  }
}

const told = ({ status, body }: Answer) => ({
  status,
  records: body.records as unknown,
  detail: body.detail as unknown,
});

/** Publishes what `change` makes of the draft, and gives the number of the version. */
async function publish(change: (draft: PortalDefinition) => void): Promise<number> {
  const draft = (await builder.get(`${bench}/definition`)).body as PortalDefinition;
  change(draft);
  const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body as { revision: number };
  const { status, body } = await builder.post(`${bench}/versions`, { revision, note: '', despite: 'a test' });
  expect([status, body.detail]).toEqual([201, undefined]);
  const [portal] = await plain.query<{ v: number }[]>('SELECT published_version v FROM assumed_own.portals');
  return portal!.v;
}

/** What may become of a portal behind a visitor's back, what they get then, and what takes it back. */
const portalChanges = (published: number, shut: number): [change: string, status: number, back: string][] => [
  ['rights_revision SET revision = revision + 1', 200, 'rights_revision SET id = id'],
  [`portals SET published_version = ${shut}`, 404, `portals SET published_version = ${published}`],
  ['portals SET published_version = NULL', 404, `portals SET published_version = ${published}`],
  ["portals SET slug = 'alder-carr'", 404, "portals SET slug = 'alder-fen'"],
];

describe('a member', () => {
  const list = () => mara.get(`/portals/alder-fen${visits}`);
  let one = '';
  /** Her list, and one record of it. */
  const both = async () => [
    told(await list()),
    told(await mara.get(`/portals/alder-fen/records/visits/${one}?columns=state`)),
  ];
  const signIn = async (after = '') => {
    const { status } = await mara.post('/portals/alder-fen/sign-in', {
      email: 'mara.lindqvist@example.org',
      password: demoPassword,
    });
    expect([after, status]).toEqual([after, 200]);
    // However long all takes, it is not yet to be noted that the session is in use.
    await plain.query('UPDATE assumed_own.sessions SET seen_at = NOW(3) + INTERVAL 1 HOUR WHERE member_id IS NOT NULL');
    // At first it is found out how the rosters and the list are best asked for.
    for (let i = 0; i < 3; i++) {
      const { records } = (await list()).body as { records: { id: string }[] };
      expect(records).toHaveLength(5);
      one = records[0]!.id;
    }
  };

  it('is not asked for before their next list or record, nor before a section of a page', async () => {
    await signIn();
    const asked = vi.spyOn(RostersBeside.prototype, 'ask');
    const [first, second] = [await both(), await both()];
    expect([(first[0]!.records as unknown[]).length, first[1]!.status, asked.mock.calls.length]).toEqual([5, 200, 0]);
    expect(second).toEqual(await unassumed(both));
    expect(asked).toHaveBeenCalledTimes(2);
    // Anything else is asked for as ever.
    await mara.get('/portals/alder-fen/me');
    expect(asked).toHaveBeenCalledTimes(3);
    const { pages } = (await mara.get('/portals/alder-fen/me')).body as {
      pages: { id: string; sections: { id: string; kind: string }[] }[];
    };
    const [page] = pages.filter(({ sections }) => sections.some(({ kind }) => kind === 'list'));
    const { id } = page!.sections.find(({ kind }) => kind === 'list')!;
    const section = () => mara.get(`/portals/alder-fen/pages/${page!.id}/${id}`);
    await section();
    asked.mockClear();
    expect([(await section()).status, asked.mock.calls.length]).toEqual([200, 0]);
  });

  it('is told that it takes too long after one try, where they are in', async () => {
    await signIn();
    const rows = MariadbSource.prototype.rows;
    let tries = 0;
    vi.spyOn(MariadbSource.prototype, 'rows').mockImplementation(function (this: MariadbSource, statement, asker) {
      if (!/= \(SELECT SHA2/.test(statement.text)) return rows.call(this, statement, asker);
      tries++;
      return Promise.reject(Object.assign(new Error('stopped'), { errno: 1969 }));
    });
    const { status, body } = await list();
    expect([status, body.detail, tries]).toEqual([503, expect.stringMatching('too long'), 1]);
    await plain.query('DELETE FROM assumed_own.sessions WHERE member_id IS NOT NULL');
    expect([(await list()).status, tries]).toEqual([401, 2]);
  });

  it('gets what one gets of whom nothing was known, whatever was changed in between', async () => {
    const published = await publish(() => undefined);
    const narrower = await publish((draft) => void delete draft.access.visits!.sampler!.see);
    await plain.query(`UPDATE assumed_own.portals SET published_version = ${published}`);
    const [{ id, other, person }] = await plain.query<[{ id: number; other: number; person: number }]>(
      `SELECT id, (SELECT MIN(id) FROM assumed.samplers WHERE NOT ${who}) other,
        (SELECT id FROM assumed_own.members WHERE ${who}) person FROM assumed.samplers WHERE ${who}`,
    );
    const [mine, away] = ["'mara.lindqvist@example.org'", "'somebody.else@example.org'"];
    const row = (set: string) => `UPDATE assumed.samplers SET ${set} WHERE id = ${id}`;
    const member = (set: string) => `UPDATE assumed_own.members SET ${set} WHERE id = ${person}`;
    const portal = (version: number | null) => `UPDATE assumed_own.portals SET published_version = ${version}`;
    const session = (set: string) => `UPDATE assumed_own.sessions SET ${set} WHERE member_id = ${person}`;
    const limits = 'UPDATE assumed_own.rights_revision SET revision = revision + 1 WHERE id = 1';
    // Each with the status that must come of it, and what takes it back.
    const changes: [what: string, status: number, change: string, back?: string][] = [
      ['her name in the roster, by its case alone', 200, row('name = UPPER(name)')],
      ['her district', 200, row("district = CONCAT(district, 'x')")],
      ['her name as a member, by its case alone', 200, member('name = UPPER(name)')],
      ['her address in the roster', 401, row(`email = ${away}`), row(`email = ${mine}`)],
      ['her address as a member', 401, member(`email = ${away}`), member(`email = ${mine}`)],
      ['suspended', 401, member('suspended = NOW(3)'), member('suspended = NULL')],
      ['on no roster', 401, member('on_roster = 0')],
      ['another version', 404, portal(narrower), portal(published)],
      ['nothing published', 401, portal(null), portal(published)],
      ['what limits rights', 200, limits],
      ['the session ended', 401, session('expires_at = NOW(3) - INTERVAL 1 SECOND')],
      ['another proof wanted', 401, session("lacks = 'code'")],
      ['signed out', 401, `DELETE FROM assumed_own.sessions WHERE member_id = ${person}`],
    ];
    // What stands of her in our own tables, which follow what is done to her row.
    for (const [table, by] of [
      ['members', 'id'],
      ['memberships', 'member_id'],
    ])
      await plain.query(
        `CREATE TABLE assumed.kept_${table} SELECT * FROM assumed_own.${table} WHERE ${by} = ${person}`,
      );
    let before = '';
    for (const [what, status, change, back] of changes) {
      await signIn(before);
      before = what;
      await plain.query(change);
      const assumed = await both();
      expect([what, assumed[0]!.status]).toEqual([what, status]);
      expect([what, assumed]).toEqual([what, await unassumed(both)]);
      if (back) await plain.query(back);
      const stood = ['email', 'name', 'on_roster', 'suspended', 'password_hash'].map((each) => `m.${each} = k.${each}`);
      await plain.query(
        `UPDATE assumed_own.members m JOIN assumed.kept_members k ON k.id = m.id SET ${stood.join(', ')}`,
      );
      await plain.query('REPLACE INTO assumed_own.memberships SELECT * FROM assumed.kept_memberships');
    }
    // Her row is another sampler's: she sees that one's visits, and none of her own.
    await signIn();
    const own = await both();
    await plain.query(row(`email = ${away}`));
    await plain.query(`UPDATE assumed.samplers SET email = ${mine} WHERE id = ${other}`);
    const led = await both();
    expect(led).toEqual(await unassumed(both));
    expect(led).not.toEqual(own);
  });
});

describe('a program', () => {
  const asker = (key: string, accept: string) => () =>
    demo.client().send('GET', '/v1/portals/alder-fen/records/visits?columns=state&counted=false&size=3', undefined, {
      authorization: `Bearer ${key}`,
      accept,
    });

  it('gets what one gets of which nothing was known, whatever was changed in between', async () => {
    await publish((draft) => {
      draft.promises = [];
      draft.access.visits!.bottle_tracker = { see: { where: 'every row', columns: ['id', 'state'] } };
    });
    const make = async () =>
      (await builder.post(`${bench}/keys`, { role: 'bottle_tracker', name: 'Tracker', aMinute: 10_000 })).body as {
        id: number;
        key: string;
      };
    const made = vi.spyOn(Assumed, 'ofLine');
    const changes: [what: string, status: number, change: string][] = [
      ['nothing', 200, 'name = name'],
      ['it is called otherwise', 200, 'name = UPPER(name)'],
      ['it has ended', 401, "ends_at = '2020-01-01'"],
      ['it ends in a century', 200, "ends_at = '2126-01-01'"],
      ['it is used from elsewhere', 403, `addresses = '["203.0.113.9"]'`],
      ['it is another role’s', 404, "role = 'nobody'"],
      ['there is no such key', 401, 'key_hash = REVERSE(key_hash)'],
    ];
    for (const accept of ['application/json', 'text/csv'])
      for (const [what, status, change] of changes) {
        const { id, key } = await make();
        const ask = asker(key, accept);
        // The first notes that it is used, so only the second is known for the third.
        for (let i = 0; i < 3; i++) expect((await ask()).status).toBe(200);
        expect([what, made.mock.results.length > 0]).toEqual([what, true]);
        made.mockClear();
        await plain.query(`UPDATE assumed_own.service_keys SET ${change} WHERE id = ${id}`);
        const answer = await ask();
        expect([what, accept, answer.status]).toEqual([what, accept, status]);
        const { body } = await unassumed(ask);
        expect([what, answer.body.detail ?? answer.body]).toEqual([what, body.detail ?? body]);
      }
  });

  it('is counted once for each request, whether or not it was assumed', async () => {
    const order = { role: 'bottle_tracker', name: 'Tracker', aMinute: 4 };
    const { key } = (await builder.post(`${bench}/keys`, order)).body as { key: string };
    const ask = asker(key, 'application/json');
    const answers: Answer[] = [];
    for (let i = 0; i < 6; i++) answers.push(await (i === 3 ? unassumed(ask) : ask()));
    expect(answers.map(({ status }) => status)).toEqual([200, 200, 200, 200, 429, 429]);
    const left = answers.map(({ headers }) => /r=(\d+)/.exec(headers.get('ratelimit')!)![1]);
    expect(left).toEqual(['3', '2', '1', '0', '0', '0']);
  });
});

describe('a visitor', () => {
  it('gets what one gets of whom nothing was known, whatever was published in between', async () => {
    const published = await publish(() => undefined);
    const visitor = demo.client();
    const open = '/portals/alder-fen/public';
    const { pages } = (await visitor.get(`${open}/me`)).body as {
      pages: { id: string; sections: { id: string; kind: string }[] }[];
    };
    const page = pages.find(({ sections }) => sections.some(({ kind }) => kind === 'list'))!;
    const { id } = page.sections.find(({ kind }) => kind === 'list')!;
    const list = () => visitor.get(`${open}/pages/${page.id}/${id}`);
    const shut = await publish((draft) => {
      draft.pages.find((each) => each.id === page.id)!.sections = [];
    });
    await plain.query(`UPDATE assumed_own.portals SET published_version = ${published}`);
    const made = vi.spyOn(Assumed, 'ofLine');
    for (const [change, status, back] of portalChanges(published, shut)) {
      for (let i = 0; i < 4; i++) expect((await list()).status).toBe(200);
      expect([change, made.mock.results.length > 0]).toEqual([change, true]);
      made.mockClear();
      await plain.query(`UPDATE assumed_own.${change}`);
      const answer = told(await list());
      expect([change, answer.status]).toEqual([change, status]);
      expect([change, answer]).toEqual([change, told(await unassumed(list))]);
      await plain.query(`UPDATE assumed_own.${back}`);
    }
  });
});

describe('whoever sends a public form', () => {
  const form = '/portals/alder-fen/public/pages/ask/form/form';
  const visitor = () => demo.client();
  let sent = 0;
  // They send more than one may.
  beforeEach(() => void vi.spyOn(RateLimiterMemory.prototype, 'consume').mockResolvedValue({} as RateLimiterRes));
  const send = async (further = '') => {
    const { guard, now } = { guard: demo.server.services.publicForms, now: new Date(Date.now() - 60_000) };
    const [{ id }] = await plain.query<[{ id: number }]>('SELECT id FROM assumed_own.portals');
    const values = { name: `Sender ${++sent}`, email: 'sender@example.org', parish: 'Harrow End' };
    const ticket = guard.ticket(id, 'test-request', now);
    return visitor().post(form, { values, ticket, press: `press of the test ${sent}`, further });
  };
  const one = async (asked: string) =>
    Number(Object.values((await plain.query<object[]>(`SELECT ${asked}`))[0]!)[0] ?? 0);
  const kept = () => one("COUNT(*) FROM assumed.test_requests WHERE name LIKE 'Sender %'");
  const pressed = () => one('COUNT(*) FROM assumed_own.presses');
  const known = async () => {
    for (let i = 0; i < 2; i++) expect((await send()).status).toBe(200);
  };

  it('gets and keeps what one does of whom nothing was known, whatever was published in between', async () => {
    const published = await publish(() => undefined);
    const shut = await publish((draft) => void (draft.pages.find(({ id }) => id === 'ask')!.sections = []));
    await plain.query(`UPDATE assumed_own.portals SET published_version = ${published}`);
    const settled = vi.spyOn(Assumed.prototype, 'settle');
    for (const [change, status, back] of portalChanges(published, shut)) {
      await known();
      expect([change, settled.mock.lastCall]).toEqual([change, [1]]);
      const before = [await kept(), await pressed()];
      await plain.query(`UPDATE assumed_own.${change}`);
      settled.mockClear();
      const answer = await send();
      // It was held against what stands there now, and not taken on trust.
      expect([change, answer.status, settled.mock.calls]).toEqual([change, status, [[0]]]);
      const more = status === 200 ? 1 : 0;
      expect([change, await kept(), await pressed()]).toEqual([change, before[0]! + more, before[1]! + more]);
      const { status: then, body } = await unassumed(() => send());
      expect([change, then, body.detail]).toEqual([change, status, answer.body.detail]);
      await plain.query(`UPDATE assumed_own.${back}`);
      // What failed is tried again only after a while.
      for (let i = 0; i < 4; i++) await send();
    }
  });

  it('waits for nobody who is changing what limits rights', async () => {
    await known();
    const before = await kept();
    await plain.query('START TRANSACTION');
    try {
      await plain.query('UPDATE assumed_own.rights_revision SET revision = revision + 1');
      const settled = vi.spyOn(Assumed.prototype, 'settle');
      expect([(await send()).status, settled.mock.calls]).toEqual([200, [[1]]]);
    } finally {
      await plain.query('ROLLBACK');
    }
    expect(await kept()).toBe(before + 1);
  });

  it('is counted among those turned away once, whether or not it was assumed', async () => {
    await known();
    const times = () => one("SUM(times) FROM assumed_own.turned_away WHERE why LIKE '%trap'");
    const before = await times();
    for (let i = 0; i < 3; i++) expect((await send('http://spam')).status).toBe(200);
    expect(await times()).toBe(before + 3);
  });
});

describe('a fingerprint', () => {
  it('can be taken of texts in any character set, and is another for each other value', async () => {
    const kinds = {
      western: 'VARCHAR(9) CHARACTER SET latin1',
      eastern: 'VARCHAR(9) CHARACTER SET latin2',
      wide: 'VARCHAR(9) CHARACTER SET utf16',
      folded: 'VARCHAR(9) COLLATE utf8mb4_unicode_ci',
      exact: 'VARCHAR(9) COLLATE utf8mb4_bin',
      bytes: 'BLOB',
      flags: 'BIT(3)',
      near: 'DOUBLE',
      fee: 'DECIMAL(9,2)',
      at: 'DATETIME(3)',
      kind: "ENUM('x', 'y') CHARACTER SET greek",
    };
    const columns = Object.keys(kinds);
    await plain.query(`CREATE TABLE assumed.odd (${columns.map((c) => `${c} ${kinds[c as 'at']} NULL`).join(', ')})`);
    const first = ["'é'", "'ł'", "'x'", "'a'", "'a'", "X'00ff'", "b'101'", '0.1', '1.10', "'2026-01-01'", "'x'"];
    const other = ["'e'", "'l'", "'X'", "'A'", "'á'", "X'00'", "b'100'", '0.1000000001', '1.11', "'2026-01-02'", "'y'"];
    // What runs over from one to the next, nothing, an empty text, and the word.
    const rows = [first, ...other.map((value, i) => first.toSpliced(i, 1, value))];
    for (const text of ['NULL', "''", "'NULL'", "'\\',\\''"]) rows.push(first.toSpliced(3, 1, text));
    rows.push(first.toSpliced(3, 2, "'a,'", "''"), first.toSpliced(3, 2, "''", "',a'"));
    await plain.query(`INSERT INTO assumed.odd VALUES ${rows.map((row) => `(${row.join(', ')})`).join(', ')}`);
    const taken = await plain.query<{ p: string }[]>(`SELECT ${fingerprint(columns)} p FROM assumed.odd`);
    expect(taken.every(({ p }) => /^[0-9a-f]{64}$/.test(p))).toBe(true);
    const prints = taken.map(({ p }) => p);
    // Rows that have the fingerprint of one before them.
    expect(rows.filter((_, i) => prints.indexOf(prints[i]!) !== i)).toEqual([]);
  });
});
