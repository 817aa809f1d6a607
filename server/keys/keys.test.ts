import { Ajv2020 } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { parse } from 'csv-parse/sync';
import { createConfig, lintFromString, stringifyYaml } from '@redocly/openapi-core';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
import { raw } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { demoServer, type Answer, type Client } from '../../test/server';
import { AuditEntry, Builder } from '../store/models';
import { ServiceKey } from '../store/key-models';

/** Programs with keys, on the demo; what is in its tables is read with plain SQL. */

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
const bench = '/builder/portals/alder-fen';
const api = '/v1/portals/alder-fen';
const rows = (text: string) => demo.server.services.sources.get('keyed').rows(raw(text));

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'keyed', 'keyed_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  const { draft } = (await builder.get(bench)).body as { draft: PortalDefinition };
  draft.access.samples!.bottle_tracker!.edit = { where: 'as seen', columns: ['received_at'] };
  draft.access.advisories = {
    ...draft.access.advisories,
    // It may only add, and sees none of them.
    bottle_tracker: { create: { columns: ['parish', 'title', 'text', 'published'] } },
    post: { create: { columns: ['parish', 'title', 'text', 'published'] } },
  };
  const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body as { revision: number };
  expect((await builder.post(`${bench}/versions`, { revision, note: '', despite: 'a test' })).status).toBe(201);
});
afterAll(async () => demo?.server.close());

interface Made {
  id: number;
  key: string;
}

const make = async (more: object = {}): Promise<Made> => {
  const { status, body } = await builder.post(`${bench}/keys`, { role: 'bottle_tracker', name: 'Tracker', ...more });
  expect([status, body.detail]).toEqual([201, undefined]);
  return body as Made;
};

/** Asks with a key and nothing else that a browser would send. */
const by = (key: string | null) => {
  const client = demo.client();
  return (method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<Answer> =>
    client.send(method, `${api}${path}`, body, {
      ...(key === null ? {} : { authorization: `Bearer ${key}` }),
      ...headers,
    });
};

describe('a key', () => {
  it('gets what its service sees, and nothing of what it does not', async () => {
    const { key } = await make();
    const ask = by(key);
    const { status, body, headers } = await ask('GET', '/records/samples?size=200&sort=bottle_code');
    expect(status).toBe(200);
    const plain = await rows('SELECT bottle_code, lab_id FROM samples ORDER BY bottle_code LIMIT 200');
    const found = body.records as { id: string; values: Record<string, unknown> }[];
    expect(found.map(({ values }) => [values.bottle_code, values.lab_id])).toEqual(plain);
    expect(Object.keys(found[0]!.values).toSorted()).toEqual(['bottle_code', 'lab_id', 'received_at']);
    // The next page is where the link says (RFC 8288).
    const [, next] = /<([^>]+)>; rel="next"/.exec(headers.get('link')!)!;
    const second = (await ask('GET', next!.replace(`/api${api}`, ''))).body.records as typeof found;
    const after = await rows('SELECT bottle_code FROM samples ORDER BY bottle_code LIMIT 200, 1');
    expect(second[0]!.values.bottle_code).toBe(after[0]![0]);
    for (const path of [
      '/records/owners',
      '/records/wells/1',
      '/tables/visits',
      `/records/samples/${found[0]!.id}/history`,
    ])
      expect([path, (await ask('GET', path)).status]).toEqual([path, 404]);
    const hidden = (await ask('GET', '/records/samples?columns=visit_id,bottle_code')).body.records as typeof found;
    expect(Object.keys(hidden[0]!.values)).toEqual(['bottle_code']);
    const other = await ask('PATCH', `/records/samples/${found[0]!.id}`, { changes: { lab_id: { from: 1, to: 2 } } });
    expect([422, 403, 404]).toContain(other.status);
    // Of what it may only add it is told nothing.
    const values = { parish: 'Harrow End', title: 'Boil it', text: 'Until Monday.', published: false };
    const added = await ask('POST', '/records/advisories', { values });
    expect([added.status, added.body]).toEqual([201, { id: null, record: null }]);
    expect((await ask('GET', '/records/advisories')).status).toBe(404);
    expect(await rows("SELECT parish, text FROM advisories WHERE title = 'Boil it'")).toEqual([
      ['Harrow End', 'Until Monday.'],
    ]);
  });

  it('is told once, kept as a hash, and known by its beginning and when it was used', async () => {
    const { id, key } = await make({ name: 'Once' });
    const { keys } = (await builder.get(`${bench}/keys`)).body as { keys: Record<string, unknown>[] };
    expect(JSON.stringify(keys)).not.toContain(key.slice(20));
    const info = () => keys.find((each) => each.id === id)!;
    expect([key.startsWith(String(info().beginning)), info().usedAt, info().holds]).toEqual([true, null, true]);
    const kept = (await ServiceKey.findByPk(id))!;
    expect(JSON.stringify(kept)).not.toContain(key.slice(20));
    await by(key)('GET', '/tables/samples');
    const used = (await builder.get(`${bench}/keys`)).body.keys.find((each: { id: number }) => each.id === id);
    expect([used.usedAt === null, /127\.0\.0\.1$|::1$/.test(used.usedFrom)]).toEqual([false, true]);
  });

  it('ends at once, on its day, or some hours after it was replaced; no other key lets in', async () => {
    const status = async (key: string | null) => (await by(key)('GET', '/tables/samples')).status;
    const { id, key } = await make({ name: 'To end' });
    expect(await status(key)).toBe(200);
    const answer = await builder.post(`${bench}/keys/${id}/replacement`, { hours: 2 });
    const next = answer.body as Made;
    expect([await status(key), await status(next.key)]).toEqual([200, 200]);
    await ServiceKey.update({ endsAt: new Date(Date.now() - 1000) }, { where: { id } });
    expect([await status(key), await status(next.key)]).toEqual([401, 200]);
    expect((await builder.send('DELETE', `${bench}/keys/${next.id}`)).status).toBe(204);
    const over = await by(next.key)('GET', '/tables/samples');
    expect([over.status, over.headers.get('www-authenticate')]).toEqual([401, 'Bearer']);
    expect((await builder.send('DELETE', `${bench}/keys/${next.id}`)).status).toBe(404);
    expect([await status(null), await status(`${key.slice(0, -1)}x`)]).toEqual([401, 401]);
    // Nor at another portal, nor in the place of a session.
    const { key: good } = await make();
    const client = demo.client();
    const bearer = { authorization: `Bearer ${good}` };
    expect((await client.send('GET', '/v1/portals/other/tables/samples', undefined, bearer)).status).toBe(401);
    expect((await client.send('GET', '/portals/alder-fen/me', undefined, bearer)).status).toBe(401);
    expect((await client.send('GET', bench, undefined, bearer)).status).toBe(401);
    const written = await AuditEntry.findAll({ where: { who: 'A program' } });
    expect(written.map(({ what }) => what)).toContain('refused a key');
  });

  it('is made by nobody who is kept from personal data: all is read by it that its service sees', async () => {
    const { id } = await make();
    const before = await ServiceKey.count();
    await Builder.update({ seesPersonal: false }, { where: {} });
    try {
      for (const [path, body] of [
        ['/keys', { role: 'bottle_tracker', name: 'x' }],
        [`/keys/${id}/replacement`, {}],
      ] as const)
        expect([path, (await builder.post(`${bench}${path}`, body)).status]).toEqual([path, 403]);
    } finally {
      await Builder.update({ seesPersonal: true }, { where: {} });
    }
    expect(await ServiceKey.count()).toBe(before);
  });

  it('is of a role of services, with an end to come and addresses that there are', async () => {
    for (const [body, status] of [
      [{ role: 'desk', name: 'x' }, 404],
      [{ role: 'bottle_tracker', name: ' ' }, 400],
      [{ role: 'bottle_tracker', name: 'x', addresses: ['10.0.0.0/99'] }, 422],
      [{ role: 'bottle_tracker', name: 'x', endsAt: '2020-01-01T00:00:00Z' }, 422],
    ] as const)
      expect([body, (await builder.post(`${bench}/keys`, body)).status]).toEqual([body, status]);
  });

  it('is used from its addresses alone, and so often a minute', async () => {
    const far = await make({ addresses: ['10.0.0.0/8', '2001:db8::/32'] });
    const refused = await by(far.key)('GET', '/tables/samples');
    expect([refused.status, refused.body.type]).toEqual([403, 'urn:stone-porch:problem:key-elsewhere']);
    const near = await make({ addresses: ['127.0.0.0/8', '::1'], aMinute: 3 });
    const seen: [number, string | null][] = [];
    for (let i = 0; i < 4; i++) {
      const { status, headers } = await by(near.key)('GET', '/tables/samples');
      seen.push([status, /r=(\d+)/.exec(headers.get('ratelimit')!)![1]!]);
      if (status === 429) expect(Number(headers.get('retry-after'))).toBeGreaterThan(0);
    }
    expect(seen).toEqual([
      [200, '2'],
      [200, '1'],
      [200, '0'],
      [429, '0'],
    ]);
  });

  it('adds once by an Idempotency-Key, and changes only what is as it was seen', async () => {
    const ask = by((await make()).key);
    const values = { parish: 'Harrow End', title: 'Once alone', text: 'Text.', published: false };
    const once = { 'idempotency-key': 'one-and-the-same-of-this-test' };
    const all = await Promise.all([1, 2, 3].map(() => ask('POST', '/records/advisories', { values }, once)));
    expect(all.map(({ status }) => status).every((status) => status === 201 || status === 409)).toBe(true);
    expect((await ask('POST', '/records/advisories', { values }, once)).status).toBe(201);
    const counted = await rows("SELECT COUNT(*) FROM advisories WHERE title = 'Once alone'");
    expect(Number(counted[0]![0])).toBe(1);
    const other = await ask('POST', '/records/advisories', { values: { ...values, title: 'Another' } }, once);
    expect([other.status, other.body.type]).toEqual([422, 'urn:stone-porch:problem:key-of-another']);
    expect((await ask('POST', '/records/advisories', { values }, { 'idempotency-key': 'short' })).status).toBe(400);
    // One of another role that takes the same key adds its own, and is told nothing of this one.
    const postman = by((await make({ role: 'post' })).key);
    expect((await postman('POST', '/records/advisories', { values }, once)).status).toBe(201);
    expect(await rows("SELECT COUNT(*) FROM advisories WHERE title IN ('Once alone', 'Another')")).toEqual([[2n]]);

    const [[id]] = (await rows('SELECT id FROM samples WHERE received_at IS NOT NULL LIMIT 1')) as [[number]];
    const at = `/records/samples/${id}`;
    const read = await ask('GET', at);
    const tag = read.headers.get('etag')!;
    expect((await ask('GET', at, undefined, { 'if-none-match': tag })).status).toBe(304);
    const change = (to: string, ifMatch: string) =>
      ask(
        'PATCH',
        at,
        { changes: { received_at: { from: read.body.record.values.received_at, to } } },
        { 'if-match': ifMatch },
      );
    expect((await change('2026-02-03 10:00:00', '"another"')).status).toBe(412);
    expect((await change('2026-02-03 10:00:00', tag)).status).toBe(200);
    expect((await change('2026-02-03 11:00:00', tag)).status).toBe(412);
    expect((await ask('GET', at, undefined, { 'if-none-match': tag })).status).toBe(200);
  });

  it('has a document of its own: sound OpenAPI 3.1, true of its answers, and of nothing that it has not', async () => {
    const ask = by((await make()).key);
    const { body: document } = await ask('GET', '/openapi.json');
    // @redocly/openapi-core says what is sound, ajv what is true.
    const config = await createConfig({
      extends: ['spec'],
      rules: {
        struct: 'error',
        'no-unresolved-refs': 'error',
        'operation-operationId-unique': 'error',
        'security-defined': 'error',
      },
    });
    const lint = await lintFromString({ source: stringifyYaml(document), config });
    expect(lint.map(({ message }) => message)).toEqual([]);
    const at = `/api${api}/records`;
    const operations = Object.entries(document.paths as Record<string, object>).flatMap(([path, item]) =>
      Object.keys(item)
        .filter((each) => each !== 'parameters')
        .map((method) => `${method} ${path}`),
    );
    expect(operations.toSorted()).toEqual(
      [`get ${at}/samples`, `get ${at}/samples/{id}`, `patch ${at}/samples/{id}`, `post ${at}/advisories`].toSorted(),
    );
    expect(JSON.stringify(document)).not.toMatch(/visit_id|owners|temperature/);
    const ajv = new Ajv2020({ strict: false });
    addFormats.default(ajv);
    ajv.addSchema(document as object, 'doc');
    const schemaOf = (path: string, method: string, status: string) => {
      const place = ['paths', path, method, 'responses', status, 'content', 'application/json', 'schema'];
      return ajv.getSchema(
        `doc#/${place.map((part) => encodeURIComponent(part.replaceAll('~', '~0').replaceAll('/', '~1'))).join('/')}`,
      )!;
    };
    const list = schemaOf(`${at}/samples`, 'get', '200');
    const { body } = await ask('GET', '/records/samples?size=100');
    expect([list(body), list.errors]).toEqual([true, null]);
    expect(list({ ...body, records: [{ id: 1 }] })).toBe(false);
    const one = schemaOf(`${at}/samples/{id}`, 'get', '200');
    expect(one((await ask('GET', `/records/samples/${body.records[0].id}`)).body)).toBe(true);
  });

  it('gets a page as CSV and as JSON lines where it says so, or is told what there is', async () => {
    const ask = by((await make()).key);
    const as = (accept: string, path = '/records/samples?size=7&sort=bottle_code') =>
      ask('GET', path, undefined, { accept });
    const plain = await rows('SELECT bottle_code FROM samples ORDER BY bottle_code LIMIT 7');
    const codes = plain.map(([code]) => String(code));
    const csv = await as('text/csv');
    expect([csv.status, csv.headers.get('content-type')]).toEqual([200, 'text/csv; charset=utf-8']);
    // csv-parse reads it.
    expect(parse<Record<string, string>>(csv.body, { columns: true }).map((line) => line.bottle_code)).toEqual(codes);
    expect(csv.headers.get('link')).toContain('rel="next"');
    const lines = await as('application/jsonl, text/html;q=0.5');
    expect(lines.headers.get('vary')).toContain('Accept');
    const read = String(lines.body)
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as object);
    expect(read.map((each) => [Object.keys(each).toSorted(), (each as { bottle_code: string }).bottle_code])).toEqual(
      codes.map((code) => [['bottle_code', 'lab_id', 'received_at'].filter((name) => name in read[0]!), code]),
    );
    expect((await as('*/*')).body.records).toHaveLength(7);
    const neither = await as('image/png');
    expect([neither.status, neither.body.detail]).toEqual([406, expect.stringContaining('text/csv')]);
    // What it may not take out whole it has no file of, however it asks.
    expect((await as('text/csv', '/exports/samples')).status).toBe(404);
  });

  it('has its document as a page, which says what it has and nothing else, to whoever made it too', async () => {
    const { id, key } = await make({ name: '<b>Reader</b>' });
    const page = await by(key)('GET', '/reference');
    const atBench = await builder.get(`${bench}/keys/${id}/reference`);
    for (const { status, body, headers } of [page, atBench]) {
      expect([status, headers.get('content-type')]).toEqual([200, 'text/html; charset=utf-8']);
      expect(body).toContain('GET /api/v1/portals/alder-fen/records/samples/{id}');
      expect(body).toContain('&lt;b&gt;Reader&lt;/b&gt;');
      expect(body).not.toMatch(/visit_id|owners|temperature|<b>|<script|https?:/);
    }
    expect(page.body).toBe(atBench.body);
    expect((await builder.get(`${bench}/keys/999/reference`)).status).toBe(404);
  });

  it('that is guessed is told to wait after some tries, and keeps no other key out', async () => {
    const { key } = await make();
    const statuses: number[] = [];
    for (let i = 0; i < 30; i++) statuses.push((await by(`porch.guess.${i}`)('GET', '/tables/samples')).status);
    expect([statuses[0], statuses.at(-1)]).toEqual([401, 429]);
    expect((await by(key)('GET', '/tables/samples')).status).toBe(200);
  });
});

it('ends with its role, also where another is made later under the same id', async () => {
  const publish = async (change: (draft: PortalDefinition) => void): Promise<void> => {
    const { draft } = (await builder.get(bench)).body as { draft: PortalDefinition };
    change(draft);
    const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body as { revision: number };
    expect((await builder.post(`${bench}/versions`, { revision, note: '', despite: 'a test' })).status).toBe(201);
  };
  const withFeed = (draft: PortalDefinition) => {
    draft.roles.push({ id: 'feed', name: 'Feed', for: 'services' });
    draft.access.labs = { ...draft.access.labs, feed: { see: { where: 'every row', columns: ['id', 'name'] } } };
  };
  await publish(withFeed);
  const { key } = await make({ role: 'feed', name: 'A feed' });
  const other = await make();
  const asked = async () => [
    // A key that is none is refused, and slowed where there were many.
    (await by(key)('GET', '/records/labs')).status === 200,
    (await by(other.key)('GET', '/records/samples')).status === 200,
  ];
  expect(await asked()).toEqual([true, true]);
  await publish((draft) => {
    draft.roles = draft.roles.filter(({ id }) => id !== 'feed');
    delete draft.access.labs!.feed;
  });
  expect(await asked()).toEqual([false, true]);
  await publish(withFeed);
  expect(await asked()).toEqual([false, true]);
});
