import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Client } from '../../test/server';
import { apiOf } from '../api';
import { bench, goodPassword, MailedPortal } from '../people/mails.fixture';
import type { Services } from '../portals/services';
import { Builder, BuilderLink, Portal, Setting } from '../store/models';
import { hashPassword } from './passwords';

let at: MailedPortal;

beforeAll(async () => {
  at = await MailedPortal.open(inject('database'), 'colleagues');
});
afterAll(async () => at?.close());

const wren = () => at.builder;
const signIn = async (email: string, password = goodPassword): Promise<{ client: Client; status: number }> => {
  const client = at.client();
  return { client, status: (await client.post('/builder/sign-in', { email, password })).status };
};
const make = async (email: string, right: 'owner' | 'builder' | 'reader', portals: string | null = null) => {
  const passwordHash = await hashPassword(goodPassword);
  await Builder.create({ email, name: email, right, portals, passwordHash });
  return (await signIn(email)).client;
};
const colleagues = async () =>
  (await wren().get('/builder/colleagues')).body.colleagues as { id: number; email: string }[];
const idOf = async (email: string) => (await colleagues()).find((each) => each.email === email)!.id;

/** Names that lead to something in the demo, so that what is refused is not merely nowhere. */
const named: Record<string, string> = {
  ':comment': '1',
  ':attachment': '1',
  ':slug': 'alder-fen',
  ':table': 'wells',
  ':column': 'code',
  ':member': '1',
  ':id': '1',
  ':page': 'my-wells',
  ':section': 'list',
  ':number': '1',
  ':role': 'desk',
  ':builder': '1',
  ':job': '1',
  ':done': '1',
  ':request': '1',
  ':mail': '1',
  ':call': '1',
  ':key': '1',
  ':kind': 'action',
  ':subject': 'nightly',
  ':brought': 'limits',
  ':file': 'f'.repeat(32),
};

describe('who builds', () => {
  it('a reader looks at everything and changes nothing, by no endpoint', async () => {
    const reader = await make('reader@example.org', 'reader');
    const before = JSON.stringify([await Portal.findAll(), await Builder.count()]);
    const endpoints = apiOf({ store: {} } as Services).flatMap(({ under, endpoints: own }) =>
      Object.values(own)
        .filter(({ needs }) => needs === 'builder')
        .map(({ method, path, reads }) => ({
          method,
          reads,
          path: (under + path).replaceAll(/:\w+/g, (name) => named[name] ?? 'x'),
        })),
    );
    // What they see to is their own way in.
    const changing = endpoints.filter(({ reads, path }) => !reads && !path.startsWith('/builder/own/'));
    expect(changing.length).toBeGreaterThan(60);
    for (const { method, path } of changing) {
      const { status, body } = await reader.send(method, path, {});
      expect([method, path, status, body?.type]).toEqual([method, path, 403, 'urn:stone-porch:problem:reader']);
    }
    for (const path of ['', '/findings', '/members', '/as/1/me', '/outbox', '/definition'])
      expect([path, (await reader.get(`${bench}${path}`)).status]).toEqual([path, 200]);
    const counted = { table: 'wells', text: "state = 'active'", member: null };
    expect((await reader.post(`${bench}/condition`, counted)).status).toBe(200);
    expect((await reader.get('/builder/colleagues')).status).toBe(403);
    expect(JSON.stringify([await Portal.findAll(), await Builder.count()])).toBe(before);
  });

  it('a builder of some portals finds no others, and makes their own', async () => {
    const builder = await make('some@example.org', 'builder', '[]');
    expect((await builder.get('/builder/portals')).body.portals).toEqual([]);
    expect((await builder.get(bench)).status).toBe(404);
    // Nor do they get at another portal's records by a portal of their own over its schema.
    const over = { slug: 'own-one', name: 'Own', schema: 'colleagues', timeZone: 'UTC' };
    expect((await builder.post('/builder/portals', over)).body.detail).toMatch(/no schema colleagues/);
    expect((await builder.get('/builder/schemas')).body.schemas).toEqual([]);
    const made = { ...over, schema: 'portal_colleagues', makeSchema: true };
    expect((await builder.post('/builder/portals', made)).status).toBe(201);
    expect((await builder.get('/builder/schemas')).body.schemas).toEqual(['portal_colleagues']);
    const own = '/builder/portals/own-one';
    const moved = (await builder.get(own)).body.draft;
    moved.source.schema = 'colleagues';
    expect((await builder.send('PUT', `${own}/definition`, moved)).status).toBe(422);
    expect((await builder.get(own)).body.draft.source.schema).toBe('portal_colleagues');
    expect((await builder.get('/builder/portals')).body.portals.map((each: { slug: string }) => each.slug)).toEqual([
      'own-one',
    ]);
    const change = { name: 'Some', right: 'builder', portals: ['alder-fen'], suspended: false };
    await wren().send('PUT', `/builder/colleagues/${await idOf('some@example.org')}`, change);
    expect([(await builder.get(bench)).status, (await builder.get(own)).status]).toEqual([200, 404]);
    // What holds for every portal is the owners': all codes and links go through the mail server.
    const before = JSON.stringify(await Setting.findByPk('mail server'));
    const server = { host: 'mail.example.org', port: 25, security: 'none', sender: 'x@example.org' };
    expect((await builder.send('PUT', `${bench}/mail-server`, server)).status).toBe(403);
    expect(JSON.stringify(await Setting.findByPk('mail server'))).toBe(before);
    for (const [method, path] of [
      ['GET', '/builder/colleagues'],
      ['POST', '/builder/colleagues'],
      ['PUT', '/builder/colleagues/1'],
      ['DELETE', '/builder/colleagues/1'],
      ['POST', '/builder/colleagues/1/link'],
      ['DELETE', '/builder/colleagues/1/sessions'],
      ['DELETE', '/builder/colleagues/1/second-factor'],
      ['GET', '/builder/colleagues/log'],
      ['GET', '/builder/sign-in/rules'],
      ['PUT', '/builder/sign-in/rules'],
      ['GET', '/builder/sign-in/provider'],
      ['PUT', '/builder/sign-in/provider/secret'],
      ['POST', '/builder/sign-in/provider/try'],
    ] as const)
      expect([path, (await builder.send(method, path, method === 'GET' ? undefined : {})).status]).toEqual([path, 403]);
  });

  it('is invited by mail, chooses a password once, and is shut out at once', async () => {
    const email = 'new.builder@example.org';
    const invitation = { name: 'New', email, right: 'builder', portals: null };
    expect((await wren().post('/builder/colleagues', invitation)).status).toBe(201);
    expect((await wren().post('/builder/colleagues', invitation)).body.fields.email).toMatch(/already/);
    const mail = await at.newest(email, 0);
    const token = /join#([\w-]+)/.exec(mail.parsed.text!)![1]!;
    expect(JSON.stringify(await BuilderLink.findAll())).not.toContain(token);
    const client = at.client();
    expect((await client.post('/builder/links/look', { token })).body).toEqual({
      name: 'New',
      email,
      isFirst: false,
      asksPassword: true,
    });
    const use = (password: string) => client.post('/builder/links/use', { token, password });
    expect((await use('short')).body.fields.password).toMatch(/15 characters/);
    expect((await use(goodPassword)).body).toEqual({ name: 'New', lacks: null });
    expect([(await client.get('/builder/me')).body.right, (await use(goodPassword)).status]).toEqual(['builder', 404]);
    const change = { name: 'New', right: 'builder', portals: null, suspended: true };
    await wren().send('PUT', `/builder/colleagues/${await idOf(email)}`, change);
    expect([(await client.get('/builder/me')).status, (await signIn(email)).status]).toEqual([401, 401]);
  });

  it('always has an owner', async () => {
    const id = await idOf('builder@example.org');
    const change = { name: 'Wren Ashby', right: 'reader', portals: null, suspended: false };
    expect((await wren().send('PUT', `/builder/colleagues/${id}`, change)).status).toBe(409);
    expect((await wren().send('DELETE', `/builder/colleagues/${id}`)).status).toBe(409);
    await make('second@example.org', 'owner');
    expect((await wren().send('PUT', `/builder/colleagues/${id}`, change)).status).toBe(204);
    expect((await wren().get('/builder/colleagues')).status).toBe(403);
  });
});
