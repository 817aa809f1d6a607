import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { raw } from '../../core/sql/sql';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { KeptChange } from '../store/history-model';
import { forgetOldHistory } from './forget-history';
import type { HistoryLine } from './record-history';

/** What changed in records: kept with each write, told to those whose it was and is. */

let demo: Awaited<ReturnType<typeof demoServer>>;
let builder: Client;
const people: Record<string, Client> = {};
const portal = '/portals/alder-fen';
const bench = '/builder/portals/alder-fen';
let well = '';
let heir = 0;
let owner = 0;

const rows = (text: string) => demo.server.services.sources.get('history').rows(raw(text));
const write = (text: string) => demo.server.services.sources.get('history').write(raw(text));

async function signedIn(email: string): Promise<Client> {
  const client = demo.client();
  expect((await client.post(`${portal}/sign-in`, { email, password: demoPassword })).status).toBe(200);
  return client;
}

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'history', 'history_own');
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  for (const name of ['ines.brannock', 'mara.lindqvist', 'odile.fennimore'])
    people[name.split('.')[0]!] = await signedIn(`${name}@example.org`);
  [[well, owner]] = (await rows("SELECT id, owner_id FROM wells WHERE code = 'AF-0232'")) as [[string, number]];
  well = String(well);
  const [[id, email]] = (await rows(
    "SELECT id, email FROM owners WHERE email LIKE '%@example.org' AND email <> 'ines.brannock@example.org' LIMIT 1",
  )) as [[number, string]];
  heir = Number(id);
  people.heir = await signedIn(email);
});
afterAll(async () => demo?.server.close());

const at = (id = well, table = 'wells') => `${portal}/records/${table}/${id}`;
const past = async (who: string, id = well): Promise<HistoryLine[]> => {
  const answer = await people[who]!.get(`${at(id)}/history`);
  expect([who, answer.status]).toEqual([who, 200]);
  return (answer.body as { lines: HistoryLine[] }).lines;
};
/** Lines in short: who, what was made of it, and each column with what is told of it. */
const short = (lines: HistoryLine[]) =>
  lines.map(({ mine, name, by, made, through, changes }) => [
    mine ? 'mine' : (name ?? by),
    through ?? made,
    Object.fromEntries(
      changes.map(({ column, was, now }) => [column.path, [was?.title ?? was?.value, now?.title ?? now?.value]]),
    ),
  ]);
const change = (who: string, changes: object, id = well, query = '') =>
  people[who]!.send('PATCH', `${at(id)}${query}`, { changes });
const inAll = async (path: string) =>
  (await builder.get(`${bench}/all/records/${path}`)).body as { lines: HistoryLine[] };

describe('what changed in a record', () => {
  it('is kept with the write that changed it, and not where nothing was changed', async () => {
    await write(`UPDATE wells SET treatment = '', depth_m = 30.5, parish = 'Alder Fen' WHERE id = ${well}`);
    expect(await past('ines')).toEqual([]);
    expect((await change('ines', { treatment: { from: [], to: ['UV'] } })).status).toBe(200);
    expect((await change('odile', { depth_m: { from: '30.5', to: '31.0' } })).status).toBe(200);
    // A trial, a refusal, the same again.
    expect((await change('odile', { depth_m: { from: '31.0', to: '32.0' } }, well, '?trial=true')).status).toBe(200);
    expect((await change('ines', { depth_m: { from: '31.0', to: '33.0' } })).status).toBe(403);
    expect((await change('odile', { depth_m: { from: '31.0', to: '31.0' } })).status).toBe(200);

    const mine = await past('ines');
    expect(short(mine)).toEqual([
      ['member', 'changed', { depth_m: ['30.5', '31.0'] }],
      ['mine', 'changed', { treatment: [[], ['UV']] }],
    ]);
    const [, named] = short(await past('odile'));
    expect(named![0]).toMatch(/Brannock/);
    // Plain SQL beside it: two lines, of this record, and nothing else.
    const kept = await KeptChange.findAll({ attributes: ['made', 'state', 'recordId'], raw: true });
    expect(kept).toEqual([
      { made: 'changed', state: 'kept', recordId: well },
      { made: 'changed', state: 'kept', recordId: well },
    ]);
  });

  it('is not told to those whose grant lacks it, who do not have the record, or have not signed in', async () => {
    expect((await people.mara!.get(`${at()}/history`)).status).toBe(404);
    expect((await people.heir!.get(`${at()}/history`)).status).toBe(404);
    expect((await demo.client().get(`${at()}/history`)).status).toBe(401);
    expect((await people.ines!.get(`${at('999999')}/history`)).status).toBe(404);
    const sheet = (who: string) => people[who]!.get(`${portal}/me`).then(({ body }) => JSON.stringify(body));
    expect(await sheet('ines')).toContain('"history"');
    expect(await sheet('mara')).not.toContain('"history"');
  });

  it('is not the former owner’s to a new one, nor a new one’s to a former', async () => {
    expect((await change('odile', { owner_id: { from: Number(owner), to: heir } })).status).toBe(200);
    expect((await change('heir', { treatment: { from: ['UV'], to: ['UV', 'softener'] } })).status).toBe(200);
    expect((await people.ines!.get(`${at()}/history`)).status).toBe(404);
    const seen = await past('heir');
    expect(seen.length).toBe(2);
    expect(seen[0]).toMatchObject({ mine: true });
    // That it came to them is told, and not whose it was.
    const [came] = seen[1]!.changes;
    expect(seen[1]!.changes.map(({ column }) => column.path)).toEqual(['owner_id']);
    expect([came!.was, came!.now?.value]).toEqual([undefined, heir]);
    expect((await change('odile', { owner_id: { from: heir, to: Number(owner) } })).status).toBe(200);
    const again = await past('ines');
    expect(again.flatMap(({ changes }) => changes.map(({ column }) => column.path))).toEqual([
      'owner_id',
      'owner_id',
      'depth_m',
      'treatment',
    ]);
    expect(again.map(({ changes: [first] }) => [first!.was?.value, first!.now?.value])).toEqual([
      [undefined, Number(owner)],
      [Number(owner), undefined],
      ['30.5', '31.0'],
      [[], ['UV']],
    ]);
  });

  it('says by which action, form or file, and by whom of the bench', async () => {
    const [[request, parish]] = (await rows('SELECT id, parish FROM test_requests LIMIT 1')) as [[number, string]];
    const asked = { code: 'AF-9001', address: 'Mill Lane 1', postcode: 'AF1 2CD', latitude: '52.1', longitude: '0.1' };
    const press = await people.odile!.post(`${at(String(request), 'test_requests')}/actions/take-on`, { asked });
    expect([press.status, press.body.detail]).toEqual([200, undefined]);
    const [[made]] = (await rows("SELECT id FROM wells WHERE code = 'AF-9001'")) as [[number]];
    const [line] = await past('odile', String(made));
    expect(line).toMatchObject({ made: 'made', through: 'Take on', mine: true });
    expect(line!.changes.find(({ column }) => column.path === 'parish')).toMatchObject({ now: { value: parish } });
    const edited = await builder.send('PATCH', `${bench}/all/records/wells/${made}`, {
      changes: { casing: { from: null, to: 'steel' } },
    });
    expect([edited.status, edited.body.detail]).toEqual([200, undefined]);
    expect(short(await past('odile', String(made)))[0]).toEqual(['builder', 'changed', { casing: [null, 'steel'] }]);
    const all = await inAll(`wells/${made}/history`);
    expect(all.lines.map(({ by, name }) => [by, name])).toEqual([
      ['builder', expect.any(String)],
      ['member', expect.stringMatching(/Fennimore/)],
    ]);
    // Deleted, the bench knows it still; whoever gets its key anew is told nothing of it.
    await write(`DELETE FROM visits WHERE well_id = ${made}`);
    expect((await builder.send('DELETE', `${bench}/all/records/wells/${made}`, { seen: {} })).status).toBe(204);
    expect((await inAll(`wells/${made}/history`)).lines[0]).toMatchObject({ made: 'deleted' });
    expect((await people.odile!.get(`${at(String(made))}/history`)).status).toBe(404);
    await write(`INSERT INTO wells SELECT ${made}, 'AF-9002', owner_id, address, postcode, parish, latitude, longitude,
      depth_m, casing, drilled_on, state, treatment, photo FROM wells WHERE id = ${well}`);
    expect(await past('odile', String(made))).toEqual([]);
  });

  it('comes by a file record by record', async () => {
    const form = new FormData();
    form.append('file', new Blob(['code;depth_m\nAF-0232;44.5\nAF-0233;45.5\n']), 'depths.csv');
    const { id } = (await builder.form(`${bench}/files`, form)).body as { id: number };
    const readThrough = async () =>
      (await builder.get(`${bench}/jobs/${id}`)).body as { state: string; result: { file: string } };
    await expect.poll(async () => (await readThrough()).state, { timeout: 60_000 }).toBe('done');
    const { file } = (await readThrough()).result;
    const columns = ['code', 'depth_m'].map((column) => ({ header: column, column }));
    const plan = { table: 'wells', columns, key: 'code', unknown: 'refuse', known: 'change', empty: 'keep' };
    const of = { file, plan };
    const looked = await builder.ended(`${bench}/jobs`, `${bench}/jobs`, { kind: 'look at an import', ...of });
    const { digest } = (looked.result as { outcome: { digest: string } }).outcome;
    const order = { kind: 'import', ...of, mode: 'all or nothing', digest };
    expect((await builder.ended(`${bench}/jobs`, `${bench}/jobs`, order)).state).toBe('done');
    const [line] = await past('ines');
    expect(line).toMatchObject({
      brought: true,
      by: 'builder',
      changes: [{ was: { value: '31.0' }, now: { value: '44.5' } }],
    });
  });

  it('comes page by page, each line once, and a number of ours is in none', async () => {
    for (let i = 0; i < 33; i++) {
      const [[depth]] = (await rows(`SELECT depth_m FROM wells WHERE id = ${well}`)) as [[string]];
      const to = `${60 + i}.0`;
      expect((await change('odile', { depth_m: { from: depth, to } })).status).toBe(200);
    }
    const page = async (skip: number) =>
      (await people.ines!.get(`${at()}/history?skip=${skip}`)).body as { lines: HistoryLine[]; next: number | null };
    const [first, second] = [await page(0), await page(30)];
    expect([first.lines.length, first.next, second.next]).toEqual([30, 30, null]);
    const depths = [...first.lines, ...second.lines].slice(0, 33).map(({ changes }) => changes[0]!.now?.value);
    expect(depths).toEqual(Array.from({ length: 33 }, (_, i) => `${92 - i}.0`));
    expect(JSON.stringify(first)).not.toMatch(/"id":/);
  });

  it('follows what tables and columns are called, and is forgotten and erased as the table says', async () => {
    const before = await past('ines');
    const kept = await KeptChange.count({ where: { recordId: well } });
    const shape = `${bench}/shape/tables`;
    expect((await builder.post(`${shape}/wells/columns/depth_m/rename`, { to: 'depth' })).status).toBe(204);
    expect((await builder.post(`${shape}/wells/rename`, { to: 'bores' })).status).toBe(204);
    const told = (lines: HistoryLine[]) => lines.map(({ changes }) => changes.map(({ was, now }) => [was, now]));
    const after = await people.ines!.get(`${at(well, 'bores')}/history`);
    expect(told((after.body as { lines: HistoryLine[] }).lines)).toEqual(told(before));
    const erased = await builder.send('DELETE', `${bench}/tables/bores/records/${well}/history`);
    expect(erased.body).toEqual({ erased: kept });
    expect(((await people.ines!.get(`${at(well, 'bores')}/history`)).body as { lines: object[] }).lines).toEqual([]);
    const { lines } = await inAll(`bores/${well}/history`);
    expect(lines.map(({ erased: is, changes }) => [is, changes])).toEqual(lines.map(() => [true, []]));
    expect(await KeptChange.count({ where: { was: null, now: null } })).toBe(kept);
    const inDays = (days: number) => new Date(Date.now() + days * 24 * 3_600_000);
    const all = await KeptChange.count();
    await forgetOldHistory(inDays(3652));
    expect(await KeptChange.count()).toBe(all);
    await forgetOldHistory(inDays(3654));
    expect(await KeptChange.count()).toBe(0);
  });
});
