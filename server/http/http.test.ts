import { raw } from '../../core/sql/sql';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { demoPassword } from '../../demo/load';
import { signInFailures, slowDown } from '../sessions/failures';
import { demoServer, type Client } from '../../test/server';
import { apiOf } from '../api';
import type { Services } from '../portals/services';
import { Member, Session } from '../store/people-models';
import { openApiDocument } from './open-api';

let demo: Awaited<ReturnType<typeof demoServer>>;
const portal = '/portals/alder-fen';
const builder = '/builder/portals/alder-fen';
const ines = { email: 'ines.brannock@example.org', password: demoPassword };

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'http', 'http_own');
});
afterAll(async () => demo?.server.close());

async function signedIn(who: { email: string; password: string } = ines, base = portal): Promise<Client> {
  const client = demo.client();
  expect((await client.post(`${base}/sign-in`, who)).status).toBe(200);
  return client;
}
const asBuilder = () => signedIn({ email: 'builder@example.org', password: demoPassword }, '/builder');

describe('signing in', () => {
  it('answers a wrong e-mail and a wrong password alike, and gives nothing without a session', async () => {
    const client = demo.client();
    const wrongPassword = await client.post(`${portal}/sign-in`, { ...ines, password: 'wrong' });
    const wrongEmail = await client.post(`${portal}/sign-in`, { email: 'nobody@example.org', password: 'wrong' });
    expect([wrongPassword.status, wrongPassword.body]).toEqual([401, wrongEmail.body]);
    expect(wrongPassword.headers.get('content-type')).toContain('application/problem+json');
    for (const path of ['/me', '/pages/my-wells/wells', '/records/wells', '/records/wells/231'])
      expect((await client.get(portal + path)).status).toBe(401);
    for (const path of ['', '/data', '/members', '/as/1/me', '/definition'])
      expect((await client.get(builder + path)).status).toBe(401);
  });

  it("sets cookies that scripts and other sites can't use, and keeps only their hash", async () => {
    const client = demo.client();
    const answer = await client.post(`${portal}/sign-in`, ines);
    const cookie = answer.headers.get('set-cookie')!;
    expect(cookie).toMatch(/HttpOnly/);
    expect(cookie).toMatch(/SameSite=Lax/);
    expect(cookie).toMatch(/Path=\/api\/portals\/alder-fen/);
    const token = /=([^;]+)/.exec(cookie)![1]!;
    expect(await Session.findAll({ where: { tokenHash: token } })).toEqual([]);
    const secure = await client.send('POST', `${portal}/sign-in`, ines, { 'x-forwarded-proto': 'https' });
    expect(secure.headers.get('set-cookie')).not.toMatch(/Secure/);
  });

  it('ends with signing out, with suspension, and with time', async () => {
    const client = await signedIn();
    expect((await client.get(`${portal}/me`)).status).toBe(200);
    await Member.update({ onRoster: false }, { where: { email: ines.email } });
    expect((await client.get(`${portal}/me`)).status).toBe(401);
    await Member.update({ onRoster: true }, { where: { email: ines.email } });
    expect((await client.get(`${portal}/me`)).status).toBe(200);
    await Session.update({ seenAt: new Date(Date.now() - 13 * 3_600_000) }, { where: {} });
    expect((await client.get(`${portal}/me`)).status).toBe(401);
    const again = await signedIn();
    expect((await again.post(`${portal}/sign-out`)).status).toBe(204);
    expect((await again.get(`${portal}/me`)).status).toBe(401);
  });

  it('slows down after ten wrong tries in a row, for the right password too, and only for that person', async () => {
    const victim = { email: 'mara.lindqvist@example.org', password: demoPassword };
    const client = demo.client();
    const wrong = () => client.post(`${portal}/sign-in`, { ...victim, password: 'wrong' });
    for (let i = 0; i < 9; i++) expect((await wrong()).status).toBe(401);
    await signedIn(victim);
    for (let i = 0; i < 10; i++) expect((await wrong()).status).toBe(401);
    const answer = await client.post(`${portal}/sign-in`, victim);
    expect([answer.status, answer.body.detail]).toEqual([
      429,
      'Too many wrong tries. Wait 15 minutes, then try again.',
    ]);
    expect(Number(answer.headers.get('retry-after'))).toBeGreaterThan(800);
    expect((await client.post(`${portal}/sign-in`, ines)).status).toBe(200);
  });
});

describe('many tries at once', () => {
  it('are counted before they are checked, and slow an address down instead of locking it for others', async () => {
    const [victim] = (await demo.client().get(`${portal}/door`)).body.demo.people.filter(
      (person: { role: string }) => person.role === 'Accounts',
    ) as { email: string }[];
    const tried = async (): Promise<number> => {
      const { status } = await demo.client().post(`${portal}/sign-in`, { email: victim!.email, password: 'wrong' });
      // What a slow machine has no time for is no try: it comes again.
      return status === 503 ? tried() : status;
    };
    const statuses = await Promise.all(Array.from({ length: 120 }, tried));
    const counted = Object.fromEntries(
      [...new Set(statuses)].map((of) => [of, statuses.filter((each) => each === of).length]),
    );
    expect(counted).toEqual({ 401: 10, 429: 110 });
    // Of others nobody is kept out, however many wrong tries came from the address.
    const waits: number[] = [];
    const failures = signInFailures(demo.server.services.store.sequelize, (milliseconds) => {
      waits.push(milliseconds);
      return Promise.resolve();
    });
    for (let i = 0; i < 130; i++) expect(await failures.begin(`p\n${i}`, 'one address')).toBe(0);
    expect(await failures.begin('p\nsomebody else', 'one address')).toBe(0);
    expect([
      waits.slice(0, 100).every((wait) => wait === 0),
      waits.slice(100).every((wait, i) => wait === (i + 1) * 50),
      slowDown(1e6),
    ]).toEqual([true, true, 5000]);
    await failures.succeeded('p\nsomebody else', 'one address');
    await failures.begin('p\nsomebody else', 'one address');
    expect(waits.at(-1)).toBe(waits.at(-2));
  });
});

describe('requests', () => {
  it('are refused when another site sends them', async () => {
    const client = await signedIn();
    const change = { changes: { phone: { from: 'x', to: 'y' } } };
    const patch = (headers: Record<string, string>) =>
      client.send('PATCH', `${portal}/records/owners/17`, change, headers);
    expect((await patch({ origin: 'https://elsewhere.example' })).status).toBe(403);
    expect((await patch({ 'sec-fetch-site': 'cross-site' })).status).toBe(403);
    expect((await patch({ 'sec-fetch-site': 'same-site' })).status).toBe(403);
    const response = await fetch(`${demo.base}/api${portal}/sign-in`, {
      method: 'POST',
      body: new URLSearchParams(ines),
    });
    expect(response.status).toBe(403);
    expect((await patch({ origin: demo.base, 'sec-fetch-site': 'same-origin' })).status).toBe(409);
  });

  it('are told of by the document that is served', async () => {
    const served: unknown = await (await fetch(`${demo.base}/api/openapi.json`)).json();
    expect(served).toEqual(JSON.parse(JSON.stringify(openApiDocument(apiOf({ store: {} } as Services)))));
  });

  it('carry strict headers and are not kept by caches', async () => {
    const { headers } = await demo.client().get(`${portal}/door`);
    expect(headers.get('content-security-policy')).toBe("default-src 'none'; frame-ancestors 'none'");
    const page = (await fetch(`${demo.base}/elsewhere`)).headers.get('content-security-policy')!;
    expect(page).toContain("script-src 'self'");
    expect(/script-src[^;]*unsafe/.test(page)).toBe(false);
    expect([headers.get('cache-control'), headers.get('x-content-type-options'), headers.get('x-powered-by')]).toEqual([
      'no-store',
      'nosniff',
      null,
    ]);
  });

  it("that can't be read get a sentence and no stack", async () => {
    const client = await signedIn();
    const cases: [string, string, unknown, number][] = [
      ['POST', `${portal}/sign-in`, '{"email":', 400],
      ['POST', `${portal}/sign-in`, { email: ['a'], password: 'x' }, 400],
      ['PATCH', `${portal}/records/owners/17`, { changes: {} }, 400],
      ['PATCH', `${portal}/records/owners/17`, { changes: { phone: 'x' } }, 400],
      ['GET', `${portal}/pages/my-wells/wells?size=5000`, undefined, 400],
      ['GET', `${portal}/pages/my-wells/none`, undefined, 404],
      ['GET', `${portal}/pages/my-visits/visits`, undefined, 404],
      ['GET', `${portal}/records/wells?filter=${encodeURIComponent('code = ')}`, undefined, 422],
      ['GET', `${portal}/records/wells?filter=${encodeURIComponent('code = :member.organisation')}`, undefined, 422],
      ['GET', `${portal}/records/wells?sort=${encodeURIComponent('a;b')}`, undefined, 400],
      ['GET', `${portal}/records/wells?after=x&before=y`, undefined, 400],
      ['GET', '/nowhere', undefined, 404],
      ['GET', '/portals/none/door', undefined, 404],
    ];
    for (const [method, path, body, status] of cases) {
      const answer = await client.send(method, path, body);
      expect([path, answer.status]).toEqual([path, status]);
      expect(answer.body.detail.length).toBeGreaterThan(10);
      expect(JSON.stringify(answer.body)).not.toMatch(/node_modules|\.ts:|SELECT/);
    }
  });
});

describe('a member', () => {
  it("gets their pages and records, and another's by no way", async () => {
    const client = await signedIn();
    const me = await client.get(`${portal}/me`);
    expect(me.body.pages.map((page: { id: string }) => page.id)).toEqual([
      'home',
      'my-wells',
      'visits',
      'my-details',
      'my-results',
      'advisories',
      'ask-visit',
      'doubt',
    ]);
    expect(
      (await client.get(`${portal}/pages/my-wells/wells`)).body.records.map(
        (record: { values: { code: string } }) => record.values.code,
      ),
    ).toEqual(['AF-0231', 'AF-0232', 'AF-0419']);
    for (const path of ['/records/wells/1', '/records/owners/18', '/records/samplers', '/records/labs/1'])
      expect((await client.get(portal + path)).status).toBe(404);
    expect(
      (await client.send('PATCH', `${portal}/records/owners/18`, { changes: { phone: { from: null, to: 'x' } } }))
        .status,
    ).toBe(404);
  });

  it('has the roles of their roster rows as they are now', async () => {
    const both = await signedIn({
      email: (await Member.findAll()).find(
        (each) => each.email.endsWith('4@example.org') && each.email.startsWith('fenner.quillfeather'),
      )!.email,
      password: demoPassword,
    });
    expect((await both.get(`${portal}/me`)).body.member.roles).toEqual(['Well owner', 'Sampler']);
    // The roster row changes hands: the old person keeps no right of it.
    const source = demo.server.services.sources.get('http');
    await source.write(raw("UPDATE samplers SET email = 'someone.new@example.org' WHERE id = 4"));
    expect((await both.get(`${portal}/me`)).body.member.roles).toEqual(['Well owner']);
    expect((await both.get(`${portal}/pages/my-visits/visits`)).status).toBe(404);
  });
});

describe('a builder', () => {
  it("edits the draft, undoes and redoes, and is told of another's change", async () => {
    const client = await asBuilder();
    const start = (await client.get(builder)).body;
    const edit = (revision: number, value: string) =>
      client.send('PATCH', `${builder}/draft`, {
        revision,
        label: `Call it ${value}`,
        patch: [{ op: 'replace', path: '/portal/name', value }],
      });
    const first = await edit(start.revision, 'First');
    expect([first.status, first.body.draft.portal.name, first.body.undo]).toEqual([200, 'First', 'Call it First']);
    const stale = await edit(start.revision, 'Stale');
    expect([stale.status, stale.body.type]).toEqual([409, 'urn:stone-porch:problem:draft-changed']);
    const second = await edit(first.body.revision, 'Second');
    const undone = await client.post(`${builder}/draft/undo`);
    expect([undone.body.draft.portal.name, undone.body.undo, undone.body.redo]).toEqual([
      'First',
      'Call it First',
      'Call it Second',
    ]);
    expect((await client.post(`${builder}/draft/redo`)).body.draft).toEqual(second.body.draft);
    await client.post(`${builder}/draft/undo`);
    await client.post(`${builder}/draft/undo`);
    expect((await client.get(builder)).body.draft).toEqual(start.draft);
    const broken = await client.send('PATCH', `${builder}/draft`, {
      revision: (await client.get(builder)).body.revision,
      label: 'Break',
      patch: [{ op: 'replace', path: '/portal/colour', value: 'blue' }],
    });
    expect([broken.status, broken.body.faults[0].place]).toEqual([422, '/portal/colour']);
    const away = await client.send('PATCH', `${builder}/draft`, {
      revision: (await client.get(builder)).body.revision,
      label: 'Away',
      patch: [{ op: 'replace', path: '/source/schema', value: 'http_own' }],
    });
    expect(away.status).toBe(422);
    expect((await client.get(builder)).body.draft).toEqual(start.draft);
  });

  it('publishes versions that members get only then, and an older one again', async () => {
    const client = await asBuilder();
    const member = await signedIn();
    const name = async () => (await member.get(`${portal}/me`)).body.portal.name;
    const { revision } = (await client.get(builder)).body;
    await client.send('PATCH', `${builder}/draft`, {
      revision,
      label: 'Name',
      patch: [{ op: 'replace', path: '/portal/name', value: 'Newer wells' }],
    });
    expect(await name()).toBe('Alder Fen Wells');
    expect((await client.post(`${builder}/versions`, { revision, note: '' })).status).toBe(409);
    expect((await client.post(`${builder}/versions`, { revision: revision + 1, note: 'A new name' })).body).toEqual({
      version: 2,
    });
    expect(await name()).toBe('Newer wells');
    expect((await client.post(`${builder}/versions/1/publish`)).status).toBe(204);
    expect(await name()).toBe('Alder Fen Wells');
    expect((await client.post(`${builder}/versions/7/publish`)).status).toBe(404);
    expect(
      (await client.get(`${builder}/versions`)).body.versions.map((version: { number: number }) => version.number),
    ).toEqual([2, 1]);
  });

  it('sees the draft as a member and changes nothing by it', async () => {
    const client = await asBuilder();
    const found = (await client.get(`${builder}/members?search=ines.brannock`)).body.members[0];
    const as = `${builder}/as/${found.id}`;
    expect((await client.get(`${as}/table/wells`)).body).toEqual({ seen: 3, total: 520 });
    expect((await client.get(`${as}/table/samples`)).body).toEqual({ seen: 26, total: 5000 });
    expect((await client.get(`${as}/table/labs`)).body).toEqual({ seen: 0, total: 3 });
    expect(
      (await client.send('PATCH', `${as}/records/owners/17`, { changes: { phone: { from: null, to: 'x' } } })).status,
    ).toBe(403);
    expect((await client.get(`${as}/why/owners/17?column=tax_number`)).body.cell).toEqual({
      level: 'masked',
      mask: { style: 'keep last', count: 3 },
    });
    const member = await signedIn();
    expect((await member.get(as + '/me')).status).toBe(401);
  });

  it('sees a version as a member, on the records of today, whatever the draft says by then', async () => {
    const client = await asBuilder();
    const found = (await client.get(`${builder}/members?search=ines.brannock`)).body.members[0];
    const { draft, revision, publishedVersion } = (await client.get(builder)).body;
    const changed = structuredClone(draft);
    changed.access.wells.well_owner.see.where = { kind: 'null', left: { kind: 'column', path: ['id'] } };
    expect((await client.send('PUT', `${builder}/definition?revision=${revision}`, changed)).status).toBe(200);
    const seen = async (who: string) => (await client.get(`${builder}/as/${who}/table/wells`)).body.seen;
    expect([await seen(`${found.id}`), await seen(`${found.id}@${publishedVersion}`)]).toEqual([0, 3]);
    const page = (await client.get(`${builder}/as/${found.id}@${publishedVersion}/me`)).body;
    expect(page.pages.map(({ id }: { id: string }) => id)).toContain('my-wells');
    const [line] = (await client.get(`${builder}/log`)).body.entries;
    expect(line.about).toBe(`Ines Brannock <ines.brannock@example.org>, in version ${publishedVersion}`);
    for (const who of [`${found.id}@99`, `${found.id}@1x`, `@${publishedVersion}`, `visitor@0`])
      expect([who, (await client.get(`${builder}/as/${who}/me`)).status]).toEqual([who, 404]);
    expect((await client.post(`${builder}/draft/undo`)).status).toBe(200);
  });

  it('makes a portal over a schema that may be connected, at an address that is free', async () => {
    const client = await asBuilder();
    const make = (change: object) =>
      client.post('/builder/portals', {
        slug: 'second',
        name: 'Second',
        schema: 'http',
        timeZone: 'Europe/Berlin',
        ...change,
      });
    expect((await client.get('/builder/schemas')).body.schemas).not.toContain('http_own');
    expect((await make({ schema: 'http_own' })).body.fields).toEqual({
      schema: 'There is no such schema. Choose one from the list.',
    });
    expect((await make({ slug: 'Not an address' })).status).toBe(422);
    expect((await make({ timeZone: 'Moon' })).body.faults[0].place).toBe('/portal/timeZone');
    expect((await make({})).status).toBe(201);
    expect((await make({})).body.fields).toEqual({ slug: 'This address is already taken. Choose another.' });
    expect((await client.get('/builder/portals/second')).body).toMatchObject({
      revision: 1,
      publishedVersion: null,
      changes: 0,
    });
    expect((await client.get('/portals/second/door')).status).toBe(404);
  });

  it("sets a member's password, which ends their sessions, and never a short one", async () => {
    const client = await asBuilder();
    const member = await signedIn();
    const { id } = (await client.get(`${builder}/members?search=ines.brannock`)).body.members[0];
    expect((await client.send('PUT', `${builder}/members/${id}/password`, { password: 'short' })).status).toBe(422);
    expect((await member.get(`${portal}/me`)).status).toBe(200);
    expect((await client.send('PUT', `${builder}/members/${id}/password`, { password: demoPassword })).status).toBe(
      204,
    );
    expect((await member.get(`${portal}/me`)).status).toBe(401);
    expect((await client.send('PUT', `${builder}/members/999999/password`, { password: demoPassword })).status).toBe(
      404,
    );
  });

  it('exports the definition and applies it again; a broken one changes nothing', async () => {
    const client = await asBuilder();
    const exported = (await client.get(`${builder}/definition`)).body;
    const changed = structuredClone(exported);
    changed.roles[0].name = 'Owner of a well';
    expect((await client.send('PUT', `${builder}/definition`, changed)).body.draft.roles[0].name).toBe(
      'Owner of a well',
    );
    const bad = await client.send('PUT', `${builder}/definition`, { ...changed, masks: [{}] });
    expect([bad.status, bad.body.faults.length > 1]).toEqual([422, true]);
    expect(
      (
        await client.send('PUT', `${builder}/definition`, {
          ...changed,
          source: { kind: 'mariadb', schema: 'http_own' },
        })
      ).status,
    ).toBe(422);
    expect((await client.get(`${builder}/definition`)).body).toEqual(changed);
    await client.post(`${builder}/draft/undo`);
    expect((await client.get(`${builder}/definition`)).body).toEqual(exported);
  });
});
