import { Random } from '../../core/proof/random';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { freshSchema } from '../../test/tables';
import { isThorough, tries } from '../../test/thorough';
import { startServer, type RunningServer } from '../server';
import { Job } from '../store/models';
import type { JobState } from '../jobs/jobs';

let plain: Connection;
let server: RunningServer;
let base: string;
let builder: Client;
const portal = '/builder/portals/alder-fen';

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'jobs');
  await (await freshSchema(inject('database'), 'jobs_own')).end();
  const demo = await demoServer(inject('database'), 'jobs', 'jobs_own');
  server = demo.server;
  base = demo.base;
  builder = demo.client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  await plain.query('USE jobs');
});
afterAll(async () => {
  await server?.close();
  await plain?.end();
});

const send = async (bytes: string | Buffer, name = 'file.csv') => {
  const form = new FormData();
  form.append('file', new Blob([bytes as BlobPart]), name);
  return builder.form(`${portal}/files`, form);
};
const ended = async (job: JobState): Promise<JobState> => {
  for (let i = 0; i < 400; i++) {
    const { body } = await builder.get(`${portal}/jobs/${job.id}`);
    if (['done', 'failed', 'cancelled'].includes(body.state)) return body as JobState;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error('the job never ended');
};
const begin = async (body: object) => ended((await builder.post(`${portal}/jobs`, body)).body);
const rows = async (text: string) =>
  plain.query<Record<string, unknown>[]>({ sql: text, decimalAsNumber: false, dateStrings: true });

describe('files and jobs', () => {
  it('bring a weekly sheet: mapped once, looked at, applied, remembered', async () => {
    const [well] = await rows('SELECT code, depth_m, parish FROM wells ORDER BY id LIMIT 1');
    const csv =
      `Well code;Depth (m);parish;Owner\n${String(well!.code)};99,5;${String(well!.parish)};\n` +
      'NEW-1;7,2;Elsewhere;Nobody of that name\n';
    const read = await ended((await send(csv, 'Weekly sheet.csv')).body);
    expect(read.result).toMatchObject({
      rows: 2,
      name: 'Weekly sheet.csv',
      facts: { delimiter: ';', headers: ['Well code', 'Depth (m)', 'parish', 'Owner'] },
      columns: [{}, { type: 'text', ask: ['decimal comma'] }, {}, {}],
    });
    const { file } = read.result as { file: string };
    const { plan, remembered } = (await builder.get(`${portal}/files/${file}/plan/wells`)).body;
    expect([remembered, plan.columns.map((each: { column: string; by?: string }) => [each.column, each.by])]).toEqual([
      false,
      [
        ['code', undefined],
        ['depth_m', undefined],
        ['parish', undefined],
        ['owner_id', 'name'],
      ],
    ]);
    const mine = {
      ...plan,
      key: 'code',
      empty: 'keep',
      columns: [
        { header: 'Well code', column: 'code' },
        { header: 'Depth (m)', column: 'depth_m', notation: 'decimal comma' },
        ...plan.columns.slice(2),
      ],
    };
    const looked = await begin({ kind: 'look at an import', file, plan: mine });
    const { outcome, refusedFile } = looked.result as {
      outcome: { digest: string } & Record<string, unknown>;
      refusedFile: string;
    };
    expect(outcome).toMatchObject({
      added: 0,
      changed: 1,
      refused: 1,
      samples: {
        changed: [{ before: { depth_m: well!.depth_m }, after: { depth_m: '99.5' } }],
        refused: [{ line: 3, cells: [{ header: 'Owner', reason: 'No record of owners has this name.' }] }],
      },
    });
    const refused = await fetch(`${base}/api${portal}/files/${refusedFile}`, { headers: builder.headers() });
    expect([refused.headers.get('content-disposition'), (await refused.text()).split('\r\n').slice(0, 2)]).toEqual([
      'attachment; filename="Weekly sheet refused.csv"',
      [
        'Well code,Depth (m),parish,Owner,Why it was refused',
        'NEW-1,"7,2",Elsewhere,Nobody of that name,Owner: No record of owners has this name.',
      ],
    ]);
    const done = await begin({ kind: 'import', file, plan: mine, mode: 'without the refused', digest: outcome.digest });
    expect([
      done.state,
      (done.result as { outcome: { changed: number } }).outcome.changed,
      String((await rows(`SELECT depth_m FROM wells WHERE code = '${String(well!.code)}'`))[0]!.depth_m),
    ]).toEqual(['done', 1, '99.5']);
    expect((await builder.get(`${portal}/files/${file}/plan/wells`)).body).toMatchObject({
      remembered: true,
      plan: {
        key: 'code',
        empty: 'keep',
        columns: [{ column: 'code' }, { column: 'depth_m', notation: 'decimal comma' }, {}, {}],
      },
    });
    // The next file is written otherwise, its headings nearly the same; and one of another kind has no notation of its
    // own.
    for (const [text, name] of [
      ['WELL-CODE;Depth (M);Parish;owner\nAF-0001;99.5;Saltby;\n', 'next.csv'],
      ['[{"Well code": "AF-0001", "depth (m)": 99.5, "parish": "Saltby", "Owner": ""}]', 'other.json'],
    ] as const) {
      const other = (await ended((await send(text, name)).body)).result as { file: string };
      const again = (await builder.get(`${portal}/files/${other.file}/plan/wells`)).body as {
        remembered: boolean;
        plan: { columns: object[] };
      };
      expect([again.remembered, again.plan.columns.map((column) => Object.values(column).slice(1))]).toEqual([
        true,
        [['code'], ['depth_m'], ['parish'], ['owner_id', 'name']],
      ]);
      expect((await begin({ kind: 'look at an import', file: other.file, plan: again.plan })).result).toMatchObject({
        outcome: { refused: 0 },
      });
    }
    const stale = await begin({
      kind: 'import',
      file,
      plan: mine,
      mode: 'without the refused',
      digest: outcome.digest,
    });
    expect([stale.state, (stale.result as { problem: { type: string } }).problem.type]).toEqual([
      'failed',
      'urn:stone-porch:problem:import-changed',
    ]);
  });

  it('make a table, and say what is wrong with a file or a plan', async () => {
    const read = await ended(
      (await send('[{"code": "A", "n": 12345678901234567890}, {"code": "B"}]', 'things.json')).body,
    );
    const { file, columns } = read.result as { file: string; columns: Record<string, unknown>[] };
    const plan = {
      name: 'things',
      columns: columns.map(({ samples: _samples, doubts: _doubts, ask: _ask, could: _could, ...column }) => column),
    };
    const tables = async () =>
      ((await builder.get(portal)).body.catalogue.tables as { name: string }[]).map(({ name }) => name);
    expect(await tables()).not.toContain('things');
    expect((await begin({ kind: 'table from a file', file, plan })).result).toEqual({ rows: 2, table: 'things' });
    // It is there at once, however lately the tables were looked through.
    expect(await tables()).toContain('things');
    const people = await ended((await send('name,mail\nAda,ada@example.org\n', 'people.csv')).body);
    const found = people.result as { file: string; columns: Record<string, unknown>[] };
    const noted = {
      name: 'outside_people',
      columns: found.columns.map(
        ({ samples: _samples, doubts: _doubts, ask: _ask, could: _could, ...column }) => column,
      ),
    };
    expect((await begin({ kind: 'table from a file', file: found.file, plan: noted })).result).toEqual({
      rows: 1,
      table: 'outside_people',
    });
    expect((await builder.get(portal)).body.draft.tables.outside_people).toEqual({
      columns: { mail: { kind: 'e-mail' } },
    });
    expect(await rows('SELECT code, n FROM things')).toEqual([
      { code: 'A', n: '12345678901234567890' },
      { code: 'B', n: null },
    ]);
    expect((await begin({ kind: 'table from a file', file, plan })).result).toMatchObject({
      problem: { status: 422, fields: { name: expect.stringContaining('already') } },
    });
    expect((await ended((await send(Buffer.from('89504e470d0a1a0a', 'hex'), 'table.csv')).body)).result).toMatchObject({
      problem: { type: 'urn:stone-porch:problem:file', detail: 'This is no table: it is a picture (PNG).' },
    });
    expect((await builder.post(`${portal}/jobs`, { kind: 'import', file, plan })).status).toBe(400);
    expect((await builder.post(`${portal}/jobs`, { kind: 'something', file, plan })).status).toBe(400);
    expect((await builder.get(`${portal}/files/${'0'.repeat(32)}`)).status).toBe(404);
    expect((await demoFree().post(`${portal}/jobs`, { kind: 'import' })).status).toBe(401);
  });

  it(
    'can be cancelled at any moment: one that is told to stop leaves nothing, one that was saved already is ' +
      'there whole',
    async () => {
      const sizes = [20, 2_000, 20_000, tries(60_000, 150_000)];
      // Whenever the cancel comes, early or late, its answer and what is there afterwards agree.
      for (const [i, wait] of (isThorough ? [0, 0, 5, 20, 60, 150, 300, 600] : [0, 5, 60, 300]).entries()) {
        const size = sizes[i % sizes.length]!;
        const csv =
          'n,text\n' +
          `${Array.from({ length: size }, (_, row) => `${row},some text that takes a while ${row}`).join('\n')}\n`;
        const { file, columns } = (await ended((await send(csv, 'long.csv')).body)).result as {
          file: string;
          columns: Record<string, unknown>[];
        };
        const plan = {
          name: `long_${i}`,
          columns: columns.map(({ samples: _samples, doubts: _doubts, ask: _ask, could: _could, ...column }) => column),
        };
        const job = (await builder.post(`${portal}/jobs`, { kind: 'table from a file', file, plan })).body as JobState;
        await new Promise((resolve) => setTimeout(resolve, wait));
        const { stops } = (await builder.post(`${portal}/jobs/${job.id}/cancel`)).body as { stops: boolean };
        expect((await ended(job)).state).toBe(stops ? 'cancelled' : 'done');
        const there = await rows(`SHOW TABLES LIKE 'long\\_${i}'`);
        expect(there.length).toBe(stops ? 0 : 1);
        if (!stops) expect((await rows(`SELECT COUNT(*) AS n FROM long_${i}`))[0]!.n).toBe(size);
        expect(await rows("SHOW TABLES LIKE '\\_porch%'")).toEqual([]);
      }
      // The same file again and again, and the cancel at random moments: now and then in the very one of saving.
      const moments = Number(process.env.STONE_PORCH_CANCELS ?? tries(7, 12));
      const csv = `n,text\n${Array.from({ length: 1500 }, (_, row) => `${row},text ${row}`).join('\n')}\n`;
      const { file, columns } = (await ended((await send(csv, 'short.csv')).body)).result as {
        file: string;
        columns: Record<string, unknown>[];
      };
      const kept = columns.map(({ samples: _s, doubts: _d, ask: _a, could: _c, ...column }) => column);
      const random = new Random(moments);
      let longest = 100;
      const outcomes = { stopped: 0, done: 0 };
      for (let i = 0; i < moments; i++) {
        const plan = { name: `moment_${i}`, columns: kept };
        const began = performance.now();
        const job = (await builder.post(`${portal}/jobs`, { kind: 'table from a file', file, plan })).body as JobState;
        await new Promise((resolve) => setTimeout(resolve, random.next() * longest));
        const { stops } = (await builder.post(`${portal}/jobs/${job.id}/cancel`)).body as { stops: boolean };
        expect((await ended(job)).state).toBe(stops ? 'cancelled' : 'done');
        // About as long as the work itself takes, so that as many come before its end as after.
        if (!stops) longest = Math.max(40, (longest + (performance.now() - began)) / 2);
        else longest *= 1.1;
        outcomes[stops ? 'stopped' : 'done']++;
        expect((await rows(`SHOW TABLES LIKE 'moment\\_${i}'`)).length).toBe(stops ? 0 : 1);
        if (!stops) expect((await rows(`SELECT COUNT(*) AS n FROM moment_${i}`))[0]!.n).toBe(1500);
        expect(await rows("SHOW TABLES LIKE '\\_porch%'")).toEqual([]);
      }
      if (moments >= 100) expect(Math.min(outcomes.stopped, outcomes.done)).toBeGreaterThan(moments / 10);
      // One that runs is stopped for sure, one that is over never.
      const waits = await Job.create({
        portalId: 1,
        ownerKind: 'builder',
        ownerId: null,
        kind: 'none',
        input: '{}',
        result: null,
        done: 0,
        total: null,
        cancelWanted: false,
        worker: 'another',
        beatAt: new Date(),
        madeAt: new Date(),
        state: 'running',
      });
      expect((await builder.post(`${portal}/jobs/${waits.id}/cancel`)).body).toEqual({ stops: true });
      await waits.update({ state: 'done' });
      expect((await builder.post(`${portal}/jobs/${waits.id}/cancel`)).body).toEqual({ stops: false });
    },
  );

  it('are gone on with by the next server when theirs was killed, and done once', async () => {
    const csv = `code,remark\n${Array.from({ length: 60_000 }, (_, i) => `K-${i},killed ${i}`).join('\n')}\n`;
    await plain.query(
      'CREATE TABLE killed (id INT AUTO_INCREMENT PRIMARY KEY, code VARCHAR(20) UNIQUE, remark VARCHAR(40))',
    );
    const { file } = (await ended((await send(csv, 'killed.csv')).body)).result as { file: string };
    const plan = {
      table: 'killed',
      key: null,
      unknown: 'add',
      known: 'change',
      empty: 'clear',
      columns: [
        { header: 'code', column: 'code' },
        { header: 'remark', column: 'remark' },
      ],
    };
    const { outcome } = (await begin({ kind: 'look at an import', file, plan })).result as {
      outcome: { digest: string };
    };
    const job = (
      await builder.post(`${portal}/jobs`, {
        kind: 'import',
        file,
        plan,
        mode: 'all or nothing',
        digest: outcome.digest,
      })
    ).body as JobState;
    const before = await Job.findByPk(job.id);
    // The thread ends in the middle, as with a server that is killed: its connection breaks off.
    while ((await before!.reload()).done === 0 && before!.state !== 'done')
      await new Promise((resolve) => setTimeout(resolve, 5));
    await server.services.jobs.close();
    expect((await before!.reload()).state).toBe('running');
    expect((await rows('SELECT COUNT(*) n FROM killed'))[0]!.n).toBe(0);
    const gone = new Date(Date.now() - 60_000);
    await before!.update({ beatAt: gone });
    // One that was left in the very moment of saving is not done again.
    const saving = await Job.create({
      portalId: before!.portalId,
      ownerKind: 'builder',
      ownerId: null,
      kind: 'import',
      input: before!.input,
      result: null,
      done: 0,
      total: null,
      cancelWanted: false,
      madeAt: new Date(),
      state: 'saving',
      worker: 'gone',
      beatAt: gone,
    });
    const old = await Job.create({
      portalId: before!.portalId,
      ownerKind: 'builder',
      ownerId: null,
      kind: 'import',
      input: '{}',
      result: '{}',
      done: 0,
      total: null,
      cancelWanted: false,
      madeAt: new Date(Date.now() - 25 * 3600 * 1000),
      state: 'done',
      worker: null,
      beatAt: null,
    });
    const next = await startServer({ database: inject('database'), ownSchema: 'jobs_own', port: 0, webFolder: null });
    try {
      expect(await Job.findByPk(old.id)).toBeNull();
      expect((await ended(job)).result).toMatchObject({ outcome: { added: 60_000, refused: 0 } });
      expect((await ended({ id: saving.id } as JobState)).result).toMatchObject({
        problem: { type: 'urn:stone-porch:problem:unsure' },
      });
      expect((await rows('SELECT COUNT(*) n FROM killed'))[0]!.n).toBe(60_000);
    } finally {
      await next.close();
    }
  });
});

const demoFree = () => new (builder.constructor as new (base: string) => Client)(base);
