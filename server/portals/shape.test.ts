import { parseCondition } from '../../core/condition/parse';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { freshSchema } from '../../test/tables';
import type { PortalDefinition } from '../../core/definition/definition';
import type { RunningServer } from '../server';
import { Portal, Version } from '../store/models';

let plain: Connection;
let server: RunningServer;
let builder: Client;
let client: () => Client;
const at = '/builder/portals/alder-fen';
const shape = `${at}/shape`;

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'shapes');
  await (await freshSchema(inject('database'), 'shapes_own')).end();
  ({ server, client } = await demoServer(inject('database'), 'shapes', 'shapes_own'));
  builder = client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  await plain.query('USE shapes');
});
afterAll(async () => {
  await server?.close();
  await plain?.end();
});

const one = async (text: string) =>
  Object.values((await plain.query<Record<string, unknown>[]>(text))[0] ?? {}).map((value) =>
    value === null ? null : String(value),
  );
const plainColumn = { required: false, unique: false, initial: null };
const draft = async () =>
  JSON.parse((await Portal.findOne({ where: { slug: 'alder-fen' }, rejectOnEmpty: true })).draft) as PortalDefinition;

describe('a table', () => {
  it('is drawn with every type, and takes only what fits', async () => {
    const columns = [
      { ...plainColumn, name: 'title', type: 'text', required: true, unique: true, maxLength: 40 },
      { ...plainColumn, name: 'body', type: 'long text' },
      { ...plainColumn, name: 'mail', type: 'e-mail' },
      { ...plainColumn, name: 'tel', type: 'phone' },
      { ...plainColumn, name: 'site', type: 'web address' },
      { ...plainColumn, name: 'price', type: 'money', currency: 'EUR', initial: '9.5' },
      { ...plainColumn, name: 'share', type: 'decimal', scale: 4 },
      { ...plainColumn, name: 'count', type: 'whole number', initial: '1' },
      { ...plainColumn, name: 'open', type: 'yes/no', initial: 'true' },
      { ...plainColumn, name: 'day', type: 'date', initial: 'today' },
      { ...plainColumn, name: 'at', type: 'date and time', initial: 'now' },
      {
        ...plainColumn,
        name: 'state',
        type: 'one choice',
        required: true,
        initial: "it's new",
        choices: ["it's new", 'back\\slash', 'done'],
      },
      { ...plainColumn, name: 'tags', type: 'several choices', choices: ['a', 'b'] },
      { ...plainColumn, name: 'well_id', type: 'relation', to: 'wells' },
    ];
    expect(
      (
        await builder.post(`${shape}/tables`, {
          name: 'orders',
          columns,
          stamps: true,
          colours: { state: { done: 3 } },
        })
      ).status,
    ).toBe(201);
    expect((await draft()).tables.orders!.columns).toEqual({
      mail: { kind: 'e-mail' },
      tel: { kind: 'phone' },
      site: { kind: 'web address' },
      price: { kind: 'money', currency: 'EUR' },
      state: { colours: { done: 3 } },
    });
    const made = await builder.post(`${at}/all/records/orders`, {
      values: {
        title: 'First',
        mail: ' ada@example.org',
        tel: '+44 20 7946-0958',
        site: 'https://example.org/x',
        well_id: 1,
      },
    });
    expect(made.body.record.values).toMatchObject({
      title: 'First',
      mail: 'ada@example.org',
      tel: '+442079460958',
      price: '9.50',
      count: 1,
      open: true,
      state: "it's new",
      well_id: 1,
    });
    expect(made.body.record.values.made_at).toBe(made.body.record.values.changed_at);
    const wrong = await builder.post(`${at}/all/records/orders`, {
      values: {
        title: 'x'.repeat(41),
        mail: 'ada',
        tel: '12',
        site: 'javascript:alert(1)',
        state: 'other',
        tags: ['c'],
        share: '0.00001',
      },
    });
    expect([wrong.status, Object.keys(wrong.body.fields)]).toEqual([
      422,
      ['title', 'mail', 'tel', 'site', 'state', 'tags', 'share'],
    ]);
    for (const [change, field] of [
      [{ name: 'wells' }, 'name'],
      [{ columns: [{ ...plainColumn, name: 'id', type: 'text' }] }, 'id'],
      [{ columns: [{ ...plainColumn, name: 'n', type: 'whole number', initial: 'x' }] }, 'n'],
      [{ columns: [{ ...plainColumn, name: 'to', type: 'relation', to: 'nowhere' }] }, 'to'],
    ] as const) {
      expect(
        Object.keys(
          (await builder.post(`${shape}/tables`, { name: 'other', columns, stamps: false, ...change })).body.fields,
        ),
      ).toEqual([field]);
    }
    expect((await builder.post(`${shape}/tables`, { name: 'bad; DROP', columns, stamps: false })).status).toBe(400);
  });

  it('gets columns, other types after telling what would be lost, and all of it back for a day', async () => {
    expect(
      (
        await builder.post(`${shape}/tables/orders/columns`, {
          column: { ...plainColumn, name: 'code', type: 'text', required: true },
        })
      ).body.fields,
    ).toHaveProperty('initial');
    expect(
      (
        await builder.post(`${shape}/tables/orders/columns`, {
          column: { ...plainColumn, name: 'code', type: 'text', required: true, initial: '007' },
        })
      ).status,
    ).toBe(201);
    for (const [i, code] of ['12', 'x9', '13.0'].entries())
      await plain.query('INSERT INTO orders (title, code) VALUES (?, ?)', [`n${i}`, code]);
    const number = { column: { ...plainColumn, name: 'code', type: 'whole number' }, apply: false };
    const told = await builder.post(`${shape}/tables/orders/columns/code/type`, number);
    expect(told.body).toMatchObject({ kept: 2, lost: 2, samples: [{ value: 'x9' }, { value: '13.0' }] });
    expect(await one('SELECT GROUP_CONCAT(code ORDER BY id) FROM orders')).toEqual(['007,12,x9,13.0']);
    expect(
      (
        await builder.post(`${shape}/tables/orders/columns/code/type`, {
          column: { ...number.column, required: true },
          apply: true,
        })
      ).status,
    ).toBe(422);
    expect((await builder.post(`${shape}/tables/orders/columns/code/type`, { ...number, apply: true })).body.lost).toBe(
      2,
    );
    expect(await one("SELECT GROUP_CONCAT(IFNULL(code, '-') ORDER BY id) FROM orders")).toEqual(['7,12,-,-']);
    const { gone } = (await builder.get(shape)).body as { gone: { key: string; was: string; table: string }[] };
    expect(gone).toMatchObject([{ was: 'code', table: 'orders' }]);
    expect((await builder.post(`${shape}/gone/${gone[0]!.key}/back`)).status).toBe(422);
    expect((await builder.send('DELETE', `${shape}/tables/orders/columns/code`)).status).toBe(204);
    expect((await builder.post(`${shape}/gone/${gone[0]!.key}/back`)).status).toBe(200);
    expect(await one('SELECT GROUP_CONCAT(code ORDER BY id) FROM orders')).toEqual(['007,12,x9,13.0']);
    expect(
      (
        await builder.post(`${shape}/tables/orders/columns/well_id/type`, {
          column: { ...plainColumn, name: 'well_id', type: 'text' },
          apply: false,
        })
      ).status,
    ).toBe(400);

    expect((await builder.send('DELETE', `${shape}/tables/wells`)).body.detail).toContain('has a relation to wells');
    expect((await builder.send('DELETE', `${shape}/tables/orders`)).status).toBe(204);
    expect((await builder.get(`${at}/all/tables/orders`)).status).toBe(404);
    const key = (
      (await builder.get(shape)).body as { gone: { key: string; was: string; table: string | null }[] }
    ).gone.find((each) => each.table === null)!.key;
    expect((await builder.post(`${shape}/gone/${key}/back`)).status).toBe(200);
    expect(await one('SELECT COUNT(*) FROM orders')).toEqual(['4']);
    // After a day it is dropped for good.
    await builder.send('DELETE', `${shape}/tables/orders`);
    const made = await one(
      "SELECT TABLE_NAME FROM information_schema.TABLES WHERE TABLE_SCHEMA = 'shapes' AND TABLE_NAME LIKE '%orders'",
    );
    await plain.query(
      'RENAME TABLE ' + `\`${String(made[0])}\` ` + `TO _porch_gone_${(Date.now() - 90_000_000).toString(36)}_orders`,
    );
    expect((await builder.get(shape)).body.gone).toEqual([]);
    expect(await one("SHOW TABLES LIKE '%orders'")).toEqual([]);
  });
});

describe('numbers past 2^53', () => {
  it('are kept as they were sent, or refused, never altered', async () => {
    expect(
      (
        await builder.post(`${shape}/tables`, {
          name: 'amounts',
          columns: [
            { ...plainColumn, name: 'whole', type: 'whole number' },
            { ...plainColumn, name: 'part', type: 'decimal', scale: 10 },
          ],
          stamps: false,
        })
      ).status,
    ).toBe(201);
    const send = (body: string) => builder.send('POST', `${at}/all/records/amounts`, body);
    expect((await send('{"values":{"whole":9007199254740993,"part":1234567.1234567891}}')).status).toBe(201);
    expect(await one('SELECT CAST(whole AS CHAR), part FROM amounts')).toEqual([
      '9007199254740993',
      '1234567.1234567891',
    ]);
    const refused = await send('{"values":{"whole":92233720368547758079}}');
    expect([refused.status, refused.body.fields.whole]).toEqual([422, expect.stringContaining('between')]);
    expect(
      (
        await builder.send(
          'PATCH',
          `${at}/all/records/amounts/1`,
          '{"changes":{"whole":{"from":9007199254740993,"to":9007199254740994}}}',
        )
      ).status,
    ).toBe(200);
    expect(
      (
        await builder.send(
          'PATCH',
          `${at}/all/records/amounts/1`,
          '{"changes":{"whole":{"from":9007199254740993,"to":1}}}',
        )
      ).status,
    ).toBe(409);
    expect(await one('SELECT CAST(whole AS CHAR) FROM amounts')).toEqual(['9007199254740994']);
    expect((await builder.send('DELETE', `${shape}/tables/amounts`)).status).toBe(204);
    const script = await builder.post(`${shape}/script`, {
      text: 'CREATE TABLE a (n DECIMAL(999,999))',
      dialect: 'MariaDB',
      apply: true,
    });
    expect([script.status, script.body.detail]).toEqual([422, expect.stringMatching(/^Line 1: a.n has 999 digits/)]);
    // What the database itself says against a change of shape is a sentence.
    const wide = await builder.post(`${shape}/tables`, {
      name: 'wide',
      columns: Array.from({ length: 30 }, (_, i) => ({ ...plainColumn, name: `c${i}`, type: 'text', maxLength: 4000 })),
      stamps: false,
    });
    expect([wide.status, wide.body.detail]).toEqual([
      422,
      expect.stringContaining("The database can't do this: Row size too large"),
    ]);
  });
});

describe('a renaming', () => {
  it('is followed by rules, pages and what is published, so that members see what they saw', async () => {
    const member = client();
    await member.post('/portals/alder-fen/sign-in', { email: 'ines.brannock@example.org', password: demoPassword });
    const look = async () => {
      const { pages } = (await member.get('/portals/alder-fen/me')).body;
      return (
        await Promise.all(
          (pages as { id: string }[]).map((page) => member.get(`/portals/alder-fen/pages/${page.id}/0`)),
        )
      ).map((answer) => [
        answer.status,
        answer.body.total,
        answer.body.records?.map((record: { values: object }) => Object.values(record.values)),
      ]);
    };
    const before = await look();
    expect(before.some(([status, total]) => status === 200 && (total as number) > 0)).toBe(true);
    expect((await builder.get(`${shape}/uses?table=wells&column=owner_id`)).body.uses[0].uses.length).toBeGreaterThan(
      0,
    );
    const versions = await Version.count();
    expect((await builder.post(`${shape}/tables/wells/columns/owner_id/rename`, { to: 'keeper_id' })).status).toBe(204);
    expect((await builder.post(`${shape}/tables/wells/rename`, { to: 'sources' })).status).toBe(204);
    expect((await builder.post(`${shape}/tables/owners/rename`, { to: 'keepers' })).status).toBe(204);
    expect(await look()).toEqual(before);
    expect([await Version.count(), JSON.stringify(await draft()).includes('"owners"')]).toEqual([versions, false]);
    expect(
      (await builder.get(`${at}/findings`)).body.findings.filter((finding: { grave: boolean; kind: string }) =>
        finding.kind.includes('gone'),
      ),
    ).toEqual([]);
    expect((await builder.post(`${shape}/tables/sources/rename`, { to: 'visits' })).body.fields).toHaveProperty('to');
  });

  it('leaves what can be undone and done again, told in the new names', async () => {
    const edit = async (label: string, patch: object[]) =>
      expect(
        (await builder.send('PATCH', `${at}/draft`, { revision: (await builder.get(at)).body.revision, label, patch }))
          .status,
      ).toBe(200);
    const step = async (which: 'undo' | 'redo') =>
      (await builder.post(`${at}/draft/${which}`, {})).body as {
        undo: string | null;
        redo: string | null;
        draft: {
          tables: Record<string, { label?: string; columns?: object }>;
          fences?: { id: string; where: object }[];
        };
      };
    await edit('Call it so', [
      {
        op: 'add',
        path: '/tables/visits',
        value: { label: 'Calls', columns: { fee: { label: 'Price' }, seal_number: { label: 'Seal' } } },
      },
    ]);
    await edit('Fence it', [
      {
        op: 'add',
        path: '/fences/-',
        value: {
          id: 'f',
          table: 'visits',
          where: parseCondition('sampler.district IS NOT NULL AND fee > 1').condition,
          exceptRoles: [],
        },
      },
    ]);
    await edit('Say it otherwise', [{ op: 'replace', path: '/tables/visits/columns/fee/label', value: 'Charge' }]);
    await step('undo');
    expect((await builder.post(`${shape}/tables/visits/columns/fee/rename`, { to: 'price' })).status).toBe(204);
    expect((await builder.post(`${shape}/tables/visits/columns/sampler_id/rename`, { to: 'taker_id' })).status).toBe(
      204,
    );
    expect((await builder.post(`${shape}/tables/visits/rename`, { to: 'calls' })).status).toBe(204);
    expect((await builder.get(at)).body).toMatchObject({ undo: 'Fence it', redo: 'Say it otherwise' });
    expect((await step('redo')).draft.tables.calls!.columns).toEqual({
      price: { label: 'Charge' },
      seal_number: { label: 'Seal' },
    });
    await step('undo');
    const fenced = await step('undo');
    expect([fenced.undo, fenced.draft.fences!.some((fence) => fence.id === 'f'), fenced.draft.tables.calls]).toEqual([
      'Call it so',
      false,
      { label: 'Calls', columns: { price: { label: 'Price' }, seal_number: { label: 'Seal' } } },
    ]);
    expect((await step('redo')).draft.fences!.at(-1)).toEqual({
      id: 'f',
      table: 'calls',
      where: parseCondition('taker.district IS NOT NULL AND price > 1').condition,
      exceptRoles: [],
    });
    await step('undo');
    expect((await step('undo')).draft.tables.calls ?? {}).not.toHaveProperty('label', 'Calls');
    for (const [from, to] of [
      ['price', 'fee'],
      ['taker_id', 'sampler_id'],
    ])
      expect((await builder.post(`${shape}/tables/calls/columns/${from}/rename`, { to })).status).toBe(204);
    expect((await builder.post(`${shape}/tables/calls/rename`, { to: 'visits' })).status).toBe(204);
  });

  it('and what asks often gets its index', async () => {
    const { missing } = (await builder.get(shape)).body as {
      missing: { table: string; column: string; statement: string }[];
    };
    for (const each of missing)
      expect((await builder.post(`${shape}/indexes`, { table: each.table, column: each.column })).status).toBe(204);
    expect(missing.length).toBeGreaterThan(0);
    expect((await builder.get(shape)).body.missing).toEqual([]);
  });
});

describe('a script', () => {
  const maria =
    '-- wells of another database\nCREATE TABLE `keepers2` (`id` INT UNSIGNED NOT NULL AUTO_INCREMENT, `name` ' +
    'VARCHAR(40) NOT NULL, PRIMARY KEY (`id`)) ENGINE=InnoDB;\nCREATE TABLE pumps (code CHAR(8) PRIMARY KEY, ' +
    "keeper_id INT UNSIGNED, power DECIMAL(8,3) DEFAULT 1.5, state ENUM('on','off') NOT NULL DEFAULT 'off', " +
    'note TEXT, FOREIGN KEY (keeper_id) REFERENCES keepers2 (id));\nINSERT INTO keepers2 (id, name) VALUES (7, ' +
    "'O''Neil'), (9, 'Ada \\\"x\\\"');\nINSERT INTO pumps VALUES ('P-1', 7, 12.125, 'on', 'first'), ('P-2', " +
    "NULL, 0.5, 'off', NULL);";
  const make = (text: string, dialect: string, apply: boolean) =>
    builder.post(`${shape}/script`, { text, dialect, apply });

  it('is shown as the tables that it would make, then makes them with their rows', async () => {
    expect(
      (await make(maria, 'MariaDB', false)).body.tables.map(
        (table: { name: string; key: string; rows: number; columns: { name: string; type: string }[] }) => [
          table.name,
          table.key,
          table.rows,
          table.columns.map((column) => `${column.name} ${column.type}`),
        ],
      ),
    ).toEqual([
      ['keepers2', 'id', 2, ['name text']],
      ['pumps', 'code', 2, ['code text', 'keeper_id relation', 'power decimal', 'state one choice', 'note long text']],
    ]);
    expect(await one("SHOW TABLES LIKE 'pumps'")).toEqual([]);
    expect((await make(maria, 'MariaDB', true)).body).toEqual({ tables: ['keepers2', 'pumps'], rows: 4 });
    expect(
      await one(
        'SELECT CONCAT_WS("|", p.code, k.name, p.power, p.state) FROM pumps p JOIN keepers2 k ON k.id = p.keeper_id',
      ),
    ).toEqual(["P-1|O'Neil|12.125|on"]);
    const postgres =
      'CREATE TABLE public.meters (id serial PRIMARY KEY, code character varying(20) NOT NULL UNIQUE, ok ' +
      'boolean DEFAULT true, since date, seen timestamp without time zone DEFAULT now(), keeper integer ' +
      "REFERENCES keepers2(id));\nINSERT INTO meters (code, ok) VALUES ('M-1', false);";
    expect((await make(postgres, 'PostgreSQL', true)).body).toEqual({ tables: ['meters'], rows: 1 });
    expect(await one("SELECT CONCAT_WS('|', id, code, ok, seen IS NOT NULL) FROM meters")).toEqual(['1|M-1|0|1']);
  });

  it('is refused by line, and leaves nothing of itself', async () => {
    const cases: [string, RegExp][] = [
      ['CREATE TABLE a (id INT);\nDROP TABLE wells;', /^Line 2: DROP TABLE is not taken/],
      ['CREATE TABLE a (n INT);\n\nUPDATE wells SET code = 1;', /^Line 3: UPDATE is not taken/],
      ['SELECT 1', /^Line 1: SELECT is not taken/],
      ['CREATE TABLE a (n INT', /^Line 1, column \d+/],
      ['CREATE TABLE a AS SELECT * FROM owners', /^Line 1: this can't be read as MariaDB has it/],
      ['CREATE TABLE a (n GEOMETRY)', /GEOMETRY/],
      ['CREATE TABLE a (n INT); INSERT INTO a SELECT 1', /INSERT of a “SELECT” is not taken/],
      ['CREATE TABLE a (n INT); INSERT INTO b VALUES (1)', /rows go into b/],
      ['CREATE TABLE a (n INT); INSERT INTO a VALUES (SLEEP(5))', /other than plain values/],
      ['CREATE TABLE a (x INT, y INT, PRIMARY KEY (x, y))', /2 columns; one can be taken/],
      ['CREATE TABLE pumps (n INT)', /already/],
      ["CREATE TABLE a (n INT);\nINSERT INTO a (n) VALUES (1), ('x')", /^Line 2, rows of a: row 2: n, “x”/],
    ];
    for (const [text, sentence] of cases) {
      const answer = await make(text, 'MariaDB', true);
      expect([text, answer.status, answer.body.detail]).toEqual([text, 422, expect.stringMatching(sentence)]);
      expect(
        await one(
          "SELECT TABLE_NAME FROM information_schema.TABLES WHERE TABLE_SCHEMA = 'shapes' AND TABLE_NAME = 'a'",
        ),
      ).toEqual([]);
    }
  });
});

describe('files of records', () => {
  const png = Buffer.from(
    '89504e470d0a1a0a0000000d49484452000000010000000108060000001f15c489' +
      '0000000d49444154789c6360000002000001e221bc330000000049454e44ae426082',
    'hex',
  );
  const send = (who: Client, base: string, bytes: Buffer | string, name: string, column = 'photo') => {
    const form = new FormData();
    form.append('file', new Blob([bytes as BlobPart]), name);
    return who.form(`${base}/records/visits/files/${column}`, form);
  };

  it('are kept in pieces, told by their bytes, and reached through the record alone', async () => {
    expect(
      (
        await builder.post(`${shape}/tables/visits/columns`, {
          column: { ...plainColumn, name: 'photo', type: 'file' },
        })
      ).status,
    ).toBe(201);
    const grants = await draft();
    const [patchRole] = Object.keys(grants.access.visits!).filter((role) => grants.access.visits![role]!.see);
    const revision = (await Portal.findOne({ where: { slug: 'alder-fen' }, rejectOnEmpty: true })).revision;
    const own = grants.access.visits!.sampler!;
    const wide = {
      see: { ...own.see!, columns: [...own.see!.columns, 'photo'] },
      edit: { where: 'as seen', columns: ['photo'] },
    };
    expect(
      (
        await builder.send('PATCH', `${at}/draft`, {
          revision,
          label: 'Photos',
          patch: [{ op: 'replace', path: '/access/visits/sampler', value: wide }],
        })
      ).status,
    ).toBe(200);
    expect((await builder.post(`${at}/versions`, { revision: revision + 1, note: 'Photos' })).status).toBe(201);
    expect(patchRole).toBeDefined();

    const [mara, other] = [client(), client()];
    await mara.post('/portals/alder-fen/sign-in', { email: 'mara.lindqvist@example.org', password: demoPassword });
    const everyone = (await builder.get(`${at}/members?roster=samplers`)).body.members as {
      email: string;
      name: string;
    }[];
    await other.post('/portals/alder-fen/sign-in', {
      email: everyone.find((each) => !each.name.startsWith('Mara'))!.email,
      password: demoPassword,
    });
    const base = '/portals/alder-fen';
    const [hers, theirs] = [
      (await mara.get(`${base}/records/visits`)).body.records[0].id as string,
      (await other.get(`${base}/records/visits`)).body.records[0].id as string,
    ];
    const sent = await send(mara, base, png, 'Größe (1) des Deckels.txt');
    expect(sent.body).toMatchObject({ name: 'Größe (1) des Deckels.txt', type: 'image/png', size: png.length });
    const put = (who: Client, id: string, to: string, from: string | null = null) =>
      who.send('PATCH', `${base}/records/visits/${id}`, { changes: { photo: { from, to } } });
    // What somebody else has sent, and an id that is made up, are nobody's to take.
    expect([
      (await put(other, theirs, sent.body.file)).status,
      (await put(mara, hers, '0'.repeat(32))).status,
      (await put(mara, hers, 'x')).status,
    ]).toEqual([422, 422, 422]);
    expect((await put(mara, hers, sent.body.file)).status).toBe(200);
    expect((await put(other, theirs, sent.body.file)).status).toBe(422);
    const got = await fetch(`http://127.0.0.1:${server.port}/api${base}/records/visits/${hers}/files/photo`, {
      headers: mara.headers(),
    });
    expect([
      got.status,
      got.headers.get('content-type'),
      got.headers.get('x-content-type-options'),
      got.headers.get('content-security-policy'),
      Buffer.from(await got.arrayBuffer()).equals(png),
    ]).toEqual([200, 'image/png', 'nosniff', "default-src 'none'; sandbox; frame-ancestors 'none'", true]);
    expect((await other.get(`${base}/records/visits/${hers}/files/photo`)).status).toBe(404);
    expect((await mara.get(`${base}/records/visits/${hers}/files/state`)).status).toBe(404);
    expect((await client().get(`${base}/records/visits/${hers}/files/photo`)).status).toBe(401);

    // A page that calls itself a picture is only ever saved.
    const page = await send(mara, base, '<script>alert(1)</script>', 'harmless.png');
    await put(mara, hers, page.body.file, sent.body.file);
    const saved = await fetch(`http://127.0.0.1:${server.port}/api${base}/records/visits/${hers}/files/photo`, {
      headers: mara.headers(),
    });
    expect([saved.headers.get('content-type'), saved.headers.get('content-disposition')]).toEqual([
      'application/octet-stream',
      "attachment; filename*=UTF-8''harmless.png",
    ]);
    expect((await send(mara, base, Buffer.alloc(26 * 1024 * 1024), 'large.bin')).status).toBe(413);
    expect((await send(mara, base, png, 'x.png', 'state')).status).toBe(404);
  });
});

describe('what a saved query reads', () => {
  it('keeps its name and stays until the query is changed', async () => {
    const query = {
      name: 'pump_power',
      text: 'SELECT p.code AS code, p.power AS power FROM pumps p',
      key: ['code'],
      keep: true,
    };
    expect((await builder.post(`${at}/queries`, query)).status).toBe(201);
    expect((await builder.get(`${at}/all/records/pump_power`)).body.total).toBe(2);
    for (const answer of [
      await builder.post(`${shape}/tables/pumps/rename`, { to: 'engines' }),
      await builder.post(`${shape}/tables/pumps/columns/power/rename`, { to: 'watts' }),
      await builder.send('DELETE', `${shape}/tables/pumps`),
      await builder.send('DELETE', `${shape}/tables/pumps/columns/power`),
    ])
      expect([answer.status, answer.body.detail]).toEqual([422, expect.stringContaining('saved query pump_power')]);
    expect((await builder.post(`${shape}/tables/pumps/columns/note/rename`, { to: 'remark' })).status).toBe(204);
    expect((await builder.post(`${at}/queries`, { ...query, name: 'pumps' })).body.fields).toHaveProperty('name');
    expect((await builder.send('DELETE', `${at}/queries/pump_power`)).status).toBe(204);
    expect((await builder.post(`${shape}/tables/pumps/rename`, { to: 'engines' })).status).toBe(204);
  });
});
