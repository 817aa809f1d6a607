import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { createConnection, type Connection } from 'mariadb';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { parseCondition } from '../../core/condition/parse';
import type { PortalDefinition } from '../../core/definition/definition';
import { movedDefinition } from '../../core/definition/moved';

/** What the Access stage asks; every number beside it comes from plain SQL. */
let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
let plain: Connection;
const bench = '/builder/portals/alder-fen';
const when = (text: string) => parseCondition(text).condition;
const numbers = async (sql: string) =>
  (await plain.query<unknown[][]>({ sql, rowsAsArray: true })).map((row) => row.map(Number));
/** The numbers of the only row. */
const row = async (sql: string) => (await numbers(sql))[0]!;

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'access', 'access_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  plain = await createConnection({ ...inject('database'), database: 'access' });
});
afterAll(async () => {
  await plain?.end();
  await demo?.server.close();
});

const member = async (search: string) =>
  (await builder.get(`${bench}/members?search=${encodeURIComponent(search)}`)).body.members[0].id as number;
const apply = async (change: (definition: PortalDefinition) => void) => {
  const next = (await builder.get(`${bench}/definition`)).body as PortalDefinition;
  change(next);
  expect((await builder.send('PUT', `${bench}/definition`, next)).status).toBe(200);
};

describe('a condition', () => {
  it('is counted for every member of a role, and names those for whom it lets nothing through', async () => {
    const each = (
      await numbers(
        "SELECT s.id, (SELECT COUNT(*) FROM visits v WHERE v.sampler_id = s.id AND v.state = 'asked') FROM samplers s",
      )
    ).map(([, count]) => count!);
    const condition = {
      table: 'visits',
      text: "sampler_id = :member.samplers.id AND state = 'asked'",
      member: await member('Mara Lindqvist'),
    };
    const { role } = (await builder.post(`${bench}/condition`, { ...condition, role: 'sampler' })).body;
    const { passing, total } = (await builder.post(`${bench}/condition`, condition)).body;
    const counted = each.slice(0, role.people);
    expect(role.people).toBe(14);
    expect([role.least, role.most, role.withNone]).toEqual([
      Math.min(...counted),
      Math.max(...counted),
      counted.filter((count) => count === 0).length,
    ]);
    expect(total).toBe(2600);
    expect(passing).toBeLessThanOrEqual(role.most);
    const owners = (
      await builder.post(`${bench}/condition`, {
        table: 'wells',
        text: "owner_id = :member.owners.id AND state = 'resting'",
        member: null,
        role: 'well_owner',
      })
    ).body.role;
    const [most] = await row(
      "SELECT MAX(n) FROM (SELECT COUNT(*) n FROM wells WHERE state = 'resting' AND owner_id IS NOT NULL GROUP " +
        'BY owner_id) q',
    );
    expect([owners.least, owners.most]).toEqual([0, most]);
    expect(owners.none.length).toBeGreaterThan(0);
  });
});

describe('a mask', () => {
  it('is shown on real values, as members would get them', async () => {
    const { samples } = (
      await builder.post(`${bench}/mask-sample`, {
        table: 'owners',
        column: 'iban',
        mask: { style: 'keep last', count: 4 },
      })
    ).body as { samples: { value: string; masked: string }[] };
    expect(samples).toHaveLength(5);
    for (const { value, masked } of samples)
      expect([masked.slice(-4), masked.includes(value.slice(0, 8))]).toEqual([value.slice(-4), false]);
    const wrong = await builder.post(`${bench}/mask-sample`, {
      table: 'owners',
      column: 'iban',
      mask: { style: 'keep last', count: 0 },
    });
    expect(wrong.status).toBe(400);
  });
});

describe('two persons side by side', () => {
  it('have as many rows as plain SQL counts, and the cells that differ are named', async () => {
    const [mara, ines] = [await member('Mara Lindqvist'), await member('Ines Brannock')];
    const pair = (await builder.get(`${bench}/side-by-side/visits?one=${mara}&other=${ines}`)).body;
    const [sampler] = await row("SELECT id FROM samplers WHERE email = 'mara.lindqvist@example.org'");
    const hers = `(sampler_id = ${sampler} OR planned_by = ${mara})`;
    const owned =
      'well_id IN (SELECT w.id FROM wells w JOIN owners o ON o.id = w.owner_id WHERE o.email = ' +
      "'ines.brannock@example.org')";
    const [first, second, both] = await row(
      `SELECT COALESCE(SUM(${hers}), 0), COALESCE(SUM(${owned}), 0), COALESCE(SUM(${hers} AND ${owned}), 0) ` +
        'FROM visits',
    );
    expect(pair.counts).toEqual({ first, second, both });
    expect(both).toBeGreaterThan(0);
    const only = (await builder.get(`${bench}/side-by-side/visits?one=${mara}&other=${ines}&only=true`)).body
      .records as { seen: unknown[] }[];
    expect(only.every((record) => record.seen.filter((each) => each === null).length === 1)).toBe(true);
    const [shared] = await row(`SELECT MIN(id) FROM visits WHERE ${hers} AND ${owned}`);
    const all = (await builder.get(`${bench}/side-by-side/visits?one=${ines}&other=${mara}`)).body.records as {
      id: string;
      differing: string[];
      seen: { values: Record<string, unknown> }[];
    }[];
    const record = all.find((each) => each.id === String(shared)) ?? all.find((each) => each.seen.every(Boolean));
    if (record)
      expect([
        record.differing.includes('fee'),
        record.differing.includes('state'),
        'fee' in record.seen[0]!.values,
        'fee' in record.seen[1]!.values,
      ]).toEqual([true, false, true, false]);
  });
});

describe('who sees what', () => {
  it('names roles and people of a column and of a class, and all of one person, to read and as CSV', async () => {
    const { found } = (await builder.get(`${bench}/who?table=owners&column=phone`)).body;
    expect(
      found[0].roles.map((each: { role: string; reach: { level: string; edit: boolean } }) => [
        each.role,
        each.reach.level,
        each.reach.edit,
      ]),
    ).toEqual([
      ['well_owner', 'shown', true],
      ['sampler', 'shown', false],
      ['desk', 'shown', true],
      ['steward', 'shown', true],
    ]);
    const people = found[0].people.flatMap((group: { people: unknown[] }) => group.people).length;
    // Everyone but the labs' people and accounts.
    const [without] = await row(
      "SELECT (SELECT COUNT(*) FROM lab_staff) + (SELECT COUNT(*) FROM staff WHERE duty = 'accounts')",
    );
    expect(people).toBe((await builder.get(`${bench}/members`)).body.total - without!);
    // Where it goes besides, and by whose doing.
    const effectsOf = async (of: string) => (await builder.get(`${bench}/who?${of}`)).body.found[0].effects;
    expect(await effectsOf('table=wells&column=code')).toEqual([
      { action: 'to-the-lab', to: { address: 'lab-desk' }, by: { roles: ['sampler'], clock: false } },
      {
        action: 'tell-owner',
        to: { mail: { to: 'column', path: ['sample', 'visit', 'well', 'owner', 'email'] } },
        by: { roles: ['lab_lead'], clock: false },
      },
    ]);
    expect(await effectsOf('table=owners&column=iban')).toEqual([]);
    const identity = (await builder.get(`${bench}/who?class=identity`)).body.found;
    expect(
      identity.map((each: { column: string; roles: { reach: { mask: string } }[] }) => [
        each.column,
        each.roles.map((role) => role.reach.mask),
      ]),
    ).toEqual([
      ['birth_date', ['year shown', null]],
      ['tax_number', ['last 3 shown']],
    ]);
    const mara = (await builder.get(`${bench}/who?person=${await member('Mara Lindqvist')}`)).body;
    expect([
      mara.name,
      mara.reached.some((each: { table: string; column: string }) => each.table === 'owners' && each.column === 'iban'),
      mara.reached.find(
        (each: { table: string; column: string }) => each.table === 'visits' && each.column === 'seal_number',
      ).reach.edit,
    ]).toEqual(['Mara Lindqvist', false, true]);
    const csv = await (
      await fetch(`${demo.base}/api${bench}/who.csv?class=identity`, { headers: builder.headers() })
    ).text();
    expect(csv.split('\r\n').slice(0, 2).join('|')).toMatch(
      new RegExp(
        '^person,table,column,sees,mask,edits,fills in new records,exports,through' +
          String.raw`\|[^,]+,owners,birth_date,masked,year shown,no,no,no,Well owner$`,
      ),
    );
  });
});

describe('reading as somebody', () => {
  it('goes for members, visitors and services, is written in the log once, and changes nothing', async () => {
    await apply((draft) => {
      draft.access.advisories!.public = { see: { where: when('published = TRUE'), columns: ['title'] } };
    });
    const [published, samples] = await row(
      'SELECT (SELECT COUNT(*) FROM advisories WHERE published), (SELECT COUNT(*) FROM samples)',
    );
    expect((await builder.get(`${bench}/as/visitor/table/advisories`)).body.seen).toBe(published);
    expect((await builder.get(`${bench}/as/visitor/table/owners`)).body.seen).toBe(0);
    expect((await builder.get(`${bench}/as/service.bottle_tracker/table/samples`)).body.seen).toBe(samples);
    for (const nobody of ['service.public', 'service.none', 'someone', '999999'])
      expect((await builder.get(`${bench}/as/${nobody}/table/samples`)).status).toBe(404);
    for (let i = 0; i < 3; i++) await builder.get(`${bench}/as/visitor/me`);
    const { entries } = (await builder.get(`${bench}/log`)).body as {
      entries: { what: string; about: string; who: string }[];
    };
    expect(entries.filter((entry) => entry.what === 'read as' && entry.about === 'a visitor')).toHaveLength(1);
    expect(entries.filter((entry) => entry.about === 'the service Bottle tracker')).toHaveLength(1);
    // Two members of one name are two: each is read, and each is written.
    await plain.query(
      "INSERT INTO owners (name, email, postal_address, parish) VALUES ('Twice Named', " +
        "'one.twice@example.org', 'x', 'x'), ('Twice Named', 'two.twice@example.org', 'x', 'x')",
    );
    await builder.ended(`${bench}/jobs`, `${bench}/members/refresh`);
    for (const email of ['one.twice', 'two.twice']) await builder.get(`${bench}/as/${await member(email)}/me`);
    const again = (await builder.get(`${bench}/log`)).body.entries as { about: string; who: string }[];
    expect(
      again
        .slice(0, 2)
        .map((entry) => entry.about)
        .toSorted(),
    ).toEqual(['Twice Named <one.twice@example.org>', 'Twice Named <two.twice@example.org>']);
    expect(again[0]!.who).toContain('<builder@example.org>');
  });
});

describe('a broken promise', () => {
  it('blocks publishing unless a reason is given, which is logged', async () => {
    await apply((draft) => {
      draft.promises = [
        {
          id: 'no-iban',
          who: { role: 'sampler' },
          says: 'may never',
          operation: 'see',
          table: 'owners',
          column: 'iban',
        },
      ];
    });
    const publish = async (despite?: string) =>
      builder.post(`${bench}/versions`, {
        revision: (await builder.get(bench)).body.revision,
        note: '',
        ...(despite === undefined ? {} : { despite }),
      });
    expect((await publish()).status).toBe(201);
    await apply((draft) => {
      draft.access.owners!.sampler!.see!.columns.push('iban');
      draft.masks = [];
    });
    const refused = await publish();
    expect([refused.status, refused.body.type, refused.body.broken]).toEqual([
      422,
      expect.stringContaining('promises-broken'),
      ['no-iban'],
    ]);
    expect((await publish('The auditors asked for it')).status).toBe(201);
    const [entry] = (await builder.get(`${bench}/log`)).body.entries;
    expect([entry.what, entry.about]).toEqual([
      'published despite a broken promise',
      expect.stringMatching(/no-iban: The auditors asked for it$/),
    ]);
    await builder.post(`${bench}/versions/1/publish`);
    expect((await builder.get(`${bench}/log`)).body.entries[0]).toMatchObject({
      what: 'published',
      about: 'version 1 again',
    });
  });
});

describe('a definition', () => {
  it('tells of a definition what it is of and what is other in it, or makes a portal of it', async () => {
    const exported = (await builder.get(`${bench}/definition`)).body as PortalDefinition;
    const changed = structuredClone(exported);
    changed.roles[0]!.name = 'Owner of a well';
    const told = {
      slug: 'alder-fen',
      name: exported.portal.name,
      sources: [{ name: null, kind: 'mariadb', connection: null, schema: 'access' }],
    };
    expect((await builder.post('/builder/definitions/look', changed)).body).toEqual(told);
    expect((await builder.post(`${bench}/definition/compare`, changed)).body).toEqual({
      told,
      parts: [{ kind: 'role', id: changed.roles[0]!.id, name: 'Owner of a well', change: 'changed', of: ['name'] }],
    });
    expect((await builder.post('/builder/definitions/look', { ...changed, roles: 1 })).status).toBe(422);
    // It comes from elsewhere, where its records were in another schema.
    const place = (schema: string) => ({ '': { kind: 'mariadb' as const, connection: '', schema } });
    const from = (slug: string, schema: string) =>
      builder.post('/builder/portals/from-definition', movedDefinition(changed, { slug }, place(schema)));
    const before = (await builder.get('/builder/portals')).body;
    expect([(await from('a-copy', 'elsewhere')).body.fields, (await from('a-copy', 'access_own')).status]).toEqual([
      { schema: 'There is no such schema. Choose one from the list.' },
      422,
    ]);
    expect((await from('alder-fen', 'access')).body.fields).toEqual({
      slug: 'This address is already taken. Choose another.',
    });
    expect((await builder.get('/builder/portals')).body).toEqual(before);
    expect((await from('a-copy', 'access')).status).toBe(201);
    const copy = (await builder.get('/builder/portals/a-copy')).body;
    expect([copy.draft, copy.publishedVersion, copy.undo]).toEqual([
      movedDefinition(changed, { slug: 'a-copy' }, {}),
      null,
      null,
    ]);
    expect((await builder.get('/builder/portals/a-copy/log')).body.entries).toMatchObject([
      { what: 'made a portal of a definition', about: exported.portal.name },
    ]);
  });
});
