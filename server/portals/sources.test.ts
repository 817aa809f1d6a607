import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { freshSchema } from '../../test/tables';
import type { RunningServer } from '../server';
import { hashPassword } from '../sessions/passwords';
import { Builder } from '../store/models';

let plain: Connection;
let server: RunningServer;
let client: () => Client;
let builder: Client;
const at = '/builder/portals/alder-fen';

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'kept');
  await (await freshSchema(inject('database'), 'kept_own')).end();
  ({ server, client } = await demoServer(inject('database'), 'kept', 'kept_own'));
  builder = client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  await plain.query('USE kept');
});
afterAll(async () => {
  await server?.close();
  await plain?.end();
});

const open = { where: '', create: true, edit: true, delete: true, export: true, columns: {} };
const put = (table: string, change: object) => builder.send('PUT', `${at}/ceilings/${table}`, { ...open, ...change });

describe('ceilings', () => {
  it('hold where columns are named: rosters, rules, facts, suggestions, counts, pages; authors are told', async () => {
    const raw = (await builder.get(`${at}/members?search=Mara%20Lindqvist`)).body.members as { name: string }[];
    expect(raw.map((member) => member.name)).toContain('Mara Lindqvist');
    const revision = async () => (await builder.get(at)).body.revision as number;
    const rule = {
      see: {
        where: {
          kind: 'compare',
          left: { kind: 'column', path: ['phone'] },
          comparison: '=',
          right: { kind: 'text', text: 'x' },
        },
        columns: ['id', 'phone'],
      },
    };
    expect(
      (
        await builder.send('PATCH', `${at}/draft`, {
          revision: await revision(),
          label: 'Rule',
          patch: [{ op: 'add', path: '/access/samplers/accounts', value: rule }],
        })
      ).status,
    ).toBe(200);
    expect((await put('samplers', { columns: { name: 'nothing', phone: 'nothing' } })).status).toBe(200);
    // No roster reads it out, whatever is mapped to a member's name.
    const members = (await builder.get(`${at}/members?roster=samplers`)).body.members as { roles: string[] }[];
    expect(members.every((member) => member.roles.every((role) => role !== 'sampler'))).toBe(true);
    for (const text of ["name = 'Mara Lindqvist'", "phone LIKE '+44%'"]) {
      const answer = await builder.post(`${at}/condition`, { table: 'samplers', text, member: null });
      expect([text, answer.status, answer.body.detail]).toEqual([
        text,
        422,
        expect.stringMatching(/the ceiling lets nobody read samplers\.\w+, so no rule may ask it/),
      ]);
    }
    expect(
      (
        await builder.post(`${at}/condition`, {
          table: 'visits',
          text: 'sampler.name = :member.samplers.phone',
          member: null,
        })
      ).status,
    ).toBe(422);
    const titles = ((await builder.get(`${at}/findings`)).body.findings as { title: string }[]).map(
      (finding) => finding.title,
    );
    expect(titles).toEqual(
      expect.arrayContaining([
        "The roster samplers can't be read: the ceiling lets nobody read name",
        expect.stringMatching(
          /^The see filter of Accounts on samplers does not work: the ceiling lets nobody read samplers.phone/,
        ),
      ]),
    );
    expect(JSON.stringify((await builder.get(`${at}/data/samplers/suggestions`)).body)).not.toMatch(
      /"column":"(phone|name)"/,
    );
    expect((await put('samplers', {})).status).toBe(200);
    expect((await builder.post(`${at}/draft/undo`)).status).toBe(200);
    // A ceiling's own rule may ask what it closes.
    expect((await put('samplers', { where: "name <> 'x'", columns: { name: 'nothing' } })).status).toBe(200);
    expect((await builder.get(`${at}/all/records/samplers`)).body.total).toBe(14);
    expect((await put('samplers', {})).status).toBe(200);
  });

  it(
    'a record is named by another unique column where the definition says so, and so are links, edits and what ' +
      'belongs to it',
    async () => {
      const revision = (await builder.get(at)).body.revision as number;
      expect(
        (
          await builder.send('PATCH', `${at}/draft`, {
            revision,
            label: 'Address',
            patch: [{ op: 'add', path: '/tables/wells/address', value: 'code' }],
          })
        ).status,
      ).toBe(200);
      const [first] = (await builder.get(`${at}/all/records/wells`)).body.records as { id: string }[];
      expect(first!.id).toMatch(/^AF-\d{4}$/);
      const { record } = (await builder.get(`${at}/all/records/wells/${first!.id}`)).body as {
        record: { values: { code: string; parish: string } };
      };
      expect(record.values.code).toBe(first!.id);
      expect(
        (
          await builder.send('PATCH', `${at}/all/records/wells/${first!.id}?trial=true`, {
            changes: { parish: { from: record.values.parish, to: 'Saltby' } },
          })
        ).status,
      ).toBe(200);
      expect((await builder.get(`${at}/all/records/wells/1`)).status).toBe(404);
      expect((await builder.get(`${at}/all/records/wells/${first!.id}/related/visits`)).status).toBe(200);
      expect((await builder.get(`${at}/all/records/visits?columns=well.code`)).status).toBe(200);
      expect((await builder.post(`${at}/draft/undo`)).status).toBe(200);
    },
  );

  it('hold over members and builders alike, at once, until they are lifted', async () => {
    const member = client();
    await member.post('/portals/alder-fen/sign-in', { email: 'ines.brannock@example.org', password: demoPassword });
    const total = async () => (await member.get('/portals/alder-fen/records/wells')).body.total as number;
    const before = await total();
    expect(before).toBeGreaterThan(0);
    expect(
      (await put('wells', { where: "state = 'closed'", edit: false, columns: { code: 'nothing', depth_m: 'read' } }))
        .status,
    ).toBe(200);
    expect((await builder.get(`${at}/ceilings/wells`)).body).toEqual({
      ...open,
      where: "state = 'closed'",
      edit: false,
      columns: { code: 'nothing', depth_m: 'read' },
    });
    expect(await total()).toBeLessThan(before);
    const info = (await builder.get(`${at}/all/tables/wells`)).body;
    expect([
      info.changes,
      info.columns.some((column: { path: string }) => column.path === 'code'),
      info.fills.includes('depth_m'),
    ]).toEqual([[], false, false]);
    expect(
      (
        await builder.send(
          'PATCH',
          `${at}/all/records/wells/${(await builder.get(`${at}/all/records/wells`)).body.records[0].id}`,
          { changes: { parish: { from: null, to: 'x' } } },
        )
      ).status,
    ).toBe(403);
    // The rows under the ceiling are the builder's too.
    expect(
      (await builder.get(`${at}/all/records/wells?columns=state`)).body.records.every(
        (record: { values: { state: string } }) => record.values.state === 'closed',
      ),
    ).toBe(true);
    expect((await put('wells', { where: 'none = 1' })).status).toBe(422);
    expect((await put('wells', { columns: { none: 'read' } })).body.fields).toHaveProperty('columns');
    expect((await put('nowhere', {})).status).toBe(404);
    const [file] = [
      await builder.form(
        `${at}/files`,
        (() => {
          const form = new FormData();
          form.append('file', new Blob(['code,depth_m\nAF-0001,3\nNEW,4\n']), 'x.csv');
          return form;
        })(),
      ),
    ];
    for (let i = 0; i < 100 && (await builder.get(`${at}/jobs/${file.body.id}`)).body.state !== 'done'; i++)
      await new Promise((resolve) => setTimeout(resolve, 50));
    const read = (await builder.get(`${at}/jobs/${file.body.id}`)).body.result as { file: string };
    await put('wells', { create: false, edit: false });
    const looking = (
      await builder.post(`${at}/jobs`, {
        kind: 'look at an import',
        file: read.file,
        plan: {
          table: 'wells',
          key: 'code',
          unknown: 'add',
          known: 'change',
          empty: 'clear',
          columns: [
            { header: 'code', column: 'code' },
            { header: 'depth_m', column: 'depth_m' },
          ],
        },
      })
    ).body;
    for (
      let i = 0;
      i < 100 && !['done', 'failed'].includes((await builder.get(`${at}/jobs/${looking.id}`)).body.state);
      i++
    )
      await new Promise((resolve) => setTimeout(resolve, 50));
    expect((await builder.get(`${at}/jobs/${looking.id}`)).body.result.problem.fields).toEqual({
      depth_m: "The column depth_m can't be filled by you.",
    });
    await put('wells', {});
    expect(await total()).toBe(before);
  });
});

describe('looking again', () => {
  it('tells what has changed since, and which rules and pages that touches', async () => {
    expect((await builder.get(`${at}/look-again`)).body).toEqual({ first: true, changes: [] });
    await plain.query('ALTER TABLE visits ADD extra INT, MODIFY seal_number VARCHAR(99) NULL, DROP COLUMN access_note');
    await plain.query('CREATE TABLE newcomers (id INT PRIMARY KEY)');
    const { changes } = (await builder.get(`${at}/look-again`)).body as {
      changes: { what: string; table: string; column?: string; was?: string; is?: string; uses: string[] }[];
    };
    expect(
      changes.map(({ what, table, column, was, is }) => [what, table, column, was, is].filter(Boolean).join(' ')),
    ).toEqual([
      'column gone visits access_note',
      expect.stringMatching(/^column changed visits seal_number varchar\(\d+\) varchar\(99\)$/),
      'column added visits extra int(11)',
      'table added newcomers',
    ]);
    expect(changes[0]!.uses.some((use) => use.includes('Alder Fen Wells: what Sampler may do with visits'))).toBe(true);
    // What vanished is closed, not an error.
    const sampler = client();
    await sampler.post('/portals/alder-fen/sign-in', { email: 'ines.brannock@example.org', password: demoPassword });
    expect((await sampler.get('/portals/alder-fen/me')).status).toBe(200);
    expect((await builder.post(`${at}/look-again`)).status).toBe(204);
    expect((await builder.get(`${at}/look-again`)).body).toEqual({ first: false, changes: [] });
  });
});

describe('a connection', () => {
  it('is used by those builders that it is kept for, and by nobody else', async () => {
    await Builder.create({
      email: 'second@example.org',
      name: 'Second',
      passwordHash: await hashPassword(demoPassword),
    });
    const second = client();
    await second.post('/builder/sign-in', { email: 'second@example.org', password: demoPassword });
    const { builders } = (await builder.get('/builder/builders')).body as { builders: { id: number; email: string }[] };
    const me = builders.find((each) => each.email === 'builder@example.org')!.id;
    const { host, port, user, database } = inject('postgres');
    const form = {
      name: 'kept-pg',
      kind: 'postgresql',
      host,
      port,
      database,
      user,
      password: '',
      tls: 'off',
      builders: [me],
    };
    expect(
      (await builder.send('PUT', '/builder/connections', { ...form, builders: [me + 1] })).body.fields,
    ).toHaveProperty('builders');
    expect((await builder.send('PUT', '/builder/connections', form)).status).toBe(200);
    expect((await builder.get('/builder/connections')).body.connections).toHaveLength(1);
    expect((await second.get('/builder/connections')).body.connections).toEqual([]);
    for (const answer of [
      await second.get('/builder/connections/kept-pg/schemas'),
      await second.send('PUT', '/builder/connections', { ...form, builders: null }),
      await second.send('DELETE', '/builder/connections/kept-pg'),
      await second.post('/builder/portals', {
        slug: 'x',
        name: 'X',
        connection: 'kept-pg',
        schema: 'public',
        timeZone: 'UTC',
      }),
    ])
      expect([answer.status, answer.body.type]).toEqual([403, 'urn:stone-porch:problem:not-yours']);
    expect(
      (
        await builder.post('/builder/portals', {
          slug: 'kept',
          name: 'Kept',
          connection: 'kept-pg',
          schema: 'public',
          timeZone: 'UTC',
        })
      ).status,
    ).toBe(201);
    expect([
      (await builder.get('/builder/portals/kept')).status,
      (await second.get('/builder/portals/kept')).status,
    ]).toEqual([200, 403]);
  });
});
