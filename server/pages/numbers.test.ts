import { describe, expect, it } from 'vitest';
import { demoPassword } from '../../demo/load';
import type { Client } from '../../test/server';
import { bySql, demo, groupsOf, people, portal, rows, seen, withNumbers } from './numbers.fixture';

withNumbers('numbers');

describe('charts and figures', () => {
  const check = async () => {
    for (const name of Object.keys(seen)) {
      expect(await groupsOf(name, 'states')).toEqual(await bySql(name, 'v.state | COUNT(*)'));
      // The list that they go with leaves cancelled visits out, and is narrowed further by whoever looks.
      expect(await groupsOf(name, 'years')).toEqual(
        await bySql(name, 'CAST(YEAR(v.planned_for) AS CHAR) | v.state | COUNT(*)', "v.state <> 'cancelled'"),
      );
      const narrowed = `?filter=${encodeURIComponent("planned_for >= '2025-01-01'")}&search=e`;
      const now =
        "v.state <> 'cancelled' AND v.planned_for >= '2025-01-01' AND (v.access_note LIKE '%e%' OR v.state LIKE '%e%')";
      expect(await groupsOf(name, 'years', narrowed)).toEqual(
        await bySql(name, 'CAST(YEAR(v.planned_for) AS CHAR) | v.state | COUNT(*)', now),
      );
      // A list is drawn as whoever looks wants it, over what it holds as it is narrowed.
      expect(await groupsOf(name, 'visits', `${narrowed}&draw=lines;count;;planned_for;month`)).toEqual(
        await bySql(name, "DATE_FORMAT(v.planned_for, '%Y-%m') | COUNT(*)", now),
      );
      const found = await people[name]!.get(`${portal}/pages/numbers/found/figure${narrowed}`);
      const listed = await people[name]!.get(`${portal}/pages/numbers/visits${narrowed}`);
      const [[count]] = (await rows(
        `SELECT COUNT(*) FROM visits v JOIN wells w ON w.id = v.well_id WHERE ${seen[name]} AND ${now}`,
      )) as [[unknown]];
      expect([found.body.taken.number, listed.body.total]).toEqual([Number(count), Number(count)]);
      const totals = await people[name]!.get(`${portal}/pages/numbers/visits/totals${narrowed}`);
      const [[sum]] = (await rows(
        `SELECT SUM(v.fee) FROM visits v JOIN wells w ON w.id = v.well_id WHERE ${seen[name]} AND ${now}`,
      )) as [[unknown]];
      // A sampler is shown no fee.
      const expected = name === 'mara.lindqvist' ? [] : [{ column: 'fee', number: String(sum), leftOut: 0 }];
      expect(totals.body.totals.map((each: { number: unknown }) => ({ ...each, number: String(each.number) }))).toEqual(
        expected,
      );
    }
    // What is looked for is looked for in the titles of what the list leads to as well.
    for (const name of Object.keys(seen)) {
      const number = await people[name]!.get(`${portal}/pages/numbers/coded-number/figure?search=AF-01`);
      const listed = await people[name]!.get(`${portal}/pages/numbers/coded?search=AF-01`);
      const [[count]] = (await rows(
        `SELECT COUNT(*) FROM visits v JOIN wells w ON w.id = v.well_id WHERE ${seen[name]} AND w.code LIKE '%AF-01%'`,
      )) as [[unknown]];
      expect([number.body.taken.number, listed.body.total]).toEqual([Number(count), Number(count)]);
    }
    expect(await groupsOf('desk', 'fees')).toEqual(
      await bySql('desk', "CONCAT(YEAR(v.planned_for), '-Q', QUARTER(v.planned_for)) | SUM(v.fee)"),
    );
  };

  it('say what SQL says, before and after others have changed records', async () => {
    await check();
    await rows("UPDATE visits SET state = 'cancelled', fee = fee + 1.25 WHERE id % 5 = 0");
    await check();
  });

  it('draw nothing of a list that it does not show', async () => {
    let drawn = 0;
    for (const [name, client] of Object.entries(people)) {
      const { pages } = (await client.get(`${portal}/me`)).body as { pages: { id: string; sections: any[] }[] };
      for (const { at, section } of pages.flatMap((page) =>
        page.sections
          .filter(({ kind, columns }) => kind === 'list' && columns.length > 0)
          .map((each) => ({ at: `${portal}/pages/${page.id}/${each.id}`, section: each })),
      )) {
        const paths = [...new Set([...section.columns, ...section.sheet].map(({ path }: { path: string }) => path))];
        const shown = new Map(paths.map((path) => [path, new Set<string>()]));
        for (let after: string | null = ''; after !== null;) {
          const asked = new URLSearchParams({ columns: paths.join(), size: '200', ...(after ? { after } : {}) });
          const { body } = await client.get(`${at}?${asked.toString()}`);
          for (const { values, masked } of body.records)
            // What is masked may stand in no group, not even as its mask.
            for (const path of paths) if (!masked.includes(path)) shown.get(path)!.add(String(values[path] ?? null));
          after = body.next;
        }
        for (const path of paths) {
          const { status, body } = await client.get(`${at}/chart?draw=${encodeURIComponent(`bars;count;;${path};`)}`);
          if (status === 400) continue;
          drawn++;
          const keys = (body.groups as { key: unknown[] }[]).map((group) => String(group.key[0]));
          expect([name, at, path, keys.filter((key) => key !== 'null' && !shown.get(path)!.has(key))]).toEqual([
            name,
            at,
            path,
            [],
          ]);
        }
      }
    }
    expect(drawn).toBeGreaterThan(20);
  });

  it('put small groups together, refuse what a person does not see, and too many groups', async () => {
    const merged = await groupsOf('desk', 'samplers');
    const each = await bySql('desk', 's.name | COUNT(*)');
    const total = (of: Record<string, string>) => Object.values(of).reduce((sum, count) => sum + Number(count), 0);
    expect(total(merged)).toBe(total(each));
    expect(Object.values(merged).every((count) => Number(count) >= 30)).toBe(true);
    const told = async (name: string) =>
      (await people[name]!.get(`${portal}/me`)).body.pages.find((page: { id: string }) => page.id === 'numbers')
        .sections;
    const fees = (sections: { id: string; open?: boolean; by?: unknown }[]) => sections.find(({ id }) => id === 'fees');
    // A sampler is shown no fee.
    expect(fees(await told('mara.lindqvist'))).toMatchObject({ open: false, column: null });
    const refused = await people['mara.lindqvist']!.get(`${portal}/pages/numbers/fees/chart`);
    expect(refused.status).toBe(400);
    const drawn = async (name: string, draw: string) => {
      const { status, body } = await people[name]!.get(`${portal}/pages/numbers/visits/chart?draw=${draw}`);
      return [status, status === 200 ? '' : body.detail];
    };
    expect((await drawn('desk', 'bars;sum;fee;state;'))[0]).toBe(200);
    expect((await drawn('mara.lindqvist', 'bars;count;;state;'))[0]).toBe(200);
    for (const draw of ['bars;sum;fee;state;', 'bars;count;;fee;', 'bars;count;;nothing;', 'bars;sum;state;state;'])
      expect((await drawn('mara.lindqvist', draw))[0]).toBe(400);
    const anew = 'This list is not drawn so. Choose what it is drawn by anew.';
    for (const draw of [
      '',
      'bars',
      'bars;count;fee;state;',
      'rings;count;;state;',
      'bars;count;;state;hour',
      '%25;;;;',
    ])
      expect(await drawn('desk', draw)).toEqual([400, anew]);
    await rows('UPDATE visits SET access_note = CONCAT("note ", id)');
    await rows(
      `INSERT INTO visits (well_id, sampler_id, asked_on, planned_for, state, access_note, fee, paid)
        SELECT 1, 1, '2025-01-01', '2025-01-02', 'planned', CONCAT('more ', seq), 1, 0 FROM seq_1_to_10000`,
    );
    const many = await people.desk!.get(`${portal}/pages/numbers/many/chart`);
    expect([many.status, many.body.detail]).toEqual([
      400,
      'This makes more than 5000 groups. Group by something coarser.',
    ]);
    await rows("DELETE FROM visits WHERE access_note LIKE 'more %'");
  });
});

describe('a list', () => {
  it('is taken out as it is seen, with its headings, by those who may', async () => {
    const [[count]] = (await rows("SELECT COUNT(*) FROM visits WHERE state <> 'cancelled' AND state = 'planned'")) as [
      [unknown],
    ];
    const filter = encodeURIComponent("state = 'planned'");
    const file = await people.desk!.get(`${portal}/pages/numbers/visits/file?format=csv&filter=${filter}`);
    const lines = (file.body as string).trim().split('\r\n');
    expect([lines[0], lines.length - 1]).toEqual(['Planned for,State,Access note', Number(count)]);
    expect((await people.desk!.get(`${portal}/pages/numbers/kept/file?format=csv`)).status).toBe(404);
    expect((await people['ines.brannock']!.get(`${portal}/pages/numbers/visits/file?format=csv`)).status).toBe(404);
    const may = async (name: string) =>
      (await people[name]!.get(`${portal}/me`)).body.pages
        .find((page: { id: string }) => page.id === 'numbers')
        .sections.flatMap(({ may }: { may?: string[] }) => (may ? [may] : []));
    expect(await may('desk')).toEqual([['create', 'export'], ['create'], [], ['create', 'export'], []]);
    expect(await may('ines.brannock')).toEqual([['create'], [], [], ['create'], []]);
  });
});

describe('a move', () => {
  it('is made by its own name, with what it asks for, and only where it can be', async () => {
    const mara = people['mara.lindqvist']!;
    const [[id]] = (await rows(
      `SELECT id FROM visits WHERE state = 'planned' AND seal_number IS NULL AND sampler_id =
        (SELECT id FROM samplers WHERE email = 'mara.lindqvist@example.org') LIMIT 1`,
    )) as [[unknown]];
    const move = (client: Client, name: string, changes = {}) =>
      client.post(`${portal}/records/visits/${String(id)}/moves/${name}`, { changes });
    const state = async () => (await rows(`SELECT state, seal_number FROM visits WHERE id = ${String(id)}`))[0];
    expect((await move(mara, 'sample')).body).toMatchObject({
      status: 422,
      fields: { seal_number: expect.any(String) },
    });
    expect((await move(mara, 'nothing')).status).toBe(404);
    expect((await move(people['ines.brannock']!, 'sample')).status).toBeGreaterThanOrEqual(403);
    expect((await move(mara, 'report')).status).toBeGreaterThanOrEqual(403);
    expect(await state()).toEqual(['planned', null]);
    const done = await move(mara, 'sample', { seal_number: { from: null, to: 'AF-1' } });
    expect([done.status, done.body.record?.values.state]).toEqual([200, 'sampled']);
    expect(await state()).toEqual(['sampled', 'AF-1']);
  });
});

describe('a state that is hidden', () => {
  it('is told by no answer to a move that somebody may not make', async () => {
    const courier = demo.client();
    await courier.post(`${portal}/sign-in`, { email: 'nell.quillfeather707@example.org', password: demoPassword });
    const { records } = (await courier.get(`${portal}/records/visits?size=1`)).body;
    const [{ id, values }] = records as [{ id: string; values: object }];
    expect(Object.keys(values)).not.toContain('state');
    const answers = [];
    for (const state of ['asked', 'planned', 'sampled', 'at lab', 'reported', 'cancelled']) {
      await rows(`UPDATE visits SET state = '${state}' WHERE id = ${Number(id)}`);
      for (const move of ['plan', 'sample', 'report', 'cancel'])
        answers.push((await courier.post(`${portal}/records/visits/${id}/moves/${move}`, {})).body.detail);
      for (const to of ['planned', 'reported', state])
        for (const from of [null, state, 'planned']) {
          const changes = { state: { from, to } };
          answers.push((await courier.send('PATCH', `${portal}/records/visits/${id}`, { changes })).body.detail);
        }
      expect((await rows(`SELECT state FROM visits WHERE id = ${Number(id)}`))[0]).toEqual([state]);
    }
    expect(new Set(answers)).toEqual(new Set(['You may not change this.']));
  });
});

describe('records that belong to one', () => {
  it('stand on its sheet for those who see them, and are made there pointing at it', async () => {
    const linkedOf = async (name: string) => {
      const { pages } = (await people[name]!.get(`${portal}/me`)).body;
      const page = pages.find(({ id }: { id: string }) => id === 'numbers');
      const { linked } = page.sections.find(({ id }: { id: string }) => id === 'kept');
      return linked as { relation: string; table: string; adds: string | null; columns: { path: string }[] }[];
    };
    const shown = async (name: string) =>
      (await linkedOf(name)).map(({ table, adds, columns }) => [table, adds, columns.map(({ path }) => path)]);
    expect(await shown('desk')).toEqual([['visits', 'well_id', ['planned_for', 'state', 'fee']]]);
    expect(await shown('ines.brannock')).toEqual([['visits', 'well_id', ['planned_for', 'state', 'fee']]]);
    // A sampler is shown no fee, there as everywhere.
    expect(await shown('mara.lindqvist')).toEqual([['visits', null, ['planned_for', 'state']]]);
    const [[well]] = (await rows(
      `SELECT well_id FROM visits v JOIN wells w ON w.id = v.well_id WHERE ${seen['mara.lindqvist']}
        GROUP BY well_id ORDER BY COUNT(*) DESC LIMIT 1`,
    )) as [[unknown]];
    for (const name of ['desk', 'mara.lindqvist']) {
      const { relation } = (await linkedOf(name))[0]!;
      const found = await people[name]!.get(`${portal}/records/wells/${String(well)}/related/${relation}`);
      const [[count]] = (await rows(
        `SELECT COUNT(*) FROM visits v JOIN wells w ON w.id = v.well_id WHERE v.well_id = ${String(well)}
          AND ${seen[name]}`,
      )) as [[unknown]];
      expect([found.status, found.body.total]).toEqual([200, Number(count)]);
    }
  });
});
