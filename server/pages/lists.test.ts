import { describe, expect, it } from 'vitest';
import { people, portal, rows, seen, withNumbers } from './numbers.fixture';

withNumbers('lists');

describe('the tabs of a list', () => {
  const narrowest: Record<string, string> = {
    all: 'TRUE',
    open: "v.state IN ('asked', 'planned')",
    dear: 'v.fee > 60',
    costs: 'v.fee > 0',
    mine: "v.sampler_id = (SELECT id FROM samplers WHERE email = 'mara.lindqvist@example.org')",
  };
  // A tab that asks the fee is told to nobody who is shown none.
  const theirs: Record<string, string[]> = {
    'ines.brannock': ['all', 'open', 'costs'],
    'mara.lindqvist': ['all', 'open', 'mine'],
    desk: ['all', 'open', 'dear', 'costs'],
  };
  const inSql = async (name: string, where: string) => {
    const [[count]] = (await rows(
      `SELECT COUNT(*) FROM visits v JOIN wells w ON w.id = v.well_id WHERE ${seen[name]} AND v.state <> 'cancelled'
        AND ${where}`,
    )) as [[unknown]];
    return Number(count);
  };
  const at = `${portal}/pages/numbers`;

  it("are told to those whom they are for, with counts as SQL has them; numbers go with their list's", async () => {
    for (const name of Object.keys(seen)) {
      const { pages } = (await people[name]!.get(`${portal}/me`)).body;
      const page = pages.find(({ id }: { id: string }) => id === 'numbers');
      const told = page.sections.find(({ id }: { id: string }) => id === 'visits').tabs as { id: string }[];
      expect(told.map(({ id }) => id)).toEqual(theirs[name]);
      const { counts } = (await people[name]!.get(`${at}/visits/counts`)).body as { counts: { tab: string }[] };
      const expected = [];
      for (const tab of theirs[name]!) expected.push({ tab, count: await inSql(name, narrowest[tab]!) });
      expect(counts).toEqual(expected);
      for (const view of theirs[name]!) {
        const narrowed = `?view=${view}&search=e`;
        const listed = (await people[name]!.get(`${at}/visits${narrowed}`)).body;
        const found = (await people[name]!.get(`${at}/found/figure${narrowed}`)).body;
        const where = `${narrowest[view]!} AND (v.access_note LIKE '%e%' OR v.state LIKE '%e%')`;
        const count = await inSql(name, where);
        expect([listed.total, found.taken.number]).toEqual([count, count]);
      }
      // Whoever asks for one that is another's gets what they begin with.
      for (const view of ['gone', ...Object.keys(narrowest).filter((each) => !theirs[name]!.includes(each))])
        expect((await people[name]!.get(`${at}/visits?view=${view}`)).body.total).toBe(await inSql(name, 'TRUE'));
    }
  });

  it('are not there, nor is their list, for somebody for whom none of them is', async () => {
    for (const name of Object.keys(seen)) {
      const [list, counts] = [await people[name]!.get(`${at}/apart`), await people[name]!.get(`${at}/apart/counts`)];
      const { pages } = (await people[name]!.get(`${portal}/me`)).body;
      const page = pages.find(({ id }: { id: string }) => id === 'numbers');
      const told = page.sections.find(({ id }: { id: string }) => id === 'apart');
      const isTheirs = name === 'desk';
      expect([list.status, told.columns.length > 0, told.tabs.length]).toEqual(
        isTheirs ? [200, true, 1] : [404, false, 0],
      );
      expect(counts.body.counts ?? []).toHaveLength(isTheirs ? 1 : 0);
      const number = page.sections.find(({ id }: { id: string }) => id === 'apart-number');
      expect(number.open).toBe(isTheirs);
    }
  });
});

describe('marks', () => {
  it('stand at the records of which SQL says so too, as far as what they ask is seen whole', async () => {
    for (const name of Object.keys(seen)) {
      const { body } = await people[name]!.get(`${portal}/pages/numbers/marked?size=200&sort=planned_for`);
      const marks = body.marks as string[][];
      const { pages } = (await people[name]!.get(`${portal}/me`)).body;
      const page = pages.find(({ id }: { id: string }) => id === 'numbers');
      const list = page.sections.find(({ id }: { id: string }) => id === 'marked');
      // What can't be decided by what they see is not told them either.
      const known = list.marks.map(({ id }: { id: string }) => id);
      expect(known.includes('dear')).toBe(name !== 'mara.lindqvist');
      const ids = (body.records as { id: string }[]).map(({ id }) => id);
      expect([marks.length, ids.length > 5]).toEqual([ids.length, true]);
      const found = await rows(
        `SELECT v.id, COALESCE(v.fee > 60 AND v.paid = FALSE, 0), w.parish <> 'Harrow End',
            COALESCE(v.sampler_id = (SELECT id FROM samplers WHERE email = 'mara.lindqvist@example.org'), 0)
          FROM visits v JOIN wells w ON w.id = v.well_id WHERE v.id IN (${ids.map(Number).join(', ')})`,
      );
      const isMara = name === 'mara.lindqvist';
      const expected = new Map(
        found.map(([id, dear, far, mine]) => [
          String(id),
          // A sampler is shown no fee, and owners are on no roster of samplers.
          [!isMara && Number(dear) && 'dear', isMara && Number(mine) && 'mine', Number(far) && 'far'].filter(Boolean),
        ]),
      );
      expect(marks).toEqual(ids.map((id) => expected.get(id)));
    }
    const some = new Set((await people.desk!.get(`${portal}/pages/numbers/marked?size=200`)).body.marks.flat());
    expect(some).toEqual(new Set(['dear', 'far']));
  });
});

describe('the columns of a list', () => {
  it('are those chosen of what it offers, as far as they are seen, and it is searched as before', async () => {
    const of = async (name: string, query: string) =>
      (await people[name]!.get(`${portal}/pages/numbers/visits${query}`)).body;
    const paths = (body: { records: { values: object }[] }) => Object.keys(body.records[0]!.values).sort();
    expect(paths(await of('desk', '?columns=fee,state'))).toEqual(['fee', 'state']);
    expect(paths(await of('mara.lindqvist', '?columns=state'))).toEqual(['state']);
    // One that is hidden from them reads the same as one that is not there at all.
    const told = await Promise.all(
      ['fee', 'nothing'].map((path) => people['mara.lindqvist']!.get(`${portal}/pages/numbers/visits?columns=${path}`)),
    );
    expect(told[0]!.body.detail).toBe(told[1]!.body.detail);
    expect(told.map(({ status }) => status)).toEqual([400, 400]);
    const refused = await people.desk!.get(`${portal}/pages/numbers/visits?columns=planned_by`);
    expect([refused.status, refused.body.detail]).toEqual([400, 'The list has no such column to show.']);
    const [plain, chosen] = [await of('desk', '?search=report'), await of('desk', '?search=report&columns=fee')];
    expect([plain.total > 0, chosen.total]).toEqual([true, plain.total]);
    const file = await people.desk!.get(`${portal}/pages/numbers/visits/file?format=csv&view=open&columns=fee,state`);
    const lines = (file.body as string).trim().split('\r\n');
    expect([lines[0], lines.length - 1]).toEqual(['Fee,State', (await of('desk', '?view=open')).total]);
  });
});
