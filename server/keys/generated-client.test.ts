import { execFile } from 'node:child_process';
import { mkdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import createClient from 'openapi-fetch';
import openapiTS, { astToString } from 'openapi-typescript';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
import { raw } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';

/**
 * A client generated from a key's document alone, by openapi-typescript and openapi-fetch: the compiler holds a program
 * against the types, and the program lists, adds and edits as the bottle tracker.
 */

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
let key = '';
const bench = '/builder/portals/alder-fen';
const root = join(import.meta.dirname, '../..');
// Where programs find the packages of this one.
const folder = join(root, 'node_modules', `.generated-client-${process.pid}`);

const rows = (text: string) => demo.server.services.sources.get('generated').rows(raw(text));

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'generated', 'generated_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  const { draft } = (await builder.get(bench)).body as { draft: PortalDefinition };
  draft.access.samples!.bottle_tracker!.edit = { where: 'as seen', columns: ['received_at'] };
  draft.access.advisories = {
    ...draft.access.advisories,
    bottle_tracker: { create: { columns: ['parish', 'title', 'text', 'published'] } },
  };
  const { revision } = (await builder.send('PUT', `${bench}/definition`, draft)).body as { revision: number };
  expect((await builder.post(`${bench}/versions`, { revision, note: '', despite: 'a test' })).status).toBe(201);
  const made = await builder.post(`${bench}/keys`, { role: 'bottle_tracker', name: 'Tracker' });
  ({ key } = made.body as { key: string });
  await mkdir(folder, { recursive: true });
});
afterAll(async () => {
  await rm(folder, { recursive: true, force: true });
  await demo?.server.close();
});

/** What the compiler says of a program that uses the generated types; empty where it is sound. */
async function compilerSays(program: string): Promise<string> {
  await writeFile(join(folder, 'program.ts'), program);
  const compiler = join(root, 'node_modules/typescript7/bin/tsc');
  const options = ['--noEmit', '--strict', '--skipLibCheck', '--module', 'esnext', '--moduleResolution', 'bundler'];
  const more = ['--target', 'es2022', '--lib', 'es2022,dom', '--ignoreConfig', join(folder, 'program.ts')];
  try {
    await promisify(execFile)(process.execPath, [compiler, ...options, ...more]);
    return '';
  } catch (error) {
    return String((error as { stdout: string }).stdout);
  }
}

const program = ({ table = 'samples', title = "'Boil'" } = {}) => `
import createClient from 'openapi-fetch';
import type { paths } from './schema';
const client = createClient<paths>({ baseUrl: 'http://localhost' });
const listed = await client.GET('/api/v1/portals/alder-fen/records/${table}', { params: { query: { size: 5 } } });
const at: string | null | undefined = listed.data?.records[0]?.values.received_at;
await client.PATCH('/api/v1/portals/alder-fen/records/samples/{id}', {
  params: { path: { id: '1' } },
  body: { changes: { received_at: { from: at, to: '2026-02-03 10:00:00' } } },
});
await client.POST('/api/v1/portals/alder-fen/records/advisories', {
  body: { values: { parish: 'Saltby', title: ${title}, text: 'Boil it.', published: true } },
});
`;

it('is typed by the document: what the key has compiles, what it has not does not', async () => {
  const document = await (
    await fetch(`${demo.base}/api/v1/portals/alder-fen/openapi.json`, { headers: { authorization: `Bearer ${key}` } })
  ).text();
  await writeFile(join(folder, 'schema.d.ts'), astToString(await openapiTS(document)));
  expect(await compilerSays(program())).toBe('');
  expect(await compilerSays(program({ table: 'visits' }))).toContain('visits');
  expect(await compilerSays(program({ title: '5' }))).toContain("Type 'number' is not assignable to type 'string'");
});

it('lists, adds and edits as the bottle tracker, as plain SQL says', async () => {
  interface Told {
    records: { id: string; values: Record<string, string | null> }[];
  }
  // The types of the test are the test's own; those that are generated are held by the compiler above.
  const client = createClient<Record<string, never>>({
    baseUrl: demo.base,
    headers: { authorization: `Bearer ${key}` },
  }) as unknown as Record<
    'GET' | 'POST' | 'PATCH',
    (path: string, of: object) => Promise<{ data?: unknown; response: Response }>
  >;
  const under = '/api/v1/portals/alder-fen/records';
  const listed = (await client.GET(`${under}/samples`, { params: { query: { size: 5 } } })).data as Told;
  expect(listed.records.length).toBe(5);
  const [{ id, values }] = listed.records as [Told['records'][number]];
  const to = '2026-02-03 10:00:00';
  const edited = await client.PATCH(`${under}/samples/{id}`, {
    params: { path: { id } },
    body: { changes: { received_at: { from: values.received_at, to } } },
  });
  expect(edited.response.status).toBe(200);
  expect((await rows(`SELECT received_at FROM samples WHERE id = ${id}`)).map(([at]) => String(at))).toEqual([to]);
  const title = 'Boil it, says a generated client';
  const added = await client.POST(`${under}/advisories`, {
    body: { values: { parish: 'Saltby', title, text: 'For two minutes.', published: true } },
  });
  expect(added.response.status).toBe(201);
  expect((await rows(`SELECT COUNT(*) FROM advisories WHERE title = '${title}'`)).map(([n]) => Number(n))).toEqual([1]);
});
