import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { demoPassword } from '../../demo/load';
import { Client, demoServer } from '../../test/server';
import { freshSchema } from '../../test/tables';
import type { PortalDefinition } from '../../core/definition/definition';
import { startServer, type RunningServer } from '../server';
import { Portal, Version } from '../store/models';

/**
 * Changes of shape that are refused, or that the server is stopped in: database, definition and masks agree, and nobody
 * reads more than before.
 */
let plain: Connection;
let server: RunningServer;
let builder: Client;
let owner: Client;
const bench = '/builder/portals/alder-fen';
const shape = `${bench}/shape`;

const restart = async () => {
  server = await startServer({
    database: inject('database'),
    ownSchema: 'stops_own',
    port: 0,
    webFolder: null,
    alone: true,
  });
  const base = `http://127.0.0.1:${server.port}`;
  [builder, owner] = [new Client(base), new Client(base)];
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  await owner.post('/portals/alder-fen/sign-in', { email: 'ines.brannock@example.org', password: demoPassword });
};
beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'stops');
  await (await freshSchema(inject('database'), 'stops_own')).end();
  const demo = await demoServer(inject('database'), 'stops', 'stops_own');
  await demo.server.close();
  await restart();
});
afterAll(async () => {
  await server?.close();
  await plain?.end();
});

const portal = async () => (await Portal.findOne({ where: { slug: 'alder-fen' }, rejectOnEmpty: true })).reload();
const draft = async () => JSON.parse((await portal()).draft) as PortalDefinition;
const columns = async (table: string) =>
  (
    await plain.query<{ c: string }[]>(
      "SELECT COLUMN_NAME c FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = 'stops' AND TABLE_NAME = ? " +
        'ORDER BY ORDINAL_POSITION',
      [table],
    )
  )
    .map((row) => row.c)
    .filter((name) => !name.startsWith('_porch_gone_'));
/** What the owner gets of her own row, by label-less column name. */
const seen = async () => {
  const { body } = await owner.get('/portals/alder-fen/records/owners');
  return body.records?.[0]?.values as Record<string, unknown>;
};
const patch = async (steps: object[]) =>
  expect(
    (
      await builder.send('PATCH', `${bench}/draft`, {
        revision: (await portal()).revision,
        label: 'Edit',
        patch: steps,
      })
    ).status,
  ).toBe(200);
const publish = async () =>
  expect(
    (await builder.post(`${bench}/versions`, { revision: (await portal()).revision, note: 'x', despite: 'test' }))
      .status,
  ).toBe(201);
const values = async () => {
  const [row] = await plain.query<Record<string, string>[]>(
    "SELECT * FROM owners WHERE email = 'ines.brannock@example.org'",
  );
  return row!;
};

describe('a name that is still spoken of', () => {
  it('is not given to another column: nothing is changed, and what is masked stays masked', async () => {
    const [before, raw] = [await seen(), await values()];
    expect(before.tax_number).not.toBe(raw.tax_number);
    expect(before.parish).toBe(raw.parish);
    expect((await builder.send('DELETE', `${shape}/tables/owners/columns/parish`)).status).toBe(204);
    const refused = await builder.post(`${shape}/tables/owners/columns/tax_number/rename`, { to: 'parish' });
    expect([refused.status, refused.body.fields.to]).toEqual([
      422,
      expect.stringContaining('still speaks of a column parish that is gone'),
    ]);
    expect(await columns('owners')).toContain('tax_number');
    expect(JSON.stringify(await seen())).not.toContain(raw.tax_number);
    // Nor to a new one, nor to a table.
    expect(
      (
        await builder.post(`${shape}/tables/owners/columns`, {
          column: { name: 'parish', type: 'text', required: false, unique: false, initial: 'x' },
        })
      ).status,
    ).toBe(422);
    const { gone } = (await builder.get(shape)).body as { gone: { key: string; was: string }[] };
    expect((await builder.post(`${shape}/gone/${gone.find((each) => each.was === 'parish')!.key}/back`)).status).toBe(
      200,
    );
    expect(await seen()).toEqual(before);
  });

  it(
    "is free once nothing speaks of it; what an old version said of it is nobody else's, by undo or by " +
      'publishing it again',
    async () => {
      const raw = await values();
      const column = { name: 'nickname', type: 'text', required: false, unique: false, initial: 'n' };
      expect((await builder.post(`${shape}/tables/owners/columns`, { column })).status).toBe(201);
      const shown = (await draft()).access.owners!.well_owner!.see!.columns;
      await patch([{ op: 'add', path: `/access/owners/well_owner/see/columns/${shown.length}`, value: 'nickname' }]);
      await publish();
      const old = (await portal()).publishedVersion!;
      expect((await seen()).nickname).toBe('n');
      expect((await builder.send('DELETE', `${shape}/tables/owners/columns/nickname`)).status).toBe(204);
      await patch([{ op: 'remove', path: `/access/owners/well_owner/see/columns/${shown.length}` }]);
      const stillLive = await builder.post(`${shape}/tables/owners/columns/tax_number/rename`, { to: 'nickname' });
      expect([stillLive.status, stillLive.body.detail]).toEqual([422, expect.stringContaining('published version')]);
      await publish();
      expect((await builder.post(`${shape}/tables/owners/columns/tax_number/rename`, { to: 'nickname' })).status).toBe(
        204,
      );
      expect((await seen()).nickname).not.toBe(raw.tax_number);
      await builder.post(`${bench}/draft/undo`);
      // What is taken back speaks of the column that is gone, under a name that is nobody's.
      const back = (await draft()).access.owners!.well_owner!.see!.columns;
      expect(back).toEqual([
        ...shown.map((name) => (name === 'tax_number' ? 'nickname' : name)),
        expect.stringMatching(/^_porch_gone_.*_nickname$/),
      ]);
      await publish();
      expect(JSON.stringify(await seen())).not.toContain(String(raw.tax_number));
      expect((await builder.post(`${bench}/versions/${old}/publish`, { despite: 'test' })).status).toBe(204);
      expect([
        (await seen()).nickname === raw.tax_number,
        JSON.stringify(await seen()).includes(String(raw.tax_number)),
      ]).toEqual([false, false]);
      expect((await builder.post(`${shape}/tables/owners/columns/nickname/rename`, { to: 'tax_number' })).status).toBe(
        204,
      );
    },
  );
});

describe('a version that is published again', () => {
  it('runs its promises, and is not published where it could not follow a renaming', async () => {
    const raw = await values();
    const versions = await Version.findAll({ order: [['number', 'ASC']] });
    // One after another every kept version, after renamings, by its new names.
    expect((await builder.post(`${shape}/tables/owners/columns/tax_number/rename`, { to: 'duty_number' })).status).toBe(
      204,
    );
    for (const { number } of versions) {
      expect((await builder.post(`${bench}/versions/${number}/publish`, { despite: 'test' })).status).toBe(204);
      const got = await seen();
      expect([number, got.duty_number !== undefined, JSON.stringify(got).includes(String(raw.tax_number))]).toEqual([
        number,
        true,
        false,
      ]);
    }
    const broken = {
      ...(await draft()),
      promises: [
        { id: 'p1', who: { role: 'well_owner' }, says: 'may never', operation: 'see', table: 'owners', column: 'name' },
      ],
    } as unknown as PortalDefinition;
    expect((await builder.send('PUT', `${bench}/definition`, broken)).status).toBe(200);
    await publish();
    const number = (await portal()).publishedVersion!;
    await builder.post(`${bench}/versions/${versions[0]!.number}/publish`, { despite: 'test' });
    const refused = await builder.post(`${bench}/versions/${number}/publish`);
    expect([refused.status, refused.body.broken, (await portal()).publishedVersion]).toEqual([
      422,
      ['p1'],
      versions[0]!.number,
    ]);
    await Version.update({ outdated: 'Tables were renamed.' }, { where: { number } });
    expect((await builder.post(`${bench}/versions/${number}/publish`, { despite: 'test' })).body.detail).toContain(
      "can't be published again. Tables were renamed.",
    );
    expect((await builder.post(`${shape}/tables/owners/columns/duty_number/rename`, { to: 'tax_number' })).status).toBe(
      204,
    );
  });
});

describe('a server that is stopped in a change of shape', () => {
  const column = (name: string, type: string, more: object = {}) => ({
    name,
    type,
    required: false,
    unique: false,
    initial: null,
    ...more,
  });
  const changes: Record<string, () => Promise<unknown>> = {
    'rename a column': () => builder.post(`${shape}/tables/owners/columns/tax_number/rename`, { to: 'duty_number' }),
    'rename a table': () => builder.post(`${shape}/tables/owners/rename`, { to: 'keepers' }),
    'add a column': () => builder.post(`${shape}/tables/owners/columns`, { column: column('site', 'web address') }),
    'change a type': () =>
      builder.post(`${shape}/tables/owners/columns/phone/type`, { column: column('phone', 'e-mail'), apply: true }),
    'draw a table': () =>
      builder.post(`${shape}/tables`, { name: 'pumps', columns: [column('mail', 'e-mail')], stamps: false }),
    'delete a column': () => builder.send('DELETE', `${shape}/tables/owners/columns/phone`),
  };
  /**
   * Ends it as a kill would: it answers nobody any more, and its connections, with the lock that one holds, are gone.
   */
  const kill = async () => {
    const its = "SELECT ID id FROM information_schema.PROCESSLIST WHERE DB IN ('stops', 'stops_own') AND ID <> ?";
    const mine = plain.threadId;
    for (let held; (held = await plain.query<{ id: bigint }[]>(its, [mine])).length > 0;)
      for (const { id } of held)
        // One that ended by itself in between is no fault.
        await plain.query(`KILL ${id}`).catch((error: { errno?: number }) => {
          if (error.errno !== 1094) throw error;
        });
    // Not waited for: what stands still in it never ends.
    void server.close().catch(() => undefined);
  };

  for (const [what, change] of Object.entries(changes)) {
    it(`leaves all in agreement: ${what}`, async () => {
      const raw = await values();
      for (const at of ['noted', 'altered', 'followed'] as const) {
        let frozen!: () => void;
        const reached = new Promise<void>((resolve) => {
          frozen = resolve;
        });
        server.services.reached = (step) => (step === at ? new Promise<void>(() => frozen()) : Promise.resolve());
        await Promise.race([
          reached,
          change().then((answer) => Promise.reject(new Error(`it ended before: ${JSON.stringify(answer)}`))),
        ]);
        // While it stands still members read no more than before.
        const between = await owner.get('/portals/alder-fen/records/owners');
        expect(JSON.stringify(between.body)).not.toContain(raw.tax_number);
        await kill();
        await restart();
        const now = await draft();
        const [table] = [what === 'rename a table' && at !== 'noted' ? 'keepers' : 'owners'];
        const there = await columns(table);
        expect(there.some((name) => name.startsWith('_porch_'))).toBe(false);
        expect(await plain.query('SELECT * FROM stops_own.shape_intents')).toEqual([]);
        const done = at !== 'noted';
        expect([
          what,
          at,
          {
            'rename a column': there.includes('duty_number'),
            'rename a table': table === 'keepers',
            'add a column': there.includes('site'),
            'change a type': now.tables.owners?.columns?.phone?.kind === 'e-mail',
            'draw a table': now.tables.pumps?.columns?.mail?.kind === 'e-mail',
            'delete a column': !there.includes('phone'),
          }[what],
        ]).toEqual([what, at, done]);
        // Draft, published version and masks speak of what is there.
        const mine = (await owner.get(`/portals/alder-fen/records/${table}`)).body;
        expect([mine.records.length, JSON.stringify(mine).includes(String(raw.tax_number))]).toEqual([1, false]);
        expect(Object.keys(mine.records[0].values)).toContain(
          there.includes('duty_number') ? 'duty_number' : 'tax_number',
        );
        expect(
          ((await builder.get(`${bench}/findings`)).body.findings as { kind: string }[]).filter(
            (finding) => finding.kind.includes('gone') && what !== 'delete a column',
          ),
        ).toEqual([]);
        // Back to where it was, for the next step.
        if (!done) continue;
        if (what === 'rename a column')
          expect(
            (await builder.post(`${shape}/tables/owners/columns/duty_number/rename`, { to: 'tax_number' })).status,
          ).toBe(204);
        if (what === 'rename a table')
          expect((await builder.post(`${shape}/tables/keepers/rename`, { to: 'owners' })).status).toBe(204);
        if (what === 'add a column')
          expect((await builder.send('DELETE', `${shape}/tables/owners/columns/site`)).status).toBe(204);
        if (what === 'draw a table') expect((await builder.send('DELETE', `${shape}/tables/pumps`)).status).toBe(204);
        if (what === 'change a type') {
          const key = ((await builder.get(shape)).body.gone as { key: string; was: string }[]).find(
            (each) => each.was === 'phone',
          )!.key;
          expect((await builder.send('DELETE', `${shape}/tables/owners/columns/phone`)).status).toBe(204);
          expect((await builder.post(`${shape}/gone/${key}/back`)).status).toBe(200);
          await patch([{ op: 'remove', path: '/tables/owners/columns/phone/kind' }]);
        }
        if (what === 'delete a column') {
          const key = ((await builder.get(shape)).body.gone as { key: string; was: string }[]).find(
            (each) => each.was === 'phone',
          )!.key;
          expect((await builder.post(`${shape}/gone/${key}/back`)).status).toBe(200);
        }
      }
    });
  }

  it('leaves nothing of a table that it was making', async () => {
    await plain.query('CREATE TABLE stops._porch_making_0123456789ab (id INT)');
    await plain.query('ALTER TABLE stops.owners ADD _porch_making_x INT NULL');
    await server.close();
    await restart();
    expect(
      await plain.query(
        "SELECT TABLE_NAME FROM information_schema.TABLES WHERE TABLE_SCHEMA = 'stops' AND TABLE_NAME LIKE '%making%'",
      ),
    ).toEqual([]);
    expect((await columns('owners')).filter((name) => name.startsWith('_porch_'))).toEqual([]);
  });
});
