import { describe, expect, it } from 'vitest';
import { demoPassword } from '../../demo/load';
import type { Client } from '../../test/server';
import { Portal } from '../store/models';
import { server, builder, client, at, shape, one, plainColumn, draft, withShapedPortal } from './shape.fixture';

withShapedPortal();

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
          "SELECT TABLE_NAME FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME = 'a'",
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
