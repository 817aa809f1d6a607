import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import type { PortalDefinition } from '../../core/definition/definition';
import { hashPassword } from '../sessions/passwords';
import { Builder, Connection, DraftEdit, Portal } from '../store/models';

/**
 * The product's own tables are nobody's source, and a connection that is kept for some builders is nobody else's,
 * whatever way a draft takes.
 */
let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
const bench = '/builder/portals/alder-fen';
const own = 'closed_own';

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'closed', own);
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
});
afterAll(async () => demo?.server.close());

const draft = async () => (await Portal.findOne({ where: { slug: 'alder-fen' }, rejectOnEmpty: true })).reload();
const patched = async (patch: object[]) =>
  builder.send('PATCH', `${bench}/draft`, { revision: (await draft()).revision, label: 'Try', patch });
const definition = async () => JSON.parse((await draft()).draft) as PortalDefinition;

describe("the product's own schema", () => {
  it('is reached by no patch, whatever its steps', async () => {
    const before = await definition();
    const value = { kind: 'mariadb', schema: own };
    const ways: object[][] = [
      [{ op: 'replace', path: '/source/schema', value: own }],
      [{ op: 'replace', path: '/source', value }],
      [{ op: 'replace', path: '', value: { ...before, source: value } }],
      [
        { op: 'replace', path: '/portal/name', value: own },
        { op: 'copy', from: '/portal/name', path: '/source/schema' },
      ],
      [
        { op: 'replace', path: '/portal/name', value: own },
        { op: 'move', from: '/portal/name', path: '/source/schema' },
        { op: 'add', path: '/portal/name', value: 'x' },
      ],
      [{ op: 'add', path: '/sources', value: { x: value } }],
      [{ op: 'add', path: '/source/tables', value: ['wells'] }],
      [{ op: 'replace', path: '/source/schema', value: own.toUpperCase() }],
      [
        { op: 'add', path: '/source/connection', value: 'same' },
        { op: 'replace', path: '/source/schema', value: own },
      ],
    ];
    for (const patch of ways)
      expect([patch, (await patched(patch)).status, await definition()]).toEqual([patch, 422, before]);
    // What is changed beside it is not kept from being changed.
    expect((await patched([{ op: 'copy', from: '/portal/slug', path: '/portal/name' }])).status).toBe(200);
    expect((await builder.post(`${bench}/draft/undo`)).status).toBe(200);
  });

  it('leaves a draft whose connection is moved away where it was', async () => {
    await Connection.destroy({ where: { name: 'same' } });
    const { host: _host, port, user, password } = inject('database');
    expect(
      (
        await builder.send('PUT', '/builder/connections', {
          name: 'same',
          kind: 'mariadb',
          host: '127.0.0.1',
          port,
          database: '',
          user,
          password,
          tls: 'off',
        })
      ).status,
    ).toBe(200);
    const whole = await definition();
    const connected = { ...whole, source: { kind: 'mariadb', connection: 'same', schema: 'closed' } };
    expect((await builder.send('PUT', `${bench}/definition`, connected)).status).toBe(200);
    // The schema's name is left, and means another server's schema: the issue's own move and copy.
    for (const path of ['/portal/name', '/portal/colour'])
      for (const op of ['move', 'copy'])
        expect((await patched([{ op, from: '/source/connection', path }])).status).toBe(
          op === 'move' ? 422 : path === '/portal/name' ? 200 : 422,
        );
    for (const schema of [own, own.toUpperCase()]) {
      for (const source of [
        { kind: 'mariadb', schema },
        { kind: 'mariadb', connection: 'same', schema },
      ]) {
        expect((await builder.send('PUT', `${bench}/definition`, { ...whole, source })).status).toBe(422);
        expect((await builder.send('PUT', `${bench}/definition`, { ...whole, sources: { x: source } })).status).toBe(
          422,
        );
      }
    }
    expect((await builder.send('PUT', `${bench}/definition`, whole)).status).toBe(200);
  });

  it('is not opened even where a draft names it already, nor brought back by undo', async () => {
    const portal = await draft();
    const whole = await definition();
    for (const schema of [own, own.toUpperCase(), 'mysql', 'Information_Schema']) {
      await portal.update({
        draft: JSON.stringify({ ...whole, source: { kind: 'mariadb', schema } }),
        revision: portal.revision + 1,
      });
      for (const path of ['/all/tables/builders', '/all/records/builders', '/data', '/shape', '/all/tables/user'])
        expect([schema, path, (await builder.get(`${bench}${path}`)).status]).toEqual([schema, path, 503]);
    }
    await portal.update({
      draft: JSON.stringify({ ...whole, source: { kind: 'mariadb', connection: 'same', schema: own } }),
      revision: portal.revision + 1,
    });
    expect((await builder.get(`${bench}/all/records/builders`)).status).toBe(503);
    await portal.update({ draft: JSON.stringify(whole), revision: portal.revision + 1 });
    await DraftEdit.create({
      portalId: portal.id,
      label: 'Once',
      forward: '[]',
      backward: JSON.stringify([{ op: 'replace', path: '/source/schema', value: own }]),
      undone: false,
      builderId: null,
      madeAt: new Date(),
    });
    expect((await builder.post(`${bench}/draft/undo`)).status).toBe(422);
    await DraftEdit.destroy({ where: { portalId: portal.id, label: 'Once' } });
    expect((await builder.get(`${bench}/all/records/wells`)).status).toBe(200);
  });
});

describe('a connection that is kept for some builders', () => {
  it(
    'keeps others out of a portal that has it in its draft or in any version, and what is done to members is in ' +
      'the log',
    async () => {
      const other = demo.client();
      await Builder.create({
        email: 'other@example.org',
        name: 'Other',
        passwordHash: await hashPassword(demoPassword),
      });
      await other.post('/builder/sign-in', { email: 'other@example.org', password: demoPassword });
      const whole = await definition();
      const connected = { ...whole, source: { kind: 'mariadb', connection: 'same', schema: 'closed' } };
      expect((await builder.send('PUT', `${bench}/definition`, connected)).status).toBe(200);
      expect(
        (
          await builder.post(`${bench}/versions`, {
            revision: (await draft()).revision,
            note: 'Connected',
            despite: 'test',
          })
        ).status,
      ).toBe(201);
      expect((await builder.send('PUT', `${bench}/definition`, whole)).status).toBe(200);
      expect(
        (
          await builder.post(`${bench}/versions`, {
            revision: (await draft()).revision,
            note: 'As before',
            despite: 'test',
          })
        ).status,
      ).toBe(201);
      const member = (await other.get(`${bench}/members?search=Mara%20Lindqvist`)).body.members[0].id as number;
      const me = (await builder.get('/builder/builders')).body.builders.find(
        (each: { email: string }) => each.email === 'builder@example.org',
      ).id as number;
      const { port, user } = inject('database');
      await builder.send('PUT', '/builder/connections', {
        name: 'same',
        kind: 'mariadb',
        host: '127.0.0.1',
        port,
        database: '',
        user,
        password: '',
        tls: 'off',
        builders: [me],
      });
      for (const [method, path, body] of [
        ['GET', '', undefined],
        ['GET', '/definition', undefined],
        ['GET', '/log', undefined],
        ['GET', `/as/${member}/me`, undefined],
        ['PUT', `/members/${member}/password`, { password: 'a password that is long' }],
        ['POST', '/versions/2/publish', {}],
        ['POST', '/members/refresh', {}],
      ] as const) {
        expect([path, (await other.send(method, `${bench}${path}`, body)).status]).toEqual([path, 403]);
      }
      const mara = demo.client();
      await mara.post('/portals/alder-fen/sign-in', { email: 'mara.lindqvist@example.org', password: demoPassword });
      expect(
        (await builder.send('PUT', `${bench}/members/${member}/password`, { password: 'a password that is long' }))
          .status,
      ).toBe(204);
      expect((await mara.get('/portals/alder-fen/me')).status).toBe(401);
      const [line] = (await builder.get(`${bench}/log`)).body.entries as { who: string; what: string; about: string }[];
      expect(line).toMatchObject({
        what: 'set a password',
        who: expect.stringContaining('builder@example.org'),
        about: expect.stringMatching(/^of Mara Lindqvist <.*signed in once and is not any more$/),
      });
    },
  );
});
