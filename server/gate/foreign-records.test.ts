import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import type { PortalDefinition } from '../../core/definition/definition';
import { ExpectedView, keyOfRow } from '../../core/proof/expected';
import type { HeldRows } from '../../core/proof/held-rows';
import type { Table } from '../../core/table/catalogue';
import type { Row } from '../../core/table/value';
import { demoPassword } from '../../demo/load';
import { wellPicture } from '../../demo/well-pictures';
import { demoServer, type Answer, type Client } from '../../test/server';
import { isThorough, tries } from '../../test/thorough';
import { recordId } from './gate';
import { holdRows } from './review/prove';
import { asEverybody } from '../review/as-everybody';
import { Portal } from '../store/models';

/**
 * Every operation on a record that the API's document tells of, by every kind of person, on records that are not theirs
 * by what core works out in memory: each is answered as one on a record that there never was. The same request on a
 * record of theirs is its twin: of each operation one must succeed, so that none is refused only for being malformed.
 */

let demo: Awaited<ReturnType<typeof demoServer>>;
let definition: PortalDefinition;
let held: HeldRows;
let picture: Uint8Array<ArrayBuffer>;
const people: { client: Client; view: ExpectedView; email: string }[] = [];
const under = '/api/portals/{slug}/records/{table}/{id}';
const portal = '/portals/alder-fen';

beforeAll(async () => {
  picture = new Uint8Array(await wellPicture(7));
  demo = await demoServer(inject('database'), 'foreign', 'foreign_own');
  const { services } = demo.server;
  const found = (await Portal.findOne())!;
  definition = await services.definitions.version(found.id, found.publishedVersion!);
  const { people: all, visitOf } = await asEverybody(services, { portalId: found.id, ownerId: null }, definition);
  const { source, catalogue } = await services.sources.of(definition);
  const door = (await demo.client().get(`${portal}/door`)).body as { demo: { people: { email: string }[] } };
  const clients = new Map<string, Client>();
  for (const { email } of door.demo.people) {
    const client = demo.client();
    expect((await client.post(`${portal}/sign-in`, { email, password: demoPassword })).status).toBe(200);
    clients.set(email, client);
  }
  await closeWithPhoto(clients.get('mara.lindqvist@example.org')!);
  ({ held } = await holdRows(source, catalogue, 100_000));
  const asked = new Set<string>();
  for (const [email, client] of clients) {
    const { person, moment } = visitOf(all.find((each) => each.email === email)!);
    const roles = person.roles.join(' ');
    if (asked.has(roles) && !isThorough) continue;
    asked.add(roles);
    people.push({ client, email, view: new ExpectedView(held, definition, person, moment, null) });
  }
});
afterAll(async () => demo?.server.close());

/** A visit of the sampler's gets a photo, so that a file stands in a column. */
async function closeWithPhoto(sampler: Client): Promise<void> {
  const planned = await sampler.get(
    `${portal}/records/visits?size=1&filter=${encodeURIComponent("state = 'planned'")}`,
  );
  const [{ id }] = (planned.body as { records: [{ id: string }] }).records;
  const form = new FormData();
  form.append('file', new Blob([new Uint8Array(await wellPicture(3))], { type: 'image/png' }), 'seal.png');
  const { file } = (await sampler.form(`${portal}/records/visits/files/seal_photo`, form)).body as { file: string };
  const asked = { planned_for: '2026-05-06 10:00', seal_number: 'S-TWIN', seal_photo: file };
  expect((await sampler.post(`${portal}/records/visits/${id}/actions/close-visit`, { asked })).status).toBe(200);
}

/** What stands in the places of an address's further parameters. */
const choices: Record<string, (table: Table) => string[]> = {
  relation: (table) => (table.many ?? []).map(({ name }) => name),
  column: (table) => [
    ...table.columns.filter(({ kind }) => kind === 'file').map(({ name }) => name),
    ...table.columns.slice(0, 1).map(({ name }) => name),
  ],
  action: ({ name }) => (definition.actions ?? []).filter(({ table }) => table === name).map(({ id }) => id),
  move: ({ name }) =>
    (definition.lifecycles ?? []).flatMap((each) => (each.table === name ? each.moves.map(({ id }) => id) : [])),
  comment: () => ['1'],
  attachment: () => ['1'],
};

/** The operations on one record, as the document has them. Whatever parameter is new must be given choices here. */
async function operations(): Promise<{ method: string; path: string; further: string[] }[]> {
  const document = await fetch(`${demo.base}/api/openapi.json`);
  const { paths } = (await document.json()) as { paths: Record<string, object> };
  return Object.entries(paths)
    .filter(([path]) => path === under || path.startsWith(`${under}/`))
    .flatMap(([path, methods]) =>
      Object.keys(methods).map((method) => ({
        method: method.toUpperCase(),
        path,
        further: [...path.slice(under.length).matchAll(/\{(\w+)\}/g)].map(([, name]) => name!),
      })),
    );
}

/** A body that is taken, of a record of one's own: a change to what stands there already, words, a small file. */
async function ask(client: Client, method: string, path: string, table: Table, row: Row | null): Promise<Answer> {
  const [first] = table.columns.filter(({ name, automatic }) => !automatic && !table.key.includes(name));
  const value = row?.[first!.name] ?? null;
  if (method === 'POST' && path.endsWith('/attachments')) {
    const form = new FormData();
    form.append('file', new Blob([picture], { type: 'image/png' }), 'well.png');
    return client.form(`${path}?circle=forAll`, form);
  }
  if (method === 'GET') return client.send(method, path);
  if (method === 'DELETE')
    return client.send(
      method,
      path.includes('/comments/') || path.includes('/attachments/') ? path : `${path}?trial=true`,
    );
  if (method === 'PATCH')
    return client.send(method, `${path}?trial=true`, { changes: { [first!.name]: { from: value, to: value } } });
  if (path.endsWith('/comments')) return client.send(method, path, { text: 'Twin', circle: 'forAll' });
  return client.send(method, `${path}?trial=true`, {});
}

/** In the place of a comment or file that is nobody's, the newest of the record's own. */
async function withHung(client: Client, path: string): Promise<string> {
  const [, of, what] = /^(.*)\/(comments|attachments)\/1(?=\/|$)/.exec(path) ?? [];
  if (of === undefined) return path;
  const { comments, files } = (await client.get(`${of}/${what}`)).body as Record<string, { id: number }[] | undefined>;
  const newest = Math.max(0, ...(comments ?? files ?? []).map(({ id }) => id));
  return path.replace(`/${what}/1`, `/${what}/${newest}`);
}

it('no operation tells or does anything with a record that is not theirs', async () => {
  // What takes away comes last, so that there is something for the others.
  const all = (await operations()).sort((a, b) => Number(a.method === 'DELETE') - Number(b.method === 'DELETE'));
  expect(all.length).toBeGreaterThanOrEqual(12);
  const succeeded = new Set<string>();
  const through: string[] = [];
  const askedBy = new Set<string>();
  let tried = 0;
  const tables = held.catalogue.tables.filter(({ key }) => key.length > 0);
  for (const [turn, { client, view, email }] of people.entries())
    for (const [nth, table] of tables.entries()) {
      // With a file in one of its columns first, where there is one.
      const files = table.columns.filter(({ kind }) => kind === 'file');
      const hasFile = (row: Row) => Number(files.some(({ name }) => row[name] !== null));
      const twins = view
        .rows(table)
        .sort((a, b) => hasFile(b) - hasFile(a))
        .slice(0, 2);
      const foreign = held.rows(table.name).find((row) => !view.rights(table, row).inView);
      const address = (row: Row) => encodeURIComponent(recordId(keyOfRow(table, row)));
      for (const [kind, { method, path, further }] of all.entries()) {
        // Each operation by each kind of person and on each table, if not by each on each: that where there is time.
        // What only some tables have is asked on all of those.
        const by = `${email} ${method} ${path}`;
        const isAsked =
          isThorough ||
          !askedBy.has(by) ||
          further.some((name) => ['action', 'move', 'column'].includes(name)) ||
          (turn + nth + kind) % 3 === 0;
        if (!isAsked && succeeded.has(`${method} ${path}`)) continue;
        const places = further.reduce<string[]>(
          (paths, name) =>
            paths.flatMap((each) => choices[name]!(table).map((choice) => each.replace(`{${name}}`, choice))),
          [path.replace('/api', '').replace('{slug}', 'alder-fen').replace('{table}', table.name)],
        );
        for (const place of places) {
          const at = (id: string) => place.replace('{id}', id);
          if (foreign && isAsked) {
            tried++;
            askedBy.add(by);
            const isText = table.columns.find(({ name }) => name === table.key[0])!.type === 'text';
            const nowhere = await ask(client, method, at(isText ? 'NOWHERE' : '99999999'), table, null);
            const got = await ask(client, method, at(address(foreign)), table, foreign);
            const same =
              got.status >= 400 &&
              got.status === nowhere.status &&
              JSON.stringify(got.body) === JSON.stringify(nowhere.body);
            if (!same)
              through.push(`${email} ${method} ${at(address(foreign))}: ${got.status} ${JSON.stringify(got.body)}`);
          }
          // Once is enough.
          const operation = `${method} ${path}`;
          for (const row of twins) {
            if (succeeded.has(operation)) break;
            const twin = await ask(client, method, await withHung(client, at(address(row))), table, row);
            if (twin.status < 400) succeeded.add(operation);
          }
        }
      }
    }
  expect(through).toEqual([]);
  console.log(`foreign records: ${tried} operations, as ${people.length} people`);
  expect(tried).toBeGreaterThan(tries(600, 1200));
  expect(all.map(({ method, path }) => `${method} ${path}`).filter((each) => !succeeded.has(each))).toEqual([]);
}, 400_000);
