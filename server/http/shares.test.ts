import { raw } from '../../core/sql/sql';
import { once } from 'node:events';
import { request } from 'node:http';
import type { AddressInfo } from 'node:net';
import express from 'express';
import { QueryTypes } from 'sequelize';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { createConnection, type Connection } from 'mariadb';
import { demoPassword } from '../../demo/load';
import { Client, demoServer } from '../../test/server';
import { startServer } from '../server';
import { Places, shares } from './shares';

/** Nobody stops the others: by slow questions, by many, by going away, or by what is nested without end. */
let demo: Awaited<ReturnType<typeof demoServer>>;
let plain: Connection;
let builder: Client;
let member: Client;
const bench = '/builder/portals/alder-fen';
const endless = {
  name: 'endless',
  key: [],
  text: 'SELECT COUNT(*) AS n FROM visits a, visits b, visits c, visits d WHERE a.fee + b.fee + c.fee + d.fee = 0.123',
};

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'shares', 'shares_own');
  plain = await createConnection({ ...inject('database'), database: 'shares' });
  [builder, member] = [demo.client(), demo.client()];
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  await member.post('/portals/alder-fen/sign-in', { email: 'ines.brannock@example.org', password: demoPassword });
  expect((await builder.post(`${bench}/queries`, { ...endless, keep: true })).status).toBe(201);
});
afterAll(async () => {
  await plain?.end();
  await demo?.server.close();
});

const running = async () =>
  Number(
    (
      await plain.query<{ n: bigint }[]>(
        "SELECT COUNT(*) n FROM information_schema.PROCESSLIST WHERE DB = 'shares' AND INFO LIKE '%0.123%' AND " +
          "INFO NOT LIKE '%PROCESSLIST%'",
      )
    )[0]!.n,
  );
const until = async (holds: () => Promise<boolean>) => {
  while (!(await holds()))
    await new Promise((resolve) => {
      setTimeout(resolve, 20);
    });
};
const ask = (signal: AbortSignal) =>
  fetch(`${demo.base}/api${bench}/all/records/endless`, { headers: builder.headers(), signal }).then(
    (answer) => answer.status,
    () => 'gone',
  );

describe('a slow question', () => {
  it('is stopped when whoever asked it goes, and leaves the others their answers meanwhile', async () => {
    const gone = new AbortController();
    const slow = Array.from({ length: 30 }, () => ask(gone.signal));
    // One person's share is four questions, each a statement; another person is served beside them.
    await until(async () => (await running()) >= 4);
    for (let i = 0; i < 5; i++) expect((await member.get('/portals/alder-fen/records/wells')).status).toBe(200);
    expect(await running()).toBe(4);
    gone.abort();
    expect(new Set(await Promise.all(slow))).toEqual(new Set(['gone']));
    await until(async () => (await running()) === 0);
    expect((await builder.get(`${bench}/all/records/wells`)).status).toBe(200);
  });

  it("has a time limit in the product's own database, in records and in what is kept of portals", async () => {
    expect(
      Number((await demo.server.services.sources.get('shares').rows(raw('SELECT @@max_statement_time')))[0]![0]),
    ).toBe(20);
    const [row] = await demo.server.services.store.sequelize.query<{ seconds: number }>(
      'SELECT @@max_statement_time seconds',
      { type: QueryTypes.SELECT },
    );
    expect(Number(row!.seconds)).toBe(20);
  });
});

describe('a share', () => {
  it("is taken by nobody who comes with another's address as their key", async () => {
    const app = express();
    let come = 0;
    let letGo!: () => void;
    const end = new Promise<void>((resolve) => (letGo = resolve));
    app.use(shares(), async (req, res) => {
      come++;
      if (req.headers.authorization !== undefined) await end;
      res.end();
    });
    const server = app.listen(0, '127.0.0.1');
    try {
      await once(server, 'listening');
      const at = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
      const held = Array.from({ length: 4 }, () => fetch(at, { headers: { authorization: '127.0.0.1' } }));
      await until(async () => come === 4);
      expect((await fetch(at)).status).toBe(200);
      letGo();
      expect((await Promise.all(held)).map(({ status }) => status)).toEqual([200, 200, 200, 200]);
    } finally {
      letGo();
      server.close();
    }
  });
});

describe('places', () => {
  it('are given in order, refused at once where none is foreseen in time, free again whatever happens', async () => {
    const places = new Places(2, 60);
    const [one, two] = [await places.take(), await places.take()];
    const order: number[] = [];
    const third = places.take().then((free) => {
      order.push(3);
      return free;
    });
    const fourth = places.take().then((free) => {
      order.push(4);
      return free;
    });
    one();
    one();
    (await third)();
    (await fourth)();
    expect(order).toEqual([3, 4]);
    two();
    expect(places.idle).toBe(true);
    const held = [await places.take(), await places.take()];
    await expect(places.take()).rejects.toMatchObject({ status: 503, headers: { 'Retry-After': '1' } });
    for (const free of held) free();
    // After places that were held long, one is foreseen too late.
    for (let i = 0; i < 200; i++)
      await expect(
        Promise.all([places.take(), places.take()]).then((frees) => frees.forEach((free) => free())),
      ).resolves.toBeUndefined();
    expect(places.idle).toBe(true);
  });
});

describe('what is nested or open without end', () => {
  it('is refused before anybody reads it, and read beside the server where that takes long', async () => {
    let deep: unknown = { kind: 'null', left: { kind: 'column', path: ['id'] } };
    for (let i = 0; i < 3000; i++) deep = { kind: 'not', part: deep };
    const { body: state } = await builder.get(bench);
    const patch = (value: unknown) =>
      builder.send('PATCH', `${bench}/draft`, {
        revision: state.revision,
        label: 'Deep',
        patch: [{ op: 'replace', path: '/access/owners/well_owner/see/where', value }],
      });
    expect((await patch(deep)).status).toBe(400);
    const wide = {
      kind: 'all',
      parts: Array.from({ length: 150 }, () => ({
        kind: 'any',
        parts: Array.from({ length: 150 }, () => ({ kind: 'null', left: { kind: 'column', path: ['id'] } })),
      })),
    };
    const refused = await patch(wide);
    expect([refused.status, JSON.stringify(refused.body.faults)]).toEqual([422, expect.stringContaining('too long')]);
    // A comment of a megabyte that never ends: another is answered before it is read.
    const order: string[] = [];
    const script = builder
      .post(`${bench}/shape/script`, { text: `/*${'x'.repeat(1_000_000)}`, dialect: 'MariaDB', apply: false })
      .then((answer) => {
        order.push('script');
        return answer;
      });
    await until(async () => {
      await member.get('/portals/alder-fen/door');
      return order.push('door') >= 20;
    });
    expect((await script).status).toBe(422);
    expect(order.indexOf('script')).toBeGreaterThanOrEqual(20);
  });
});

describe('a file that no record holds', () => {
  it('counts against the quota of whoever sent it, and a write that was only tried holds none', async () => {
    expect(
      (
        await builder.post(`${bench}/shape/tables/wells/columns`, {
          column: { name: 'plan', type: 'file', required: false, unique: false, initial: null },
        })
      ).status,
    ).toBe(201);
    const send = () => {
      const form = new FormData();
      form.append('file', new Blob(['x']), 'x.txt');
      return builder.form(`${bench}/all/records/wells/files/plan`, form);
    };
    const { file } = (await send()).body as { file: string };
    const put = (trial: boolean, to = file) =>
      builder.send('PATCH', `${bench}/all/records/wells/1?trial=${trial}`, { changes: { plan: { from: null, to } } });
    const held = async () =>
      (
        await plain.query<{ gone: string | null }[]>('SELECT gone_at gone FROM shares_own.files WHERE id = ?', [file])
      )[0]!.gone === null;
    expect([(await put(true)).status, await held()]).toEqual([200, false]);
    expect([
      (await builder.send('PATCH', `${bench}/all/records/wells/1`, { changes: { plan: { from: 'stale', to: file } } }))
        .status,
      await held(),
    ]).toEqual([409, false]);
    expect([(await put(false)).status, await held()]).toEqual([200, true]);
    for (let i = 0; i < 60; i++) expect((await send()).status).toBe(201);
    const [full] = [await send()];
    expect([full.status, full.body.detail]).toEqual([429, expect.stringContaining('60 files that no record holds')]);
  });
});

describe('a server that stops', () => {
  it('answers what it has in hand on connections that end with it, takes nothing new, and is gone', async () => {
    const server = await startServer({
      database: inject('database'),
      ownSchema: 'shares_own',
      port: 0,
      webFolder: null,
    });
    const client = new Client(`http://127.0.0.1:${server.port}`);
    await client.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
    // One that waits in the database, held by a lock of ours.
    await plain.beginTransaction();
    await plain.query('SELECT * FROM shares_own.portals FOR UPDATE');
    const { revision } = (await client.get(bench)).body as { revision: number };
    const inHand = client.send('PATCH', `${bench}/draft`, {
      revision,
      label: 'Last',
      patch: [{ op: 'replace', path: '/portal/colour', value: '#123456' }],
    });
    await until(
      async () =>
        Number(
          (
            await plain.query<{ n: bigint }[]>(
              "SELECT COUNT(*) n FROM information_schema.PROCESSLIST WHERE DB = 'shares_own' AND INFO LIKE " +
                "'SELECT%portals%FOR UPDATE%'",
            )
          )[0]!.n,
        ) > 0,
    );
    const kept = await new Promise<{ send: () => Promise<number> }>((resolve) => {
      // A connection that is alive when the server begins to stop, with its request sent after that.
      const open = request({
        port: server.port,
        host: '127.0.0.1',
        path: '/api/portals/alder-fen/door',
        method: 'GET',
      });
      resolve({
        send: () =>
          new Promise((done) => {
            open
              .on('response', (res) => {
                res.resume();
                done(res.statusCode!);
              })
              .on('error', () => done(0));
            open.end();
          }),
      });
    });
    const closed = server.close();
    expect([503, 0]).toContain(await kept.send());
    await plain.commit();
    const answer = await inHand;
    expect([answer.status, answer.headers.get('connection')]).toEqual([200, 'close']);
    await closed;
    await expect(client.get(bench)).rejects.toThrow('ECONNREFUSED');
  });
});
