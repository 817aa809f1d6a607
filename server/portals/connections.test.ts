import { createServer as createWeb } from 'node:http';
import { createServer, type Server, type AddressInfo } from 'node:net';
import { Client as PgClient } from 'pg';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { demoDefinition } from '../../demo/definition';
import { demoPassword } from '../../demo/load';
import { loadDemoIntoPostgres } from '../../test/demo-in-postgres';
import { demoServer, type Client } from '../../test/server';
import { freshSchema } from '../../test/tables';
import { seal, unseal } from '../store/secret';
import { Connection } from '../store/models';
import { Connections } from '../connections/connections';

/**
 * Databases that builders connect: what is said of each fault, that no password comes out again, and a whole portal
 * over PostgreSQL.
 */
let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
let silent: Server;

const postgres = () => ({
  name: 'lab',
  kind: 'postgresql',
  host: '127.0.0.1',
  port: inject('postgres').port,
  database: 'connected',
  user: 'portal',
  password: 'ford the fen',
  tls: 'off',
});

const mariadb = () => ({
  name: 'same',
  kind: 'mariadb',
  host: '127.0.0.1',
  port: inject('database').port,
  database: '',
  user: inject('database').user,
  password: inject('database').password,
  tls: 'off',
});

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'conn', 'conn_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  const admin = new PgClient(inject('postgres'));
  await admin.connect();
  for (const statement of [
    'CREATE DATABASE connected',
    "CREATE ROLE portal LOGIN PASSWORD 'ford the fen'",
    "CREATE ROLE mighty LOGIN SUPERUSER PASSWORD 'x'",
  ])
    await admin.query(statement);
  await admin.end();
  const own = new PgClient({ ...inject('postgres'), database: 'connected' });
  await own.connect();
  await loadDemoIntoPostgres(own);
  await own.query(
    'GRANT USAGE ON SCHEMA public TO portal; GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA ' +
      'public TO portal; GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO portal',
  );
  await own.end();
  silent = createServer(() => undefined);
  await new Promise<void>((resolve) => {
    silent.listen(0, '127.0.0.1', resolve);
  });
});

afterAll(async () => {
  silent?.close();
  await demo?.server.close();
});

const tried = async (form: object) => {
  const answer = await builder.post('/builder/connections/try', form);
  return answer.status === 200 ? answer.body : [answer.status, answer.body.fields ?? answer.body.detail];
};

// Most of their time is waiting for what doesn't answer.
describe.concurrent('a connection', () => {
  it('is tried, and each fault gets its own sentence beside its field', async () => {
    expect(await tried(postgres())).toEqual({ schemas: ['public'], warnings: [] });
    expect((await tried(mariadb())).schemas).toContain('conn');
    expect((await tried({ ...postgres(), user: 'mighty', password: 'x' })).warnings).toEqual([
      'This account is above all rules of the database. Make one that may only read and write the tables of ' +
        'the portal.',
    ]);
    const cases: [object, string, RegExp][] = [
      [{ ...postgres(), host: 'no-such-host.invalid' }, 'host', /no host called no-such-host/],
      [{ ...postgres(), port: 1 }, 'host', /No database of this kind answers at 127.0.0.1, port 1\./],
      [{ ...mariadb(), port: 1 }, 'host', /No database/],
      [{ ...postgres(), database: 'nowhere' }, 'database', /no database called nowhere/],
      [{ ...mariadb(), password: 'wrong' }, 'password', /doesn't let stone_porch in/],
      [{ ...postgres(), tls: 'verified' }, 'tls', /doesn't offer encryption/],
      [{ ...mariadb(), database: 'mysql' }, 'user', /no right to use mysql/],
      [{ ...postgres(), port: (silent.address() as AddressInfo).port }, 'host', /No database/],
      [{ ...mariadb(), port: (silent.address() as AddressInfo).port }, 'host', /No database/],
    ];
    for (const [form, field, sentence] of cases)
      expect([form, await tried(form)]).toEqual([form, [422, { [field]: expect.stringMatching(sentence) }]]);
    for (const form of [
      { ...postgres(), kind: 'another' },
      { ...postgres(), host: 'a b' },
      { ...postgres(), port: 70_000 },
      { ...postgres(), database: '' },
      { ...postgres(), extra: 1 },
    ])
      expect((await builder.post('/builder/connections/try', form)).status).toBe(400);
  }, 60_000);

  it(
    'tells nothing of what stands at an address where no database is: the same words after the same time; and ' +
      'leads nowhere that it may not',
    async () => {
      const web = createWeb((_req, res) => res.end('hello'));
      await new Promise<void>((resolve) => {
        web.listen(0, '127.0.0.1', resolve);
      });
      const ports = [1, (silent.address() as AddressInfo).port, (web.address() as AddressInfo).port];
      const answers: { said: string; status: number; took: number }[] = [];
      // A few at a time: one person's share.
      for (const kind of ['mariadb', 'postgresql'] as const)
        for (const tls of ['off', 'on'] as const)
          answers.push(
            ...(await Promise.all(
              ports.map(async (port) => {
                const began = performance.now();
                const answer = await builder.post('/builder/connections/try', { ...postgres(), kind, port, tls });
                return {
                  said: JSON.stringify(answer.body).replaceAll(/port \d+/g, 'PORT'),
                  status: answer.status,
                  took: performance.now() - began,
                };
              }),
            )),
          );
      expect([...new Set(answers.map(({ said, status }) => `${status} ${said}`))]).toHaveLength(1);
      expect(Math.min(...answers.map(({ took }) => took))).toBeGreaterThan(3900);
      web.close();
      for (const host of ['169.254.169.254', 'fe80::1', '0.0.0.0', '224.0.0.1', '::ffff:169.254.169.254'])
        expect([host, await tried({ ...postgres(), host })]).toEqual([
          host,
          [422, { host: expect.stringMatching(/nothing is reached/) }],
        ]);
      const strict = new Connections(Buffer.alloc(32), false);
      for (const host of [
        '127.0.0.1',
        'localhost',
        '10.0.0.5',
        '192.168.1.1',
        '172.20.0.1',
        '::1',
        'fd00::1',
        '::ffff:10.0.0.5',
      ])
        await expect(
          strict.try({ ...postgres(), host, kind: 'postgresql', tls: 'off', builders: null }),
        ).rejects.toThrow(/on this machine or its own network/);
    },
    60_000,
  );

  it('is kept with its password sealed, which never comes out again', async () => {
    expect((await builder.send('PUT', '/builder/connections', postgres())).status).toBe(200);
    expect((await builder.send('PUT', '/builder/connections', { ...postgres(), name: 'broken', port: 1 })).status).toBe(
      422,
    );
    const listed = await builder.get('/builder/connections');
    expect(listed.body.connections).toEqual([
      {
        builders: null,
        name: 'lab',
        kind: 'postgresql',
        host: '127.0.0.1',
        port: inject('postgres').port,
        database: 'connected',
        user: 'portal',
        tls: 'off',
        usedBy: [],
      },
    ]);
    const stored = await Connection.findOne({ where: { name: 'lab' }, rejectOnEmpty: true });
    expect(JSON.stringify(stored)).not.toContain('ford');
    // The kept password serves when the form leaves it empty, but never for another address.
    expect(await tried({ ...postgres(), password: '' })).toEqual({ schemas: ['public'], warnings: [] });
    expect(
      (await builder.send('PUT', '/builder/connections', { ...postgres(), password: '', user: 'mighty' })).status,
    ).toBe(200);
    await builder.send('PUT', '/builder/connections', postgres());
    expect((await demo.client().get('/builder/connections')).status).toBe(401);
  });

  it("can't be read under another key or name, nor when a bit is changed", () => {
    const [key, other] = [Buffer.alloc(32, 1), Buffer.alloc(32, 2)];
    const sealed = seal(key, 'lab', 'ford the fen');
    expect([
      unseal(key, 'lab', sealed),
      unseal(other, 'lab', sealed),
      unseal(key, 'other', sealed),
      unseal(key, 'lab', ''),
      unseal(key, 'lab', 'v1.AAAA'),
    ]).toEqual(['ford the fen', null, null, null, null]);
    for (let i = 3; i < sealed.length - 2; i++)
      expect(unseal(key, 'lab', sealed.slice(0, i) + (sealed[i] === 'A' ? 'B' : 'A') + sealed.slice(i + 1))).toBeNull();
    expect(seal(key, 'lab', 'ford the fen')).not.toBe(sealed);
  });
});

describe('a portal over a connected PostgreSQL database', () => {
  it('is made, published, and gives members their records', async () => {
    expect((await builder.get('/builder/connections/lab/schemas')).body.schemas).toEqual(['public']);
    expect(
      (
        await builder.post('/builder/portals', {
          slug: 'fen-lab',
          name: 'Fen lab',
          connection: 'lab',
          schema: 'nowhere',
          timeZone: 'Europe/London',
        })
      ).body.fields,
    ).toEqual({ schema: 'There is no such schema. Choose one from the list.' });
    expect(
      (
        await builder.post('/builder/portals', {
          slug: 'fen-lab',
          name: 'Fen lab',
          connection: 'lab',
          schema: 'public',
          timeZone: 'Europe/London',
        })
      ).status,
    ).toBe(201);
    const bench = '/builder/portals/fen-lab';
    const definition = demoDefinition('public');
    Object.assign(definition.portal, { slug: 'fen-lab' });
    definition.source = { kind: 'postgresql', connection: 'lab', schema: 'public' };
    expect((await builder.send('PUT', `${bench}/definition`, definition)).status).toBe(200);
    const refreshed = await builder.ended(`${bench}/jobs`, `${bench}/members/refresh`);
    expect(refreshed.result.came).toBeGreaterThan(400);
    const { id } = (await builder.get(`${bench}/members?search=ines.brannock`)).body.members[0];
    await builder.send('PUT', `${bench}/members/${id}/password`, { password: demoPassword });
    expect((await builder.get(`${bench}/findings`)).body.findings.map((finding: { id: string }) => finding.id)).toEqual(
      expect.arrayContaining(['no-email/owners', 'shared-email/owners', 'index/wells/owner_id']),
    );
    await builder.post(`${bench}/versions`, { revision: (await builder.get(bench)).body.revision, note: '' });
    const ines = demo.client();
    expect(
      (await ines.post('/portals/fen-lab/sign-in', { email: 'ines.brannock@example.org', password: demoPassword }))
        .status,
    ).toBe(200);
    expect(
      (await ines.get('/portals/fen-lab/pages/my-wells/wells')).body.records.map(
        (record: { values: { code: string } }) => record.values.code,
      ),
    ).toEqual(['AF-0231', 'AF-0232', 'AF-0419']);
    expect((await ines.get('/portals/fen-lab/records/wells/1')).status).toBe(404);
    const phone = (await ines.get('/portals/fen-lab/records/owners/17')).body.record.values.phone;
    expect(
      (
        await ines.send('PATCH', '/portals/fen-lab/records/owners/17', {
          changes: { phone: { from: phone, to: '01632 000111' } },
        })
      ).body.record.values.phone,
    ).toBe('01632 000111');
    expect((await builder.send('DELETE', '/builder/connections/lab')).body.detail).toContain('fen-lab');
  });

  it("says that it can't reach its records, and nothing else, when the database is away", async () => {
    const ines = demo.client();
    await ines.post('/portals/fen-lab/sign-in', { email: 'ines.brannock@example.org', password: demoPassword });
    await Connection.update({ port: 1, revision: 99 }, { where: { name: 'lab' } });
    const answer = await ines.get('/portals/fen-lab/pages/my-wells/wells');
    expect([answer.status, answer.body.type, answer.body.detail.includes('127.0.0.1')]).toEqual([
      503,
      'urn:stone-porch:problem:source',
      false,
    ]);
    await Connection.update({ port: inject('postgres').port, revision: 100 }, { where: { name: 'lab' } });
    expect((await ines.get('/portals/fen-lab/pages/my-wells/wells')).status).toBe(200);
  });

  it("a portal can have a schema of its own made by its name, once, and never another's", async () => {
    const make = (slug: string, schema: string) =>
      builder.post('/builder/portals', {
        slug,
        name: slug,
        connection: '',
        schema,
        makeSchema: true,
        timeZone: 'Europe/London',
      });
    try {
      expect((await make('quite-new', 'portal_quite_new')).status).toBe(201);
      expect((await builder.get('/builder/portals/quite-new')).body).toMatchObject({
        catalogue: { tables: [] },
        draft: { source: { schema: 'portal_quite_new' } },
      });
      for (const [slug, schema, reason] of [
        ['other', 'portal_quite_new', /already/],
        ['other', 'portal_OWN', /lower-case/],
        ['other', 'conn_own', /lower-case/],
        ['other', 'mysql', /lower-case/],
        ['other', 'portal_x`; DROP DATABASE conn', /lower-case/],
      ] as const) {
        const answer = await make(slug, schema);
        expect([schema, answer.status, answer.body.fields?.newSchema]).toEqual([
          schema,
          422,
          expect.stringMatching(reason),
        ]);
      }
      expect((await make('quite-new', 'portal_never')).body.fields).toEqual({
        slug: 'This address is already taken. Choose another.',
      });
      expect((await builder.get('/builder/schemas')).body.schemas).not.toContain('portal_never');
      expect(
        (
          await builder.post('/builder/portals', {
            slug: 'moon',
            name: 'Moon',
            schema: 'portal_quite_new',
            timeZone: 'Moon/Base',
          })
        ).body.faults,
      ).toEqual([{ place: '/portal/timeZone', reason: "can't be used here" }]);
    } finally {
      const root = await freshSchema(inject('database'), 'portal_quite_new');
      await root.query('DROP DATABASE portal_quite_new');
      await root.end();
    }
  });

  it("never has the product's own tables as its source, also not through a connection", async () => {
    await builder.send('PUT', '/builder/connections', mariadb());
    expect(
      (
        await builder.post('/builder/portals', {
          slug: 'inside',
          name: 'Inside',
          connection: 'same',
          schema: 'conn_own',
          timeZone: 'UTC',
        })
      ).status,
    ).toBe(422);
    expect(
      (
        await builder.post('/builder/portals', {
          slug: 'beside',
          name: 'Beside',
          connection: 'same',
          schema: 'conn',
          timeZone: 'UTC',
        })
      ).status,
    ).toBe(201);
    expect((await builder.get('/builder/portals/beside/data')).body.tables.length).toBe(13);
    expect((await builder.send('DELETE', '/builder/connections/none')).status).toBe(404);
  });
});
