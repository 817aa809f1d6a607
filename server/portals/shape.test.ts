import { parseCondition } from '../../core/condition/parse';
import { describe, expect, it } from 'vitest';
import { demoPassword } from '../../demo/load';
import { Version } from '../store/models';
import { plain, builder, client, at, shape, one, plainColumn, draft, withShapedPortal } from './shape.fixture';

withShapedPortal();

describe('a table', () => {
  it('gives its records numbers, random ids, or a short form of their name', async () => {
    const columns = [{ ...plainColumn, name: 'title', type: 'text', required: true }];
    const draw = (name: string, ids: unknown) => builder.post(`${shape}/tables`, { name, columns, stamps: false, ids });
    const add = async (table: string, title: string) =>
      builder.post(`${at}/all/records/${table}`, { values: { title } });
    expect((await draw('tokens', { kind: 'random' })).status).toBe(201);
    expect((await draw('places', { kind: 'short', of: 'title' })).status).toBe(201);
    const made = await Promise.all(['A', 'B'].map((title) => add('tokens', title)));
    const ids = made.map((each) => each.body.record.id as string);
    expect([new Set(ids).size, ids.every((id) => /^[0-9a-f]{32}$/.test(id))]).toEqual([2, true]);
    const place = async (title: string) =>
      decodeURIComponent((await add('places', title)).body.record?.id ?? 'refused');
    expect([await place('  Harrow End (north)'), await place('Årdal'), await place('harrow end, NORTH')]).toEqual([
      'harrow-end-north',
      'årdal',
      'refused',
    ]);
    expect(await place('?!')).toMatch(/^[0-9a-f]{16}$/);
    expect((await builder.get(`${at}/all/records/places/harrow-end-north`)).body.record.values.title).toBe(
      '  Harrow End (north)',
    );
    // The text that ids are made of can be renamed, and neither go nor be another type.
    const refused = await builder.send('DELETE', `${shape}/tables/places/columns/title`);
    expect([refused.status, refused.body.detail]).toEqual([
      400,
      'id of places is made of title, so title stays as it is. It can be renamed.',
    ]);
    const typed = await builder.post(`${shape}/tables/places/columns/title/type`, {
      column: { ...plainColumn, name: 'title', type: 'long text' },
      apply: true,
    });
    expect([typed.status, typed.body.detail]).toEqual([400, refused.body.detail]);
    expect((await builder.post(`${shape}/tables/places/columns/title/rename`, { to: 'place' })).status).toBe(204);
    const renamed = await builder.post(`${at}/all/records/places`, { values: { place: 'South Gate' } });
    expect(renamed.body.record.id).toBe('south-gate');
    // Of what a record may lack, or what isn't there, nothing short can be made.
    expect((await draw('other', { kind: 'short', of: 'nothing' })).body.fields.ids).toMatch(/choose a required one/);
  });

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
      "SELECT TABLE_NAME FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME LIKE '%orders'",
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
          (pages as { id: string; sections: { id: string; kind: string }[] }[]).flatMap((page) =>
            page.sections
              .filter(({ kind }) => kind === 'list')
              .map(({ id }) => member.get(`/portals/alder-fen/pages/${page.id}/${id}`)),
          ),
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
    // The section's own id stays: addresses go by it.
    const text = JSON.stringify(await draft()).replaceAll('"id":"owners"', '');
    expect([await Version.count(), text.includes('"owners"')]).toEqual([versions, false]);
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
